import { interaction } from '../interaction.svelte';
import type { Target } from '../board/hits';
import { work } from '../work.svelte';
import type { Making } from './making';

/** An auxiliary view, square onto an edge or face that is pointed at first. */
export function lookingSquare(target?: Target): Making {
  let onto = target;
  let partial: boolean | null = null;
  return {
    words: () => 'click a slanted edge that is to be seen in true size',
    act: () =>
      onto
        ? { act: 'look_square', view: onto.view, ref: onto.ref, to: work.up(interaction.pointer), partial }
        : null,
    click() {
      if (onto) return true;
      const t = interaction.target;
      if (t?.kind === 'line' && t.ref) onto = t;
      else interaction.words = 'click a straight edge';
      return false;
    },
    back() {
      if (!onto || target) return false;
      onto = undefined;
      return true;
    },
    catches: () => !onto,
    others: () =>
      onto
        ? [
            { name: 'all of it', run: () => ((partial = false), interaction.follow()) },
            { name: 'the slanted face alone', run: () => ((partial = true), interaction.follow()) },
          ]
        : [],
  };
}
