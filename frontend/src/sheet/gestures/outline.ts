import { interaction } from '../interaction.svelte';
import { work } from '../work.svelte';
import type { Gesture } from './gesture';

/** Drawing a free closed line at one stroke. */
export function gestureOfOutline(from: [number, number]): Gesture {
  const points: [number, number][] = [work.up(from)];
  return {
    cursor: 'crosshair',
    move(at) {
      const next = work.up(at);
      const last = points[points.length - 1];
      if (Math.hypot(next[0] - last[0], next[1] - last[1]) < 0.8) return;
      points.push(next);
      if (interaction.doing.kind === 'outlining') {
        interaction.doing = { ...interaction.doing, points: [...points], free: true };
        interaction.follow();
      }
    },
    up() {
      if (points.length > 4) interaction.close(points, true);
      else interaction.outlineClick();
    },
    cancel: () => interaction.stop(),
  };
}
