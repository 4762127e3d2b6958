import type { Point } from '../../api/client';
import { interaction } from '../interaction.svelte';
import { work } from '../work.svelte';
import type { Gesture } from './gesture';

const SNAP = 3;

/** Dragging a view's caption; near its own place it snaps back to it. */
export function gestureOfCaption(view: string, caption: string, from: [number, number]): Gesture {
  const element = work.elements.get(caption);
  const before = work.view(view)?.caption_off ?? [0, 0];
  let by: [number, number] = [0, 0];
  return {
    cursor: 'move',
    hides: new Set([caption]),
    move(at) {
      by = [at[0] - from[0], at[1] - from[1]];
      if (Math.hypot(before[0] + by[0], before[1] - by[1]) < SNAP) by = [-before[0], before[1]];
      if (element) interaction.preview = [{ ...element, x: element.x + by[0], y: element.y + by[1] }];
    },
    async up() {
      const off: Point = [before[0] + by[0], before[1] - by[1]];
      await work.setView(view, { caption_off: Math.hypot(off[0], off[1]) < 0.01 ? null : off });
      interaction.stop();
    },
    cancel: () => interaction.stop(),
  };
}
