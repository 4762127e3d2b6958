import { interaction } from '../interaction.svelte';
import { pulling } from '../making/pull';
import type { Gesture } from './gesture';

/** Pulling a view out of a side or corner of another. */
export function gestureOfTab(view: string, side: string): Gesture {
  interaction.make(pulling(view, side));
  return {
    cursor: 'grabbing',
    move: () => interaction.follow(),
    up: () => interaction.finish(),
    cancel: () => interaction.stop(),
  };
}
