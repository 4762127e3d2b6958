import { interaction } from '../interaction.svelte';
import type { Target } from '../board/hits';
import { work } from '../work.svelte';
import type { Making } from './making';
import { Outlining } from './outlining';

/** A detail: an outline on a view, then the place where what it holds is set down, larger. */
export function enlarging(view = '', target?: Target): Making {
  const outline = new Outlining(view, target);
  return {
    words: () =>
      outline.begun
        ? 'pull it as wide as it is to be'
        : 'press in the middle of the place and pull a ring round it',
    act: () =>
      outline.begun
        ? {
            act: 'enlarge',
            view: outline.view,
            outline: outline.drawn(),
            to: work.up(interaction.pointer),
            growing: !outline.ready,
          }
        : null,
    click: () => !outline.click(),
    drag: () => outline.drag(() => {}),
    back: () => outline.back(),
    catches: () => !outline.begun,
    others: () => outline.forms,
  };
}
