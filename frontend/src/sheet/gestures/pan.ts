import { viewport } from '../board/viewport.svelte';
import type { Gesture } from './gesture';

/** Moving the sheet about in the window. */
export function gestureOfPan(x: number, y: number): Gesture {
  return {
    cursor: 'grabbing',
    move(_at, e) {
      viewport.pan(e.clientX - x, e.clientY - y);
      [x, y] = [e.clientX, e.clientY];
    },
    up() {},
  };
}
