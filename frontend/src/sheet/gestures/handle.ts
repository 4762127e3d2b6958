import { gestureOfBreakLine } from './break_line';
import { gestureOfCutting } from './cutting';
import { gestureOfEnd } from './end';
import type { Gesture } from './gesture';
import { gestureOfOutlineCorner } from './outline_corner';
import { gestureOfRing } from './outline_move';
import { gestureOfTab } from './tab';

/** What begins where a handle is pressed: of the selected view, or of a selected line with ends. */
export function gestureOfHandle(
  pressed: Element,
  view: string | undefined,
  line: string | undefined,
  at: [number, number],
): Gesture | null {
  const handle = pressed.closest<HTMLElement>(
    '[data-side], [data-end], [data-ring], [data-break], [data-corner], [data-outline]',
  );
  const data = handle?.dataset;
  if (!data) return null;
  if (data.end && line) return gestureOfEnd(line, at);
  if (!view) return null;
  if (data.side) return gestureOfTab(view, data.side);
  if (data.ring) return gestureOfRing(view, data.ring === 'size');
  if (data.break) return gestureOfBreakLine(view, data.break, data.at === 'first');
  if (data.corner) return gestureOfCutting(view, Number(data.corner), at);
  return data.outline ? gestureOfOutlineCorner(view, data.outline, Number(data.at)) : null;
}
