import { kinds } from './kinds';
import { api, Refusal, type Act, type CutAct, type CutPoint, type Element, type View } from '../api/client';
import { forSizes, type Target } from './board/hits';
import type { Making } from './making/making';
import { beside } from './named';
import { selected } from './selection.svelte';
import { drawnOf } from './parts_of_views';
import { work } from './work.svelte';

/** The boxes of the lettering of sizes on a view. */
function writtenOn(view: string) {
  const sizes = (work.ink?.elements ?? []).filter(
    (e) => e.group === view && kinds.get(e.kind)?.counts === 'size',
  );
  return sizes.flatMap((e) =>
    (e.marks ?? []).flatMap((m) => {
      if (m.m !== 't') return [];
      const xs = m.box.filter((_, k) => k % 2 === 0).map((x) => x + e.x);
      const ys = m.box.filter((_, k) => k % 2 === 1).map((y) => y + e.y);
      const [x, y] = [Math.min(...xs), Math.min(...ys)];
      return [{ x, y, width: Math.max(...xs) - x, height: Math.max(...ys) - y }];
    }),
  );
}

/** What a hand is doing just now. */
export type Doing =
  | { kind: 'nothing' }
  | { kind: 'placing'; picks: Target[]; wish: string }
  | { kind: 'making'; making: Making }
  | Cutting
  | Outlining;

/** A cutting line that grows by clicks, then the section that is pulled out of it. Without a view yet, the first click
 * chooses it. */
export type Cutting = {
  kind: 'cutting';
  view: string;
  points: CutPoint[];
  growing: boolean;
  form: Form;
  flip: boolean;
};

/** A closed line that is drawn round what is to be cut open, then the depth that is picked. */
export type Outlining = {
  kind: 'outlining';
  view: string;
  points: [number, number][];
  free: boolean;
  closed: boolean;
};

/** mm on the sheet off a view within which a cutting line may begin. */
const NEAR = 40;
const FORMS = ['section', 'half', 'short', 'removed', 'revolved'] as const;
export type Form = (typeof FORMS)[number];

/** Where the pointer is, what lies under it, and the ink of what a hand is about to make. */
class Asking {
  doing = $state.raw<Doing>({ kind: 'nothing' });
  hover = $state.raw<Target[]>([]);
  hoverAt = $state(0);
  pointer = $state.raw<[number, number]>([0, 0]);
  preview = $state.raw<Element[]>([]);
  /** The Alt key is held: legs of a cutting line may lean. */
  alt = false;
  words = $state('');
  others = $state.raw<string[]>([]);
  private flying = false;
  private next: Act | null = null;
  private tick = 0;

  /** Elements that are not drawn while what is being made stands in their place. */
  get hides(): string[] {
    if (this.doing.kind === 'outlining') return this.doing.closed ? drawnOf(this.doing.view) : [];
    return (this.doing.kind === 'making' && this.doing.making.hides?.()) || [];
  }

  /** What is pointed at. */
  get target(): Target | undefined {
    return this.hover[this.hoverAt % Math.max(1, this.hover.length)];
  }

  /** End what the hand is doing; nothing of it is kept. */
  stop() {
    this.doing = { kind: 'nothing' };
    this.preview = [];
    this.words = '';
    this.others = [];
    this.next = null;
    this.tick++;
  }

  look(at: [number, number], reach: number) {
    this.pointer = at;
    this.hover = this.fitting(work.hits?.at(at[0], at[1], reach) ?? []);
    this.hoverAt = 0;
  }

  /** What can be caught for what the hand is doing: sides of circles and extended corners for sizes alone. */
  fitting(found: Target[]): Target[] {
    const { doing } = this;
    const sizes = doing.kind === 'nothing' || doing.kind === 'placing';
    if (sizes || (doing.kind === 'making' && doing.making.measures)) return found;
    return found.filter((t) => !forSizes(t));
  }

  /** Ask for the ink of an act, one request in flight, the last wish winning. */
  ask(act: Act) {
    this.next = act;
    if (!this.flying) void this.fly();
  }

  private async fly() {
    this.flying = true;
    while (this.next) {
      const act = this.next;
      const mine = this.tick;
      this.next = null;
      try {
        const found = await api.preview(work.id, act);
        if (mine === this.tick) {
          this.preview = found.elements;
          this.words = found.words;
          this.others = found.others ?? [];
        }
      } catch (error) {
        if (mine === this.tick) {
          this.preview = [];
          this.others = [];
          this.words = error instanceof Refusal ? error.message : String(error);
        }
      }
    }
    this.flying = false;
  }

  pullAct(picks: Target[], wish: string): Act {
    return {
      act: 'pull_dimension',
      view: picks[0].view,
      picks: picks.map((t) => ({ ref: t.ref, at: t.at, x: t.x, y: work.up([t.x, t.y])[1] })),
      pointer: work.up(this.pointer),
      wish,
    };
  }

