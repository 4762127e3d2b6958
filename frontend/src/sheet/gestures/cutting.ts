import { gestureOfAct } from './act';
import { interaction } from '../interaction.svelte';
import { selected } from '../selection.svelte';
import { drawnOf, partsOf } from '../parts_of_views';
import { work } from '../work.svelte';
import type { Gesture } from './gesture';

/** Dragging a section's cutting line aside, or one of its corners; the section follows. */
export function gestureOfCutting(id: string, corner: number | null, from: [number, number]): Gesture {
  selected.elements(id);
  const act = () => {
    const { x, y, ref, at } = interaction.caught();
    return {
      act: 'move_cutting' as const,
      view: id,
      corner,
      to: ref ? ([x, y] as [number, number]) : work.up(interaction.pointer),
      start: work.up(from),
      ref,
      at,
    };
  };
  return gestureOfAct([...drawnOf(id), ...partsOf(id, 'cutting_line', 'caption')], act);
}
