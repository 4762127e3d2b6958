import Flatbush from 'flatbush';
import type { Element, FieldJson, Mark, SheetInk, ViewJson } from '../../api/client';
import type { Kind } from '../kinds/kind';
import { flattened } from './paths';

export type Shape = 'straight' | 'circle' | 'arc' | 'outline' | 'curve';

/** Something on the sheet that can be pointed at; coordinates mm, y down. */
export type Target = {
  kind: 'point' | 'line' | 'element' | 'field' | 'view';
  view: string;
  ref: string;
  at: string;
  /** The element that it belongs to, and of which kind that is. */
  owner: string;
  of: string;
  /** What a line is, or the line that a point is on. */
  shape?: Shape;
  /** A line that is hidden in its view. */
  hidden?: boolean;
  /** The centre of a full circle. */
  full?: boolean;
  x: number;
  y: number;
  words: string;
  marks: Mark[];
  field?: FieldJson;
};

/** A place that sizes alone can be taken from: the side of a circle, or a corner that was rounded away. */
export const forSizes = (t: Target) => /^(rim|cross|meet|pierced|along)/.test(t.at);

/** A mark as points from the zero of its element, with the box about them. */
type Held = { mark: Mark; points: number[]; box: [number, number, number, number] };
type Placed = Held & { element: Element };

// the ink of an element is the same array as long as it is the same ink, wherever it is moved
const made = new WeakMap<Mark[], Held[]>();

function heldOf(element: Element): Held[] {
  if (!element.marks) return [];
  let found = made.get(element.marks);
  if (!found) {
    found = [];
    for (const mark of element.marks) {
      const p = mark.m === 't' ? mark.box : mark.m === 's' || mark.m === 'u' ? flattened(mark.d) : [];
      if (!p.length) continue;
      let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
      for (let i = 0; i < p.length; i += 2) {
        x0 = Math.min(x0, p[i]);
        x1 = Math.max(x1, p[i]);
        y0 = Math.min(y0, p[i + 1]);
        y1 = Math.max(y1, p[i + 1]);
      }
      found.push({ mark, points: p, box: [x0, y0, x1, y1] });
    }
    made.set(element.marks, found);
  }
  return found;
}

function nearestOn(p: number[], x: number, y: number, closed: boolean): [number, number, number] {
  let best = Infinity,
    bx = 0,
    by = 0;
  const last = closed ? p.length : p.length - 2;
  for (let i = 0; i < last; i += 2) {
    const j = (i + 2) % p.length;
    const ax = p[i],
      ay = p[i + 1],
      dx = p[j] - ax,
      dy = p[j + 1] - ay;
    const l = dx * dx + dy * dy;
    const t = l > 0 ? Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / l)) : 0;
    const qx = ax + t * dx,
      qy = ay + t * dy,
      d = (qx - x) ** 2 + (qy - y) ** 2;
    if (d < best) [best, bx, by] = [d, qx, qy];
  }
  return [Math.sqrt(best), bx, by];
}

/** Finds what lies under the pointer, from the ink itself. */
export class Hits {
  private found: { index: Flatbush | null; held: Placed[] } | null = null;
  private views: Map<string, ViewJson>;
  private elements: Map<string, Element>;
  /** Those that are taken anywhere within their outline. */
  private filled: Element[];
  private linesOf = new Map<string, Map<string, [Shape, string]>>();

  /** `known`: what is known of a kind of element beside its ink. */
  constructor(
    private ink: SheetInk,
    private known: (
      kind: string,
    ) => Pick<Kind, 'rank' | 'windowed' | 'spoken' | 'picked' | 'filled'> | undefined = () => undefined,
  ) {
    this.views = new Map(ink.views.map((v) => [v.id, v]));
    this.elements = new Map(ink.elements.map((e) => [e.id, e]));
    this.filled = ink.elements.filter((e) => known(e.kind)?.filled);
  }

  /** All marks by place, put together when they are first asked for. */
  private get placed() {
    if (this.found) return this.found;
    const held: Placed[] = [];
    for (const element of this.ink.elements)
      if (element.kind !== 'sheet') for (const h of heldOf(element)) held.push({ ...h, element });
    const index = held.length ? new Flatbush(held.length) : null;
    for (const { element: e, box: b } of held) index?.add(b[0] + e.x, b[1] + e.y, b[2] + e.x, b[3] + e.y);
    index?.finish();
    return (this.found = { index, held });
  }

