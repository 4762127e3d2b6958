import { work } from '../work.svelte';
import { centre } from './centre';

export default centre({
  kind: 'centre_mark',
  noun: ['centre mark', 'centre marks'],
  counts: 'mark',
  caught: (own) => (own.kind === 'centre_mark' ? { ref: own.ref, at: 'centre' } : undefined),
  several(ids) {
    const marks = ids.flatMap((id) => {
      const found = work.annotation(id);
      return found?.kind === 'centre_mark' ? [found] : [];
    });
    if (marks.length < 3) return [];
    const act = { act: 'pitch_circles' as const, view: marks[0].on, refs: marks.map((m) => m.ref) };
    return [{ name: 'Pitch circle through them', run: () => work.act(act) }];
  },
});
