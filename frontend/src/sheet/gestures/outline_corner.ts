import { gestureOfAct } from './act';
import { asking } from '../asking.svelte';
import { work } from '../work.svelte';
import type { Gesture } from './gesture';

/** Dragging a corner of a local cut's outline; what it lays open follows. */
export function gestureOfOutlineCorner(view: string, cut: string, corner: number): Gesture {
  const found = work.view(view);
  const held = found?.local_cuts?.find((c) => c.id === cut);
  const scale = work.ink?.views.find((v) => v.id === view)?.scale ?? 1;
  const [x, y] = found?.place ?? [0, 0];
  const act = () => ({
    act: 'cut_locally' as const,
    view,
    outline: (held?.outline ?? []).map(([a, b], k): [number, number] =>
      k === corner ? work.up(asking.pointer) : [x + a * scale, y + b * scale],
    ),
    smooth: held?.smooth ?? true,
    depth: held?.depth ?? 0,
    ref: held?.tie?.ref ?? '',
    at: held?.tie?.at ?? '',
    change: cut,
  });
  return gestureOfAct([view, `${view}-hatch`], act);
}
