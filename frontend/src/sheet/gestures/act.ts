import type { Act } from '../../api/client';
import { asking } from '../asking.svelte';
import { work } from '../work.svelte';
import type { Gesture } from './gesture';

/** Dragging something whose act follows the pointer: it is shown meanwhile, and done where the hand lets go. */
export function gestureOfAct(hides: string[], act: () => Act): Gesture {
  return {
    cursor: 'move',
    hides: new Set(hides),
    move: () => asking.ask(act()),
    up() {
      const last = act();
      asking.stop();
      return work.act(last);
    },
    cancel: () => asking.stop(),
  };
}
