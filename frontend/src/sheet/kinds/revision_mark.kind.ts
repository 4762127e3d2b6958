import MarkSentence from '../sentences/RevisionMark.svelte';
import { work } from '../work.svelte';
import { dragged, nudged } from './hung';
import type { Kind } from './kind';

const kind: Kind = {
  kind: 'revision_mark',
  noun: ['revision mark', 'revision marks'],
  sentence: MarkSentence,
  counts: 'sign',
  rank: 1.1,
  says: () => 'mark of a revision',
  offers(id) {
    const own = work.annotation(id);
    if (own?.kind !== 'revision_mark') return [];
    const cloud = own.form === 'cloud';
    return [
      {
        name: cloud ? 'Triangle alone' : 'Cloud about what changed',
        run: () => work.setAnnotations([id], { form: cloud ? 'triangle' : 'cloud' }),
      },
      {
        name: `Remove all marks of ${own.letter}`,
        run: () => work.act({ act: 'remove_marks', letter: own.letter }),
      },
      { name: 'Remove', run: () => work.remove([id]) },
    ];
  },
  drag: dragged,
  moved: nudged,
};

export default kind;
