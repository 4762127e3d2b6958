import { interaction } from '../interaction.svelte';
import { leading, rewriting } from '../making/hang.svelte';
import NoteSentence from '../sentences/Note.svelte';
import { work } from '../work.svelte';
import { dragged, nudged } from './hung';
import type { Kind, Offer } from './kind';

const kind: Kind = {
  kind: 'text_note',
  noun: ['note', 'notes'],
  sentence: NoteSentence,
  counts: 'sign',
  carries: true,
  rank: 1.1,
  spoken: 'note',
  says: () => 'note',
  offers(id) {
    const own = work.annotation(id);
    if (own?.kind !== 'text_note') return [];
    const leader: Offer[] = own.foot
      ? [
          { name: 'One more leader, or one less', run: () => interaction.make(leading(id)) },
          {
            name: own.jogged === false ? 'Leaders with a level piece' : 'Leaders straight to the text',
            run: () => work.setAnnotations([id], { jogged: own.jogged === false }),
          },
        ]
      : [];
    return [
      { name: 'Write it anew', run: () => interaction.make(rewriting(id, 'note', own.text)) },
      ...leader,
      {
        name: own.heading ? 'No heading' : 'First line as a heading',
        run: () => work.setAnnotations([id], { heading: !own.heading }),
      },
      { name: 'Remove', run: () => work.remove([id]) },
    ];
  },
  drag: dragged,
  moved: nudged,
};

export default kind;