  /** Begin to place a dimension out of picks; it follows the pointer. */
  place(picks: Target[], wish = '') {
    this.doing = { kind: 'placing', picks, wish };
    const view = work.ink?.views.find((v) => v.id === picks[0]?.view);
    const last = picks[picks.length - 1];
    // pointed at by keys, it stands beside its view first
    if (view && last && last.x === this.pointer[0] && last.y === this.pointer[1])
      this.pointer = beside(picks, view, writtenOn(view.id));
    this.tick++;
    this.ask(this.pullAct(picks, wish));
  }

  follow() {
    if (this.doing.kind === 'placing') this.ask(this.pullAct(this.doing.picks, this.doing.wish));
    else if (this.doing.kind === 'cutting') this.followCut(this.doing);
    else if (this.doing.kind === 'outlining') this.followOutline(this.doing);
    else if (this.doing.kind === 'making') this.followMaking(this.doing.making);
  }

  /** Begin an act that follows the pointer. */
  make(making: Making) {
    this.stop();
    this.doing = { kind: 'making', making };
    this.words = making.words();
    this.follow();
  }

  private followMaking(making: Making) {
    const act = making.still ? null : making.act();
    if (act) return this.ask(act);
    this.preview = [];
    if (!making.still) this.words = making.words();
  }

  /** A click while an act is in the making. */
  makingClick() {
    if (this.doing.kind !== 'making') return;
    if (this.doing.making.click()) return this.finish();
    if (this.doing.making.act()) this.follow();
  }

  /** What the pointer (or a place) has caught, as a place of a cutting line. */
  caught(
    t: Target | null | undefined = this.target,
    place = this.pointer,
  ): { x: number; y: number; ref: string; at: string } {
    const [x, y] = work.up(place);
    const mark = t?.kind === 'element' ? work.annotation(t.owner) : undefined;
    const stands = mark && kinds.get(mark.kind)?.caught?.(mark);
    if (stands) return { x, y, ...stands };
    if (t && forSizes(t)) return { x: t.x, y: work.up([t.x, t.y])[1], ref: '', at: '' };
    if (t?.kind === 'point') return { x: t.x, y: work.up([t.x, t.y])[1], ref: t.ref, at: t.at };
    if (t?.kind === 'line' && t.ref && t.shape && t.shape !== 'curve')
      return {
        x,
        y,
        ref: t.ref,
        at: { straight: 'line', circle: 'centre', arc: 'centre', outline: 'axis' }[t.shape],
      };
    return { x, y, ref: '', at: '' };
  }

  /** The view to do something on: that which is chosen, else that under the pointer, or another; it is said where there is none. */
  viewFor(chosen: string, other = ''): string {
    const t = this.target;
    const view = chosen || t?.view || (t?.kind === 'element' && work.elements.get(t.owner)?.group) || other;
    if (work.view(view)) return view;
    this.words = 'begin on a view';
    return '';
  }

  /** Begin a cutting line: with a place it runs through, or with the next click. */
  cut(view: string, points: CutPoint[] = [], growing = true, form: Form = 'section') {
    this.stop();
    this.doing = { kind: 'cutting', view, points, growing, form, flip: false };
    this.words = points.length ? '' : 'click where the cut is to begin, best on a centre';
    if (points.length) this.follow();
  }

  cutAct(doing: Cutting): CutAct & { act: 'cut_view' } {
    const { view, points, growing, form, flip } = doing;
    return { act: 'cut_view', view, points, to: work.up(this.pointer), form, flip, growing, lean: this.alt };
  }

  /** Cut a view through the middle of the part, across the way that the hand pulls then. */
  cutMiddle(view: View) {
    this.cut(view.id, [{ x: view.place[0], y: view.place[1], ref: '', at: 'box' }], false);
  }

  private followCut(doing: Cutting) {
    const last = doing.points.at(-1);
    if (!last) return;
    const [x, y] = work.up(this.pointer);
    if (doing.growing && Math.hypot(last.x - x, last.y - y) < 1) {
      this.preview = [];
      this.words = 'from here on; click where it turns or ends';
    } else this.ask(this.cutAct(doing));
  }

  /** A click while a cutting line grows, or its section is pulled. */
  cutClick() {
    const doing = this.doing;
    if (doing.kind !== 'cutting') return;
    if (!doing.growing) return this.finish();
    const view = this.viewFor(doing.view, this.beside());
    if (!view) return;
    const place = this.caught();
    const last = doing.points.at(-1);
    const again = last && Math.hypot(place.x - last.x, place.y - last.y) < 1;
    const beyond = !!last && !this.within(view);
    const points = again ? doing.points : [...doing.points, { ...place, lean: this.alt }];
    this.doing = { ...doing, view, points, growing: !(again || beyond) };
    this.follow();
  }

