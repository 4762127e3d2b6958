import type { components } from '../../api/schema';
import { interaction } from '../interaction.svelte';
import { work } from '../work.svelte';
import type { Making } from './making';

export type Loose = components['schemas']['LooseJson'];

/** Something that is loose hung on what is clicked: one place after another, as many as are gone. */
export function seating(loose: Loose): Making {
  const chosen: string[] = [];
  const refs = (more: string[]) => Object.fromEntries(loose.gone.map((gone, i) => [gone, more[i]]));
  return {
    words: () =>
      loose.gone.length > 1
        ? `click what ${loose.words} is to hang on: ${chosen.length + 1} of ${loose.gone.length}`
        : `click what ${loose.words} is to hang on`,
    act() {
      const here = interaction.target?.ref;
      const all = chosen.length === loose.gone.length ? chosen : [...chosen, ...(here ? [here] : [])];
      if (all.length < loose.gone.length) return null;
      return { act: 'seat_anew', id: loose.id, refs: refs(all), alike: false };
    },
    click() {
      const ref = interaction.target?.ref;
      if (!ref) interaction.words = 'click an edge, a circle or a corner of a view';
      else if (chosen.length < loose.gone.length) chosen.push(ref);
      return !!ref && chosen.length === loose.gone.length;
    },
    back: () => chosen.pop() !== undefined,
    hides: () => [loose.id],
    catches: () => true,
    among: () => work.views.map((v) => v.id),
  };
}
