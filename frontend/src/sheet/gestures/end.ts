import { gestureOfAct } from './act';
import { interaction } from '../interaction.svelte';
import { work } from '../work.svelte';
import type { Gesture } from './gesture';

/** Dragging an end of a centre line or mark; with Alt all its ends go alike. */
export function gestureOfEnd(id: string, from: [number, number]): Gesture {
  const act = () => ({
    act: 'move_end' as const,
    id,
    start: work.up(from),
    to: work.up(interaction.pointer),
    all_alike: interaction.alt,
  });
  return gestureOfAct([id], act);
}
