import { interaction } from '../interaction.svelte';
import type { Target } from '../board/hits';
import { work } from '../work.svelte';
import type { Making } from './making';

/** The note of a hole, set down where the hand clicks. */
export function notingHole(target?: Target): Making {
  let hole = target;
  return {
    words: () => 'click a hole',
    act: () =>
      hole
        ? { act: 'state_hole', view: hole.view, ref: hole.ref, pointer: work.up(interaction.pointer) }
        : null,
    click() {
      if (hole) return true;
      const t = interaction.target;
      if (t?.kind === 'line' && t.ref) hole = t;
      else interaction.words = 'click the circle or the side of a hole';
      return false;
    },
    back() {
      if (!hole || target) return false;
      hole = undefined;
      return true;
    },
    catches: () => !hole,
  };
}
