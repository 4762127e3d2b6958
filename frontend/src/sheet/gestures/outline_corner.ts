import { gestureOfAct } from './act';
import { interaction } from '../interaction.svelte';
import { drawnOf } from '../parts_of_views';
import { work } from '../work.svelte';
import type { Gesture } from './gesture';

/** Dragging a corner of a local cut's outline; what it lays open follows. */
export function gestureOfOutlineCorner(view: string, cut: string, corner: number): Gesture {
  const found = work.view(view);
  const held = found?.local_cuts?.find((c) => c.id === cut);
  const shown = work.ink?.views.find((v) => v.id === view)?.local_cuts.find((c) => c.id === cut);
  const act = () => ({
    act: 'cut_locally' as const,
    view,
    outline: (shown?.corners ?? []).map((at, k) => work.up(k === corner ? interaction.pointer : at)),
    smooth: held?.smooth ?? true,
    depth: held?.depth ?? 0,
    ref: held?.tie?.ref ?? '',
    at: held?.tie?.at ?? '',
    change: cut,
  });
  return gestureOfAct(drawnOf(view), act);
}
