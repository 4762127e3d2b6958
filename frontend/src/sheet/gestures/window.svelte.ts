import { selected } from '../selection.svelte';
import { work } from '../work.svelte';
import type { Gesture } from './gesture';

/** The window between two places: left, top, right, bottom. */
export function windowOf(a: [number, number], b: [number, number]): [number, number, number, number] {
  return [Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[0], b[0]), Math.max(a[1], b[1])];
}

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
      box = windowOf(from, at);
      const found = work.hits?.within(...box) ?? [];
      selected.elements(...new Set([...before, ...found]));
    },
    up() {},
    cancel: () => selected.elements(...before),
  };
}
