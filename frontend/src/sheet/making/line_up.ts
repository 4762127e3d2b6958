import { interaction } from '../interaction.svelte';
import type { Target } from '../board/hits';
import { work } from '../work.svelte';
import type { Making } from './making';

/** A view lined up with another: a place of it, then one of the other. */
export function liningUp(own: Target): Making {
  const from = interaction.caught(own, [own.x, own.y]);
  let how: 'level' | 'upright' | null = null;
  let other: Target | undefined;
  return {
    words: () => 'click a place of another view with which it is to be in line',
    act() {
      if (!other) return null;
      const there = interaction.caught(other, [other.x, other.y]);
      return {
        act: 'line_up',
        view: own.view,
        ref: from.ref,
        at: from.at,
        other: other.view,
        other_ref: there.ref,
        other_at: there.at,
        how,
      };
    },
    click() {
      const t = interaction.target;
      if (!t?.ref || t.view === own.view) {
        interaction.words = 'click a place of another view';
        return false;
      }
      other = t;
      return true;
    },
    catches: () => true,
    among: () => work.views.map((v) => v.id).filter((id) => id !== own.view),
    others: () => [
      { name: 'level with it', run: () => (how = 'level') },
      { name: 'above or below it', run: () => (how = 'upright') },
    ],
  };
}
