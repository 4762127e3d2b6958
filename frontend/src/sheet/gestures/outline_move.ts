import { gestureOfAct } from './act';
import { interaction } from '../interaction.svelte';
import { drawnOf, partsOf } from '../parts_of_views';
import { work } from '../work.svelte';
import type { Gesture } from './gesture';

/** Dragging the outline of a detail or crop by its centre, or making it wider; what it holds follows. */
export function gestureOfRing(view: string, size: boolean): Gesture {
  const act = () => {
    const { x, y, ref, at } = interaction.caught(
      interaction.target?.kind === 'point' ? interaction.target : null,
    );
    return {
      act: 'move_outline' as const,
      view,
      to: (ref && !size ? [x, y] : work.up(interaction.pointer)) as [number, number],
      ref: size ? '' : ref,
      at: size ? '' : at,
      size,
    };
  };
  return gestureOfAct([...drawnOf(view), ...partsOf(view, 'ring', 'caption')], act);
}
