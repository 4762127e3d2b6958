import type { Shape, Target } from './board/hits';
import { flattened } from './board/paths';

/** Something that can be pointed at, under a name by which it is found. */
export type Named = { name: string; target: Target };

const ALSO: Partial<Record<Shape, string>> = { circle: 'hole', arc: 'round' };

/** How far a line reaches: from and to along x and along y (mm on its view). */
function reach(t: Target): [number, number, number, number] | undefined {
  const points = t.marks.flatMap((m) => (m.m === 's' || m.m === 'u' ? flattened(m.d) : []));
  if (!points.length) return undefined;
  const xs = points.filter((_, i) => i % 2 === 0);
  const ys = points.filter((_, i) => i % 2 === 1);
  return [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
}

/** The outermost straight lines of a view, by the side on which they are. */
function sides(all: Target[]): Map<Target, string> {
  const found = new Map<Target, string>();
  const lines = all.flatMap((t) => {
    const r = t.kind === 'line' && t.shape === 'straight' && !t.hidden ? reach(t) : undefined;
    return r ? [{ t, r }] : [];
  });
  const upright = lines.filter(({ r }) => r[1] - r[0] < 0.01 && r[3] - r[2] > 0.01);
  const level = lines.filter(({ r }) => r[3] - r[2] < 0.01 && r[1] - r[0] > 0.01);
  const outermost = (among: typeof lines, k: 0 | 2, most: boolean, name: string) => {
    // of several in one line the longest
    const far = among.reduce<(typeof lines)[number] | undefined>((a, b) => {
      if (!a) return b;
      const gap = (b.r[k] - a.r[k]) * (most ? 1 : -1);
      const longer = b.r[3] - b.r[2] + b.r[1] - b.r[0] > a.r[3] - a.r[2] + a.r[1] - a.r[0];
      return gap > 0.01 || (Math.abs(gap) <= 0.01 && longer) ? b : a;
    }, undefined);
    if (far && !found.has(far.t)) found.set(far.t, name);
  };
  outermost(upright, 0, false, 'left edge');
  outermost(upright, 0, true, 'right edge');
  outermost(level, 2, false, 'upper edge');
  outermost(level, 2, true, 'lower edge');
  return found;
}

/** Names for all that can be pointed at in a view, lines first, what is hidden and points after them; what is called alike is numbered
 * in the order in which one reads. */
export function namesOf(read: Target[], view: string): Named[] {
  const order = (t: Target) => (t.kind === 'line' ? (t.hidden ? 1 : 0) : 2);
  const all = [...read].sort((a, b) => order(a) - order(b));
  const side = sides(all);
  const plain = all.map((t) => {
    const also = t.kind === 'line' ? ALSO[t.shape ?? 'curve'] : undefined;
    return [side.get(t), t.words, also].filter(Boolean).join(', ');
  });
  const counts = new Map<string, number>();
  for (const name of plain) counts.set(name, (counts.get(name) ?? 0) + 1);
  const seen = new Map<string, number>();
  return all.map((target, k) => {
    const n = (seen.get(plain[k]) ?? 0) + 1;
    seen.set(plain[k], n);
    const number = (counts.get(plain[k]) ?? 0) > 1 ? ` ${n}` : '';
    return { name: `${plain[k]}${number}, ${view}`, target };
  });
}

type Box = { x: number; y: number; width: number; height: number };

/** Where a size of what was pointed at by keys stands first: beside its view (mm, y down), beyond what is `written` there. */
export function beside(picks: Target[], box: Box, written: Box[] = []): [number, number] {
  const [first, second] = picks;
  const x = (first.x + (second ?? first).x) / 2;
  const y = (first.y + (second ?? first).y) / 2;
  const r = second ? undefined : reach(first);
  const wide = second ? Math.abs(first.x - second.x) : r ? r[1] - r[0] : 0;
  const high = second ? Math.abs(first.y - second.y) : r ? r[3] - r[2] : 0;
  const [x1, y1] = [box.x + box.width, box.y + box.height];
  const round = !second && (first.shape === 'circle' || first.shape === 'arc');
  const out = (taken: number[]) =>
    Math.max(OUT, ...taken.filter((t) => t > 0 && t < FAR).map((t) => t + NEXT));
  const right = x > box.x + box.width / 2;
  const below = y > box.y + box.height / 2;
  if (!round && wide >= high) {
    const off = out(written.map((w) => (below ? w.y + w.height - y1 : box.y - w.y)));
    return [x, below ? y1 + off : box.y - off];
  }
  const off = round ? OUT : out(written.map((w) => (right ? w.x + w.width - x1 : box.x - w.x)));
  return [right ? x1 + off : box.x - off, round ? y - OUT : y];
}
/** mm from a view to its first row, from there to what stands beyond, and how far out that may be. */
const [OUT, NEXT, FAR] = [10, 6, 60];
