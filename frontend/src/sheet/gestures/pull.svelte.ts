import { asking } from '../asking.svelte';
import type { Target } from '../hits';
import { meantAlone, pullable } from '../pointing';
import type { Gesture } from './gesture';

const DWELL = 180;

/** Pulling a size out of geometry: a second piece is caught where the pointer comes to rest on it; of two points a third
 * piece, straight, is what their distance is measured along. */
export function gestureOfPull(first: Target): Gesture {
  let resting = 0;
  let over = false;
  let picks = $state.raw<Target[]>([first]);

  const along = (t: Target) =>
    picks.length > 1 &&
    picks.slice(0, 2).every((p) => p.kind === 'point') &&
    (t.shape === 'straight' || t.shape === 'outline');

  function caught(second: Target) {
    picks = along(second) ? [...picks.slice(0, 2), second] : [first, second];
    asking.ask(asking.pullAct(picks, ''));
  }

  return {
    cursor: 'crosshair',
    get picks() {
      return picks;
    },
    move() {
      const second = asking.hover.find(
        (t) => pullable(t) && t.view === first.view && !(t.ref === first.ref && t.at === first.at),
      );
      clearTimeout(resting);
      const [x, y] = asking.pointer;
      // a frame is let pass first, so that movements that a busy machine has not told of yet count
      if (second)
        resting = window.setTimeout(
          () =>
            requestAnimationFrame(() =>
              setTimeout(() => {
                if (!over && asking.pointer[0] === x && asking.pointer[1] === y) caught(second);
              }),
            ),
          DWELL,
        );
      if (picks.length > 1 || meantAlone(first)) asking.ask(asking.pullAct(picks, ''));
    },
    async up() {
      over = true;
      clearTimeout(resting);
      if (picks.length === 1 && !meantAlone(first)) return asking.stop();
      asking.doing = { kind: 'placing', picks, wish: '' };
      await asking.finish();
    },
    cancel() {
      over = true;
      clearTimeout(resting);
      asking.stop();
    },
  };
}
