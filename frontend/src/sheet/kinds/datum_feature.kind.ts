import DatumSentence from '../sentences/Datum.svelte';
import { work } from '../work.svelte';
import { dragged, hung, nudged } from './hung';
import type { Kind } from './kind';

const kind: Kind = {
  kind: 'datum_feature',
  noun: ['datum', 'datums'],
  sentence: DatumSentence,
  counts: 'sign',
  carries: true,
  rank: 1.1,
  says: () => '',
  offers(id) {
    const own = work.annotation(id);
    if (own?.kind !== 'datum_feature') return [];
    return [
      {
        name: own.filled === false ? 'Fill its triangle' : 'Leave its triangle open',
        run: () => work.setAnnotations([id], { filled: own.filled === false }),
      },
      ...hung(id),
      { name: 'Remove', run: () => work.remove([id]) },
    ];
  },
  drag: dragged,
  moved: nudged,
};

export default kind;