  private at0(view: string): [number, number] {
    const e = this.elements.get(view);
    return e ? [e.x, e.y] : [0, 0];
  }

  private points(v: ViewJson): Target[] {
    const [ox, oy] = this.at0(v.id);
    const p = v.pointed;
    if (!p) return [];
    return p.snaps.map(([line, at, x, y, word, full]) => ({
      kind: 'point',
      view: v.id,
      ref: p.lines[line][0],
      at,
      owner: v.id,
      of: 'view',
      shape: p.lines[line][1],
      x: x + ox,
      y: y + oy,
      words: p.words[word],
      full,
      marks: [],
    }));
  }

  /** The shape of a line of a view, and words for it. */
  private told(view: string, ref: string): [Shape, string] {
    let lines = this.linesOf.get(view);
    if (!lines) {
      const p = this.views.get(view)?.pointed;
      lines = new Map(p?.lines.map(([r, shape, word]) => [r, [shape, p.words[word]]]) ?? []);
      this.linesOf.set(view, lines);
    }
    return lines.get(ref) ?? ['curve', 'edge'];
  }

  private line(held: Placed, x: number, y: number): Target | undefined {
    const { element, mark } = held;
    if (mark.m !== 's' && mark.m !== 'u') return undefined;
    const src = mark.src ?? '';
    const [shape, words] = this.told(element.id, src);
    return {
      kind: 'line',
      hidden: mark.pen === 'hidden',
      view: element.group,
      ref: src,
      at: '',
      owner: element.id,
      of: 'view',
      shape,
      x,
      y,
      words: mark.pen === 'hidden' ? `hidden ${words}` : words,
      marks: (element.marks ?? []).filter((m) => (m.m === 's' || m.m === 'u') && m.src === src),
    };
  }

  /** Which place of an element is meant to be measured: a centre mark has two lines, an axis one. */
  private placeOf(element: Element): string {
    const own = this.known(element.kind)?.picked?.(element.id);
    return own ?? ((element.marks?.length ?? 0) > 1 ? 'centre' : 'axis');
  }

  private whole(held: Placed, x: number, y: number): Target {
    const { element, mark } = held;
    const src = mark.m === 's' ? (mark.src ?? '') : '';
    return {
      kind: 'element',
      view: element.group,
      ref: src,
      // a centre mark has two lines, an axis one
      at: mark.m === 't' ? 'text' : src ? this.placeOf(element) : '',
      owner: element.id,
      of: element.kind,
      x,
      y,
      words: [this.known(element.kind)?.spoken, element.words].filter(Boolean).join(' '),
      marks: element.marks ?? [],
    };
  }

