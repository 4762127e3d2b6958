import { selected } from '../selection.svelte';
import TableSentence from '../sentences/Table.svelte';
import { work } from '../work.svelte';
import { dragged, nudged } from './hung';
import type { Kind } from './kind';

const kind: Kind = {
  kind: 'table',
  noun: ['table', 'tables'],
  sentence: TableSentence,
  counts: 'sign',
  rank: 1.1,
  filled: true,
  spoken: 'table',
  says: () => 'table',
  offers(id) {
    const own = work.annotation(id);
    const tied = own?.kind === 'table' && !!own.tied;
    return [
      ...(own?.kind === 'table' && own.follows && own.follows !== 'parts'
        ? []
        : [{ name: 'Edit the cells', run: () => (work.table = id) }]),
      ...(tied
        ? [{ name: 'Free it from the frame', run: () => work.setAnnotations([id], { tied: '' }) }]
        : []),
      { name: 'Remove', run: () => work.remove([id]) },
    ];
  },
  drag(target, from) {
    const own = work.annotation(target.owner);
    if (own?.kind === 'table' && own.tied) {
      // it stands where it is tied
      selected.elements(target.owner);
      return { cursor: 'default', move() {}, up() {} };
    }
    return dragged(target, from);
  },
  moved: nudged,
};

export default kind;
