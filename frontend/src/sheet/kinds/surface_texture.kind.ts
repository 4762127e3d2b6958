import { interaction } from '../interaction.svelte';
import { rewriting } from '../making/hang.svelte';
import TextureSentence from '../sentences/Texture.svelte';
import { work } from '../work.svelte';
import { dragged, nudged } from './hung';
import type { Kind } from './kind';

/** Texture signs that are changed together. */
export const RA = ['Ra 0.8', 'Ra 1.6', 'Ra 3.2', 'Ra 6.3', 'Ra 12.5'] as const;

const kind: Kind = {
  kind: 'surface_texture',
  noun: ['texture', 'textures'],
  sentence: TextureSentence,
  counts: 'sign',
  rank: 1.1,
  spoken: 'texture',
  says: () => '',
  several: (ids) =>
    RA.map((text) => ({ name: `All ${text}`, run: () => work.act({ act: 'change_texture', ids, text }) })),
  offers(id) {
    const own = work.annotation(id);
    if (own?.kind !== 'surface_texture') return [];
    const text = work.elements.get(id)?.words ?? '';
    return [
      { name: 'Write it anew', run: () => interaction.make(rewriting(id, 'texture', text)) },
      {
        name: own.seated ? 'Lead it there' : 'Seat it on the outline',
        run: () => work.setAnnotations([id], { seated: !own.seated }),
      },
      { name: 'Remove', run: () => work.remove([id]) },
    ];
  },
  drag: dragged,
  moved: nudged,
};

export default kind;