  /** All that lies within `reach` mm of a point, likeliest first. */
  at(x: number, y: number, reach: number): Target[] {
    const found: (Target & { rank: number })[] = [];
    for (const view of this.ink.views) {
      const m = reach + 1;
      if (x < view.x - m || x > view.x + view.width + m || y < view.y - m || y > view.y + view.height + m)
        continue;
      for (const p of this.points(view)) {
        const d = Math.hypot(p.x - x, p.y - y);
        if (d <= reach) found.push({ ...p, rank: (2 * d) / reach });
      }
    }
    const { index, held: all } = this.placed;
    const near = index?.search(x - reach, y - reach, x + reach, y + reach) ?? [];
    const best = new Map<string, { d: number; held: Placed; x: number; y: number }>();
    for (const i of near) {
      const held = all[i];
      const { element: e, mark } = held;
      const [away, qx, qy] = nearestOn(held.points, x - e.x, y - e.y, mark.m === 't');
      const d = mark.m === 't' && inside(mark.box, x - e.x, y - e.y) ? 0 : away;
      if (d > reach) continue;
      const key = e.kind === 'view' && mark.m !== 't' && 'src' in mark ? `${e.id}|${mark.src}` : e.id;
      const old = best.get(key);
      if (!old || d < old.d) best.set(key, { d, held, x: qx + e.x, y: qy + e.y });
    }
    for (const { d, held, x: qx, y: qy } of best.values()) {
      const kind = held.element.kind;
      if (kind === 'view') {
        const line = this.line(held, qx, qy);
        const hidden = held.mark.m === 's' && held.mark.pen === 'hidden';
        if (line?.ref) found.push({ ...line, rank: 1 + d / reach + (hidden ? 0.4 : 0) });
      } else found.push({ ...this.whole(held, qx, qy), rank: (this.known(kind)?.rank ?? 3) + d / reach });
    }
    for (const element of this.filled) {
      if (best.has(element.id)) continue;
      const held = heldOf(element);
      const [u, v] = [x - element.x, y - element.y];
      const within = [0, 1].every((k) => {
        const at = k ? v : u;
        return held.some((h) => h.box[k] <= at) && held.some((h) => h.box[k + 2] >= at);
      });
      if (within && held.length) found.push({ ...this.whole({ ...held[0], element }, x, y), rank: 4 });
    }
    for (const f of this.ink.fields)
      if (f.field && x >= f.x && x <= f.x + f.width && y >= f.y && y <= f.y + f.height)
        found.push({
          kind: 'field',
          view: '',
          ref: '',
          at: '',
          owner: 'sheet',
          of: 'sheet',
          x,
          y,
          words: f.says
            ? `${f.label}: ${f.says}`
            : f.auto
              ? `${f.label}: fills itself`
              : `${f.label}: click to fill in`,
          marks: [],
          field: f,
          rank: 5,
        });
    for (const v of this.ink.views) {
      const m = Math.max(reach, 2);
      if (x >= v.x - m && x <= v.x + v.width + m && y >= v.y - m && y <= v.y + v.height + m)
        found.push({
          kind: 'view',
          view: v.id,
          ref: '',
          at: '',
          owner: v.id,
          of: 'view',
          x,
          y,
          words: `${v.name}${v.section ? '' : ' view'}, ${v.scale_text}`,
          marks: [],
          rank: 6 + v.width * v.height * 1e-7,
        });
    }
    return found.sort((a, b) => a.rank - b.rank);
  }

  /** An element as a target, by its id. */
  of(owner: string): Target | undefined {
    const element = this.elements.get(owner);
    const held = element && heldOf(element).find((h) => h.mark.m === 's');
    return held && this.whole({ ...held, element }, held.points[0] + element.x, held.points[1] + element.y);
  }

  /** Elements (no views) that lie wholly within a window. */
  within(x0: number, y0: number, x1: number, y1: number): string[] {
    const out = new Set<string>();
    const inn = new Set<string>();
    for (const { element: e, points: p } of this.placed.held) {
      if (this.known(e.kind)?.windowed === false) continue;
      let all = true;
      for (let i = 0; i < p.length && all; i += 2)
        all = p[i] + e.x >= x0 && p[i] + e.x <= x1 && p[i + 1] + e.y >= y0 && p[i + 1] + e.y <= y1;
      (all ? inn : out).add(e.id);
    }
    return [...inn].filter((id) => !out.has(id));
  }

  /** All lines and points of a view in reading order, for going through them by keys. */
  all(view: string): Target[] {
    const v = this.views.get(view);
    const element = this.elements.get(view);
    if (!v || !element) return [];
    const lines = new Map<string, Target>();
    for (const h of heldOf(element)) {
      const held = { ...h, element };
      const src = held.mark.m === 's' ? (held.mark.src ?? '') : '';
      if (!src || lines.has(src)) continue;
      const p = held.points;
      // the middle of its middle stretch
      const k = Math.max(0, Math.min(Math.floor(p.length / 4) * 2, p.length - 4));
      const next = Math.min(k + 2, p.length - 2);
      const line = this.line(
        held,
        (p[k] + p[next]) / 2 + element.x,
        (p[k + 1] + p[next + 1]) / 2 + element.y,
      );
      if (line) lines.set(src, line);
    }
    return [...lines.values(), ...this.points(v)].sort((a, b) => a.y - b.y || a.x - b.x);
  }
}

function inside(box: number[], x: number, y: number): boolean {
  let sign = 0;
  for (let i = 0; i < box.length; i += 2) {
    const j = (i + 2) % box.length;
    const c = (box[j] - box[i]) * (y - box[i + 1]) - (box[j + 1] - box[i + 1]) * (x - box[i]);
    if (c !== 0) {
      if (sign && Math.sign(c) !== sign) return false;
      sign = Math.sign(c);
    }
  }
  return true;
}