  /** End the line where it is; its section is pulled from now on. */
  endLine() {
    if (this.doing.kind !== 'cutting' || !this.doing.points.length) return;
    if (!this.doing.growing) return this.finish();
    this.doing = { ...this.doing, growing: false };
    this.follow();
  }

  /** Take back the last corner of a line or outline; true where there was one. */
  back(): boolean {
    const doing = this.doing;
    if (doing.kind === 'cutting' && !doing.growing) this.doing = { ...doing, growing: true };
    else if (doing.kind === 'cutting' && doing.points.length > 1)
      this.doing = { ...doing, points: doing.points.slice(0, -1) };
    else if (doing.kind === 'outlining' && doing.closed) this.doing = { ...doing, closed: false };
    else if (doing.kind === 'outlining' && doing.points.length > 1)
      this.doing = { ...doing, points: doing.points.slice(0, -1) };
    else if (!(doing.kind === 'making' && doing.making.back?.())) return false;
    this.follow();
    return true;
  }

  /** Another form of the section that is being made, by its words. */
  another(words: string) {
    if (this.doing.kind !== 'cutting') return;
    const form = FORMS.filter((f) => f !== (this.doing as Cutting).form)[this.others.indexOf(words)];
    if (form) this.doing = { ...this.doing, form };
    this.follow();
  }

  /** Look the other way. */
  flip() {
    if (this.doing.kind !== 'cutting') return;
    this.doing = { ...this.doing, flip: !this.doing.flip };
    this.follow();
  }

  /** The view that stands nearest to the pointer, level with it or above or below it; none if it is far. */
  private beside(): string {
    const [x, y] = this.pointer;
    let [best, least] = ['', NEAR];
    for (const v of work.ink?.views ?? []) {
      const across = Math.max(v.x - x, x - v.x - v.width, 0);
      const up = Math.max(v.y - y, y - v.y - v.height, 0);
      if (!(across && up) && across + up < least) [best, least] = [v.id, across + up];
    }
    return best;
  }

  private within(view: string): boolean {
    const v = work.ink?.views.find((one) => one.id === view);
    const [x, y] = this.pointer;
    return !!v && x > v.x - 1 && x < v.x + v.width + 1 && y > v.y - 1 && y < v.y + v.height + 1;
  }

  /** Begin to draw round what is to be cut open in a view. */
  outline(view: string) {
    this.stop();
    this.doing = { kind: 'outlining', view, points: [], free: true, closed: false };
    this.words = 'draw round what is to be cut open, or click its corners';
  }

  outlineAct(doing: Outlining): Act {
    const outline = doing.closed ? doing.points : [...doing.points, work.up(this.pointer)];
    const { ref, at } = doing.closed ? this.caught() : { ref: '', at: '' };
    const middle = doing.closed && !ref ? { ref: '', at: 'box' } : { ref, at };
    return {
      act: 'cut_locally',
      view: doing.view,
      outline,
      smooth: doing.free,
      growing: !doing.closed,
      ...middle,
    };
  }

  private followOutline(doing: Outlining) {
    if (doing.points.length) this.ask(this.outlineAct(doing));
  }

  /** A click while an outline is drawn by its corners, or its depth is picked. */
  outlineClick() {
    const doing = this.doing;
    if (doing.kind !== 'outlining') return;
    if (doing.closed) return this.finish();
    const [x, y] = work.up(this.pointer);
    const [first] = doing.points;
    if (!doing.view) {
      const view = this.target?.view;
      if (!view) {
        this.words = 'begin on a view';
        return;
      }
      this.doing = { ...doing, view, points: [[x, y]], free: false };
    } else if (first && doing.points.length > 2 && Math.hypot(first[0] - x, first[1] - y) < 3)
      this.doing = { ...doing, closed: true };
    else this.doing = { ...doing, points: [...doing.points, [x, y]], free: false };
    this.follow();
  }

  /** The outline is drawn; its depth is picked next. */
  close(points: [number, number][], free: boolean) {
    if (this.doing.kind !== 'outlining') return;
    this.doing = { ...this.doing, points, free, closed: true };
    this.follow();
  }

  /** Set down what is being placed. */
  async finish() {
    if (this.doing.kind === 'nothing') return;
    const doing = this.doing;
    const act: Act | null =
      doing.kind === 'making'
        ? doing.making.act()
        : doing.kind === 'placing'
          ? this.pullAct(doing.picks, doing.wish)
          : doing.kind === 'cutting'
            ? this.cutAct(doing)
            : this.outlineAct(doing);
    if (!act) return;
    this.stop();
    const state = await work.act(act);
    const made = state?.created?.at(-1);
    const again = state && doing.kind === 'making' ? doing.making.again?.() : null;
    if (again) this.make(again);
    else if (made) selected.elements(made);
    else if (state && doing.kind === 'outlining') selected.elements(doing.view);
    else if (state && doing.kind === 'making' && doing.making.view) selected.elements(doing.making.view());
  }
}

export const interaction = new Asking();
