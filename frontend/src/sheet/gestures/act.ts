import type { Act } from '../../api/client';
import { interaction } from '../interaction.svelte';
import { work } from '../work.svelte';
import type { Gesture } from './gesture';

/** Dragging something whose act follows the pointer: it is shown meanwhile, and done where the hand lets go. */
export function gestureOfAct(hides: string[], act: () => Act): Gesture {
  return {
    cursor: 'move',
    hides: new Set(hides),
    move: () => interaction.ask(act()),
    up() {
      const last = act();
      interaction.stop();
      return work.act(last);
    },
    cancel: () => interaction.stop(),
  };
}
