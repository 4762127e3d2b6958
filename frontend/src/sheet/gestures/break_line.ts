import { gestureOfAct } from './act';
import { interaction } from '../interaction.svelte';
import { drawnOf } from '../parts_of_views';
import { work } from '../work.svelte';
import type { Gesture } from './gesture';

/** Dragging one of the two lines between which a stretch is taken out. */
export function gestureOfBreakLine(view: string, id: string, first: boolean): Gesture {
  const shown = work.ink?.views.find((v) => v.id === view)?.breaks.find((b) => b.id === id);
  const other = work.up((first ? shown?.second : shown?.first) ?? [0, 0]);
  const act = () => ({
    act: 'break_view' as const,
    view,
    first: other,
    second: work.up(interaction.pointer),
    gap: 4,
    form: 'auto' as const,
    change: id,
  });
  return gestureOfAct(drawnOf(view), act);
}
