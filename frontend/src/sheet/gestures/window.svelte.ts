import { selected } from '../selection.svelte';
import { work } from '../work.svelte';
import type { Gesture } from './gesture';

/** Drawing a window: all elements wholly in it are taken into the selection. */
export function gestureOfWindow(from: [number, number]): Gesture {
  const before = selected.ids;
  let box = $state.raw<[number, number, number, number]>([from[0], from[1], from[0], from[1]]);
  return {
    cursor: 'crosshair',
    get window() {
      return box;
    },
    move(at) {
      box = [
        Math.min(from[0], at[0]),
        Math.min(from[1], at[1]),
        Math.max(from[0], at[0]),
        Math.max(from[1], at[1]),
      ];
      const found = work.hits?.within(...box) ?? [];
      selected.elements(...new Set([...before, ...found]));
    },
    up() {},
    cancel: () => selected.elements(...before),
  };
}
