import { gestureOfAct } from './act';
import { interaction } from '../interaction.svelte';
import { selected } from '../selection.svelte';
import { work } from '../work.svelte';
import type { Gesture } from './gesture';

/** Dragging a dimension's line, or its text alone along it. */
export function gestureOfDimension(id: string, text: boolean): Gesture {
  selected.elements(id);
  const act = () => ({
    act: 'move_dimension' as const,
    id,
    pointer: work.up(interaction.pointer),
    text_only: text,
  });
  return gestureOfAct([id], act);
}
