import { interaction } from '../interaction.svelte';
import { rewriting } from '../making/hang.svelte';
import FrameSentence from '../sentences/Frame.svelte';
import { work } from '../work.svelte';
import { dragged, hung, nudged } from './hung';
import type { Kind } from './kind';

const kind: Kind = {
  kind: 'tolerance_frame',
  noun: ['tolerance frame', 'tolerance frames'],
  sentence: FrameSentence,
  counts: 'sign',
  carries: true,
  rank: 1.1,
  spoken: 'tolerance frame',
  says: (own) => (own.kind === 'tolerance_frame' ? own.frame.rows[0].characteristic : ''),
  offers(id) {
    const own = work.annotation(id);
    if (own?.kind !== 'tolerance_frame') return [];
    return [
      { name: 'Write it anew', run: () => interaction.make(rewriting(id, 'frame', '')) },
      ...(own.foot
        ? [
            {
              name: own.derived ? 'Of the surface itself' : 'Of the axis of this surface',
              run: () => work.act({ act: 'change_frame', id, text: '', derived: !own.derived }),
            },
          ]
        : []),
      { name: 'Make its sizes exact', run: () => work.act({ act: 'make_exact', id }) },
      ...hung(id),
      {
        name: own.pinned ? 'Let tidying move it' : 'Pin it where it is',
        run: () => work.setAnnotations([id], { pinned: !own.pinned }),
      },
      { name: 'Remove', run: () => work.remove([id]) },
    ];
  },
  drag: dragged,
  moved: nudged,
};

export default kind;
