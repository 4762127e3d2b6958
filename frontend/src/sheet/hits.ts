import Flatbush from 'flatbush';
import type { FieldJson, Mark, SheetInk } from '../api/client';

/** Something on the sheet that can be pointed at; coordinates mm, y down. */
export type Target = {
  kind: 'point' | 'line' | 'dimension' | 'centre' | 'field' | 'view';
  view: string;
  ref: string;
  at: string;
  owner: string;
  x: number;
  y: number;
  words: string;
  marks: Mark[];
  field?: FieldJson;
};

function nearestOn(p: number[], x: number, y: number): [number, number, number] {
  let best = Infinity,
    bx = 0,
    by = 0;
  for (let i = 0; i + 3 < p.length; i += 2) {
    const ax = p[i],
      ay = p[i + 1],
      dx = p[i + 2] - ax,
      dy = p[i + 3] - ay;
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
  private index: Flatbush | null = null;
  private marks: Mark[] = [];

  constructor(private ink: SheetInk) {
    this.marks = (ink.marks as Mark[]).filter((m) => m.o !== 'sheet' && (m.pts?.length || m.box?.length));
    if (!this.marks.length) return;
    this.index = new Flatbush(this.marks.length);
    for (const m of this.marks) {
      const p = m.m === 't' ? (m.box ?? []) : (m.pts ?? []);
      let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
      for (let i = 0; i < p.length; i += 2) {
        x0 = Math.min(x0, p[i]);
        x1 = Math.max(x1, p[i]);
        y0 = Math.min(y0, p[i + 1]);
        y1 = Math.max(y1, p[i + 1]);
      }
      this.index.add(x0, y0, x1, y1);
    }
    this.index.finish();
  }

  /** All that lies within `reach` mm of a point, likeliest first. */
  at(x: number, y: number, reach: number): Target[] {
    const found: (Target & { rank: number })[] = [];
    for (const view of this.ink.views) {
      for (const snap of view.snaps) {
        const d = Math.hypot(snap.x - x, snap.y - y);
        if (d <= reach)
          found.push({
            kind: 'point',
            view: view.id,
            ref: snap.ref,
            at: snap.at,
            owner: view.id,
            x: snap.x,
            y: snap.y,
            words: snap.word,
            marks: [],
            rank: (2 * d) / reach,
          });
      }
    }
    const near = this.index?.search(x - reach, y - reach, x + reach, y + reach) ?? [];
    const best = new Map<string, { d: number; mark: Mark; x: number; y: number }>();
    for (const i of near) {
      const mark = this.marks[i];
      const box = mark.m === 't' ? [...(mark.box ?? []), ...(mark.box ?? []).slice(0, 2)] : (mark.pts ?? []);
      let [d, qx, qy] = nearestOn(box, x, y);
      if (mark.m === 't' && inside(mark.box ?? [], x, y)) d = 0;
      if (d > reach) continue;
      const key = mark.src && !mark.o.startsWith('c') ? `${mark.o}|${mark.src}` : mark.o;
      const old = best.get(key);
      if (!old || d < old.d) best.set(key, { d, mark, x: qx, y: qy });
    }
    for (const { d, mark, x: qx, y: qy } of best.values()) {
      const letter = mark.o[0];
      const view = this.ink.groups[mark.o] ?? mark.o;
      if (letter === 'd')
        found.push({
          ...this.owned('dimension', mark, view, qx, qy),
          words: `dimension ${this.ink.texts[mark.o] ?? ''}`,
          rank: 1.2 + d / reach,
        });
      else if (letter === 'c')
        found.push({
          ...this.owned('centre', mark, view, qx, qy),
          words: 'centre line',
          rank: 3 + d / reach,
        });
      else if (mark.src) {
        const words = this.ink.views.find((v) => v.id === view)?.words[mark.src] ?? 'edge';
        found.push({
          kind: 'line',
          view,
          ref: mark.src,
          at: '',
          owner: mark.o,
          x: qx,
          y: qy,
          words: mark.pen === 'hidden' ? `hidden ${words}` : words,
          marks: (this.ink.marks as Mark[]).filter((m) => m.o === mark.o && m.src === mark.src),
          rank: 1 + d / reach + (mark.pen === 'hidden' ? 0.4 : 0),
        });
      }
    }
    for (const f of this.ink.fields)
      if (x >= f.x && x <= f.x + f.width && y >= f.y && y <= f.y + f.height)
        found.push({
          kind: 'field',
          view: '',
          ref: '',
          at: '',
          owner: 'sheet',
          x,
          y,
          words: f.auto ? `${f.label}: fills itself` : `${f.label}: click to fill in`,
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
          x,
          y,
          words: `${v.name} view, ${v.scale_text}`,
          marks: [],
          rank: 6 + v.width * v.height * 1e-7,
        });
    }
    return found.sort((a, b) => a.rank - b.rank);
  }

  private owned(kind: 'dimension' | 'centre', mark: Mark, view: string, x: number, y: number) {
    const marks = (this.ink.marks as Mark[]).filter((m) => m.o === mark.o);
    return {
      kind,
      view,
      ref: mark.src ?? '',
      // a centre mark has two lines, an axis one
      at: kind === 'centre' ? (marks.length > 1 ? 'centre' : 'axis') : mark.m === 't' ? 'text' : '',
      owner: mark.o,
      x,
      y,
      marks,
    };
  }

  /** The target of a centre mark or line, by its id. */
  of(owner: string): Target | undefined {
    const mark = (this.ink.marks as Mark[]).find((m) => m.o === owner && m.pts);
    if (!mark?.pts) return undefined;
    const view = this.ink.groups[owner] ?? owner;
    return { ...this.owned('centre', mark, view, mark.pts[0], mark.pts[1]), words: 'centre line' };
  }

  /** All lines and points of a view in reading order, for going through them by keys. */
  all(view: string): Target[] {
    const v = this.ink.views.find((w) => w.id === view);
    if (!v) return [];
    const lines = new Map<string, Target>();
    for (const m of this.ink.marks as Mark[])
      if (m.o === view && m.src && m.pts && !lines.has(m.src)) {
        const k = Math.floor(m.pts.length / 4) * 2;
        const next = Math.min(k + 2, m.pts.length - 2);
        lines.set(m.src, {
          kind: 'line',
          view,
          ref: m.src,
          at: '',
          owner: view,
          x: (m.pts[k] + m.pts[next]) / 2,
          y: (m.pts[k + 1] + m.pts[next + 1]) / 2,
          words: v.words[m.src] ?? 'edge',
          marks: (this.ink.marks as Mark[]).filter((o) => o.o === view && o.src === m.src),
        });
      }
    const points: Target[] = v.snaps.map((s) => ({
      kind: 'point',
      view,
      ref: s.ref,
      at: s.at,
      owner: view,
      x: s.x,
      y: s.y,
      words: s.word,
      marks: [],
    }));
    return [...lines.values(), ...points].sort((a, b) => a.y - b.y || a.x - b.x);
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
