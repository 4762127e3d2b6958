import { interaction } from '../interaction.svelte';
import type { Target } from '../board/hits';
import { isPitch, meantAlone, pullable } from '../board/pointing';
import type { Gesture } from './gesture';

const DWELL = 180;

/** Pulling a size out of geometry: a second piece is caught where the pointer comes to rest on it; of two points a third
 * piece, straight, is what their distance is measured along; of two circles a pitch circle, about which their angle is. */
export function gestureOfPull(first: Target): Gesture {
  let resting = 0;
  let over = false;
  let picks = $state.raw<Target[]>([first]);

  const along = (t: Target) =>
    picks.length > 1 &&
    (isPitch(t) ||
      (picks.slice(0, 2).every((p) => p.kind === 'point') &&
        (t.shape === 'straight' || t.shape === 'outline')));

  function caught(second: Target) {
    picks = along(second) ? [...picks.slice(0, 2), second] : [first, second];
    interaction.ask(interaction.pullAct(picks, ''));
  }

  return {
    cursor: 'crosshair',
    get picks() {
      return picks;
    },
    move() {
      const second = interaction.hover.find(
        (t) => pullable(t) && t.view === first.view && !(t.ref === first.ref && t.at === first.at),
      );
      clearTimeout(resting);
      const [x, y] = interaction.pointer;
      // a frame is let pass first, so that movements that a busy machine has not told of yet count
      if (second)
        resting = window.setTimeout(
          () =>
            requestAnimationFrame(() =>
              setTimeout(() => {
                if (!over && interaction.pointer[0] === x && interaction.pointer[1] === y) caught(second);
              }),
            ),
          DWELL,
        );
      if (picks.length > 1 || meantAlone(first)) interaction.ask(interaction.pullAct(picks, ''));
    },
    async up() {
      over = true;
      clearTimeout(resting);
      if (picks.length === 1 && !meantAlone(first)) return interaction.stop();
      interaction.doing = { kind: 'placing', picks, wish: '' };
      await interaction.finish();
    },
    cancel() {
      over = true;
      clearTimeout(resting);
      interaction.stop();
    },
  };
}
