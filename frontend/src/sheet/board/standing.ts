import type { ViewJson } from '../../api/client';
import type { Box } from './snapping';

type Place = [number, number];

/** Whether two convex shapes (corners in order) have more than a rim in common. */
export function meet(a: Place[], b: Place[]): boolean {
  return !apart(a, b) && !apart(b, a);
}

function apart(a: Place[], b: Place[]): boolean {
  return a.some(([x0, y0], i) => {
    const [x1, y1] = a[(i + 1) % a.length];
    const [nx, ny] = [y1 - y0, x0 - x1];
    const long = Math.hypot(nx, ny) || 1;
    const along = ([x, y]: Place) => (x * nx + y * ny) / long;
    const [own, theirs] = [a.map(along), b.map(along)];
    return Math.max(...own) <= Math.min(...theirs) + 0.05 || Math.max(...theirs) <= Math.min(...own) + 0.05;
  });
}

const cornersOf = (b: Box): Place[] => [
  [b.x, b.y],
  [b.x + b.width, b.y],
  [b.x + b.width, b.y + b.height],
  [b.x, b.y + b.height],
];

/** On what views that are moved by so much would come to lie, in words; nothing where they have their own places. */
export function liesOn(
  moved: ViewJson[],
  by: Place,
  others: ViewJson[],
  sheet: { space: Box; title: Box },
): string {
  for (const v of moved) {
    const hull = v.hull.map(([x, y]): Place => [x + by[0], y + by[1]]);
    const { x, y, width, height } = sheet.space;
    if (hull.some(([a, b]) => a < x || a > x + width || b < y || b > y + height)) return 'across the frame';
    if (meet(hull, cornersOf(sheet.title))) return 'on the title block';
    const other = others.find((o) => meet(hull, o.hull as Place[]));
    if (other) return `on ${other.words}`;
  }
  return '';
}
