import { gestureOfAct } from './act';
import { asking } from '../asking.svelte';
import { drawnOf, partsOf } from '../parts_of_views';
import { work } from '../work.svelte';
import type { Gesture } from './gesture';

/** Dragging the outline of a detail or crop by its centre, or making it wider; what it holds follows. */
export function gestureOfRing(view: string, size: boolean): Gesture {
  const act = () => {
    const { x, y, ref, at } = asking.caught(asking.target?.kind === 'point' ? asking.target : null);
    return {
      act: 'move_outline' as const,
      view,
      to: (ref && !size ? [x, y] : work.up(asking.pointer)) as [number, number],
      ref: size ? '' : ref,
      at: size ? '' : at,
      size,
    };
  };
  return gestureOfAct([...drawnOf(view), ...partsOf(view, 'ring', 'caption')], act);
}
