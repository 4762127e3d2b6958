import type { Point } from '../../api/client';
import { asking } from '../asking.svelte';
import { work } from '../work.svelte';
import type { Making } from './making';

/** A stretch taken out of a view: from where the hand presses to where it lets go, or between two clicks. */
export function breaking(view = ''): Making {
  let own = view;
  let first: Point | null = null;
  const begin = () => {
    own = asking.viewFor(own);
    if (!own) return;
    first = work.up(asking.pointer);
  };
  const far = () => {
    const [x, y] = work.up(asking.pointer);
    return !!first && Math.hypot(x - first[0], y - first[1]) > 3;
  };
  return {
    words: () =>
      first ? 'to where it is to be taken out' : 'press where the stretch begins and pull to its end',
    act: () =>
      first && far()
        ? { act: 'break_view', view: own, first, second: work.up(asking.pointer), gap: 4, form: 'auto' }
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
        move: () => asking.follow(),
        up: () => (far() ? asking.finish() : undefined),
        cancel: () => asking.stop(),
      };
    },
    view: () => own,
    hides: () => (first ? [own, `${own}-hatch`] : []),
    back() {
      if (!first) return false;
      first = null;
      return true;
    },
  };
}
