import { asking } from '../asking.svelte';
import { pulling } from '../making/pull';
import type { Gesture } from './gesture';

/** Pulling a view out of a side or corner of another. */
export function gestureOfTab(view: string, side: string): Gesture {
  asking.make(pulling(view, side));
  return {
    cursor: 'grabbing',
    move: () => asking.follow(),
    up: () => asking.finish(),
    cancel: () => asking.stop(),
  };
}
