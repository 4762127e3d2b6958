import { gestureOfAct } from './act';
import { interaction } from '../interaction.svelte';
import { selected } from '../selection.svelte';
import { work } from '../work.svelte';
import type { Gesture } from './gesture';

/** Dragging a dimension's line, or its text alone: along it, or with Alt out at the end of a leader. */
export function gestureOfDimension(id: string, text: boolean): Gesture {
  selected.elements(id);
  let out = false;
  const act = () => ({
    act: 'move_dimension' as const,
    id,
    pointer: work.up(interaction.pointer),
    text_only: text,
    out,
  });
  const gesture = gestureOfAct([id], act);
  return {
    ...gesture,
    move(at, e) {
      out = text && e.altKey;
      gesture.move(at, e);
    },
    up(at, e) {
      out = text && e.altKey;
      return gesture.up(at, e);
    },
  };
}
