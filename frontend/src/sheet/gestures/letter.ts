import { gestureOfAct } from './act';
import { interaction } from '../interaction.svelte';
import { partsOf } from '../parts_of_views';
import { work } from '../work.svelte';
import type { Gesture } from './gesture';

/** Dragging a letter at the end of a cutting line. */
export function gestureOfLetter(view: string, from: [number, number]): Gesture {
  const act = () => ({
    act: 'move_letter' as const,
    view,
    start: work.up(from),
    to: work.up(interaction.pointer),
  });
  return gestureOfAct(partsOf(view, 'cutting_line'), act);
}
