/** A box on the sheet, mm, y down. */
export type Box = { x: number; y: number; width: number; height: number };
/** What a moved box was caught by: a line to show, and in words. */
export type Guide = { line: [number, number, number, number]; words: string };

const NEAR = 2;

type Caught = { by: number; guide: Guide } | null;

/** How far a box that is moved goes on so that its edges or middle stand in line with those of others, or so that it
 * leaves the same gap as others do. */
export function snapped(box: Box, others: Box[]): { dx: number; dy: number; guides: Guide[] } {
  const x = along(box, others, false);
  const y = along(box, others, true);
  return {
    dx: x?.by ?? 0,
    dy: y?.by ?? 0,
    guides: [x, y].flatMap((c) => (c ? [c.guide] : [])),
  };
}

/** The nearest catch along x, or along y with both axes exchanged. */
function along(box: Box, others: Box[], upright: boolean): Caught {
  const turn = (b: Box) => (upright ? { x: b.y, y: b.x, width: b.height, height: b.width } : b);
  const own = turn(box);
  const rest = others.map(turn);
  let best: Caught = null;
  const offer = (by: number, line: [number, number, number, number], words: string) => {
    if (Math.abs(by) > NEAR || (best && Math.abs(best.by) <= Math.abs(by))) return;
    const [a, b, c, d] = line;
    best = { by, guide: { line: upright ? [b, a, d, c] : line, words } };
  };
  for (const other of rest) {
    const [y0, y1] = [Math.min(own.y, other.y), Math.max(own.y + own.height, other.y + other.height)];
    for (const share of [0, 0.5, 1])
      for (const theirs of share === 0.5 ? [0.5] : [0, 1]) {
        const there = other.x + theirs * other.width;
        offer(
          there - own.x - share * own.width,
          [there, y0 - 4, there, y1 + 4],
          share === 0.5 ? 'middles in line' : 'edges in line',
        );
      }
  }
  const level = rest.filter((o) => o.y < own.y + own.height && own.y < o.y + o.height);
  for (const [gap, from] of gaps(level))
    for (const other of level) {
      const y = Math.max(own.y, other.y) + Math.min(own.height, other.height) / 2;
      const right = other.x + other.width + gap;
      if (from !== other.x + other.width)
        offer(right - own.x, [other.x + other.width, y, right, y], 'gaps alike');
      const left = other.x - gap;
      if (from !== other.x - gap) offer(left - own.x - own.width, [left, y, other.x, y], 'gaps alike');
    }
  return best;
}

/** Gaps between boxes that stand beside each other, and where each begins. */
function gaps(boxes: Box[]): [number, number][] {
  const order = [...boxes].sort((a, b) => a.x - b.x);
  return order.slice(1).flatMap((b, k): [number, number][] => {
    const end = order[k].x + order[k].width;
    return b.x - end > 1 ? [[b.x - end, end]] : [];
  });
}
