import { kinds } from '../kinds';
import { selected } from '../selection.svelte';
import { work } from '../work.svelte';
import type { Gesture } from './gesture';

/** Dragging views (all that are selected, if that one is among them): what is tied to them goes along. */
export function gestureOfView(id: string, from: [number, number]): Gesture {
  const ids = selected.ids.includes(id) ? selected.ids : [id];
  if (ids.length === 1) selected.elements(id);
  const shown = (work.ink?.views ?? []).filter((v) => ids.includes(v.id));
  const held = shown.find((v) => v.id === id)?.moves;
  const gesture: Gesture = {
    cursor: 'move',
    carries: new Set(shown.flatMap((v) => [v.id, ...v.carries])),
    by: [0, 0],
    move(at) {
      const [dx, dy] = [at[0] - from[0], at[1] - from[1]];
      // tied to its parent, it moves along one way only (given y up)
      const along = held ? dx * held[0] - dy * held[1] : 0;
      gesture.by = held ? [along * held[0], -along * held[1]] : [dx, dy];
    },
    up() {
      const [dx, dy] = gesture.by ?? [0, 0];
      if (!dx && !dy) return;
      const moves = kinds.get('view')?.moved;
      return work.together(
        'Move views',
        shown.flatMap((v) => moves?.(v.id, dx, -dy) ?? []),
      );
    },
  };
  return gesture;
}
