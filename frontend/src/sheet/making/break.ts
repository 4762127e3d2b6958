import type { Point } from '../../api/client';
import { interaction } from '../interaction.svelte';
import { drawnOf } from '../parts_of_views';
import { work } from '../work.svelte';
import type { Making } from './making';

/** All stretches of a view without a feature taken out; with the larger scale that becomes possible, where one does. */
export function breakingWhereFree(view: string): Making {
  let rescaled = false;
  return {
    words: () => '',
    act: () => ({ act: 'break_view', view, gap: 4, form: 'auto', rescaled }),
    click: () => true,
    view: () => view,
    hides: () => drawnOf(view),
    others: () =>
      interaction.others.slice(0, 1).map((name) => ({
        name: rescaled ? 'at the scale of now' : name,
        run: () => {
          rescaled = !rescaled;
          void interaction.follow();
        },
      })),
  };
}

/** A stretch taken out of a view: from where the hand presses to where it lets go, or between two clicks. */
export function breaking(view = ''): Making {
  let own = view;
  let first: Point | null = null;
  const begin = () => {
    own = interaction.viewFor(own);
    if (!own) return;
    first = work.up(interaction.pointer);
  };
  const far = () => {
    const [x, y] = work.up(interaction.pointer);
    return !!first && Math.hypot(x - first[0], y - first[1]) > 3;
  };
  return {
    words: () =>
      first ? 'to where it is to be taken out' : 'press where the stretch begins and pull to its end',
    act: () =>
      first && far()
        ? { act: 'break_view', view: own, first, second: work.up(interaction.pointer), gap: 4, form: 'auto' }
        : null,
    click() {
      if (first) return far();
      begin();
      return false;
    },
    drag() {
      if (first) return null;
      begin();
      if (!first) return null;
      return {
        cursor: 'crosshair',
        move: () => interaction.follow(),
        up: () => (far() ? interaction.finish() : undefined),
        cancel: () => interaction.stop(),
      };
    },
    view: () => own,
    hides: () => (first ? drawnOf(own) : []),
    back() {
      if (!first) return false;
      first = null;
      return true;
    },
  };
}
