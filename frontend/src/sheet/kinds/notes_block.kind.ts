import { interaction } from '../interaction.svelte';
import { flagging, linesOf } from '../making/hang.svelte';
import NotesSentence from '../sentences/Notes.svelte';
import { work } from '../work.svelte';
import { dragged, nudged } from './hung';
import type { Kind } from './kind';

const kind: Kind = {
  kind: 'notes_block',
  noun: ['block of notes', 'blocks of notes'],
  sentence: NotesSentence,
  counts: 'sign',
  rank: 1.1,
  says: () => '',
  offers(id) {
    const own = work.annotation(id);
    if (own?.kind !== 'notes_block') return [];
    return [
      {
        name: 'Write them anew',
        run: () => interaction.make(linesOf('notes', id, own.notes.map((n) => n.text).join('\n'))),
      },
      ...own.notes.map((n, k) => ({
        name: `Flag for ${k + 1}`,
        run: () => interaction.make(flagging(id, n.id)),
      })),
      { name: 'Remove', run: () => work.remove([id]) },
    ];
  },
  drag: dragged,
  moved: nudged,
};

export default kind;
