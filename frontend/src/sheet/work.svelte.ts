import {
  api,
  Refusal,
  type Act,
  type Dimension,
  type DrawingState,
  type Mark,
  type Sheet,
  type SheetInk,
  type View,
  type ViewProgress,
} from '../api/client';
import { notices } from '../lib/notices.svelte';
import { Hits, type Target } from './hits';

export type Selection =
  | { kind: 'sheet' }
  | { kind: 'view'; id: string }
  | { kind: 'dimension'; id: string }
  | { kind: 'centre'; id: string }
  | { kind: 'geometry'; targets: Target[] };

/** What a hand is doing just now. */
export type Doing =
  | { kind: 'nothing' }
  | { kind: 'placing'; picks: Target[]; wish: string }
  | { kind: 'pulling-view'; view: string; side: string };

/** The one state of the sheet at work. */
class Work {
  id = 0;
  state = $state<DrawingState | null>(null);
  ink = $state.raw<SheetInk | null>(null);
  sheetId = $state('s1');
  selection = $state<Selection>({ kind: 'sheet' });
  doing = $state<Doing>({ kind: 'nothing' });
  hover = $state.raw<Target[]>([]);
  hoverAt = $state(0);
  pointer = $state<[number, number]>([0, 0]);
  preview = $state.raw<Mark[]>([]);
  previewWords = $state('');
  others = $state.raw<string[]>([]);
  step = $state(0);
  busy = $state('');
  field = $state<string | null>(null);
  /** A sheet that is to be issued and waits for its views. */
  issuing = $state.raw<{ kind: string; share: number; what: string; owner: object } | null>(null);
  hits: Hits | null = null;
  /** Views that are being projected, and how far they are. */
  progress = $state.raw<ViewProgress[]>([]);
  private watching = 0;
  private queue: Promise<unknown> = Promise.resolve();
  private waiting = 0;
  private flying = false;
  private next: Act | null = null;
  private tick = 0;

  sheet = $derived<Sheet | undefined>(this.state?.document.sheets?.find((s) => s.id === this.sheetId));
  views = $derived<View[]>(this.sheet?.views ?? []);
  dimensions = $derived<Dimension[]>(
    (this.sheet?.annotations ?? []).filter((a) => a.kind === 'dimension') as Dimension[],
  );
  centres = $derived((this.sheet?.annotations ?? []).filter((a) => a.kind !== 'dimension'));

  get target(): Target | undefined {
    return this.hover[this.hoverAt % Math.max(1, this.hover.length)];
  }

  async open(id: number) {
    this.id = id;
    this.state = null;
    this.ink = null;
    this.clear();
    try {
      const state = await api.drawing(id);
      this.sheetId = state.document.sheets?.[0].id ?? 's1';
      await this.take(state);
    } catch (error) {
      notices.refuse(error);
    }
  }

  clear() {
    this.selection = { kind: 'sheet' };
    this.stop();
    this.hover = [];
    this.field = null;
  }

  /** End what the hand is doing; nothing of it is kept. */
  stop() {
    this.doing = { kind: 'nothing' };
    this.preview = [];
    this.previewWords = '';
    this.others = [];
    this.next = null;
    this.tick++;
  }

  async take(state: DrawingState) {
    const ink = await api.ink(state.id, this.sheetId);
    this.state = state;
    this.ink = ink;
    this.hits = new Hits(ink);
    this.hover = [];
    const alive = new Set([
      ...this.views.map((v) => v.id),
      ...(this.sheet?.annotations ?? []).map((a) => a.id),
    ]);
    if ('id' in this.selection && !alive.has(this.selection.id)) this.selection = { kind: 'sheet' };
    void this.watch();
  }

  /** While views are being projected: ask how far they are, and show each when it is there. */
  private async watch() {
    const mine = ++this.watching;
    while (this.ink?.views.some((v) => v.pending)) {
      try {
        const list = await api.progress(this.id, this.sheetId);
        if (mine !== this.watching) return;
        this.progress = list;
        if (this.ink.views.some((v) => v.pending && !list.some((p) => p.view === v.id))) {
          const ink = await api.ink(this.id, this.sheetId);
          if (mine !== this.watching) return;
          this.ink = ink;
          this.hits = new Hits(ink);
        }
        if (list.length && list.every((p) => p.stopped)) return;
      } catch (error) {
        notices.refuse(error);
        return;
      }
      await new Promise((done) => setTimeout(done, 350));
      if (mine !== this.watching) return;
    }
    this.progress = [];
  }

  /** Stop projecting a view, or begin again. */
  async projection(view: string, act: 'stop' | 'again') {
    try {
      await api.projection(this.id, this.sheetId, view, act);
    } catch (error) {
      notices.refuse(error);
    }
    void this.watch();
  }

  /** Changes go to the server one after the other, each on what the one before left; none is dropped. */
  private change(
    what: string,
    ask: (revision: number) => Promise<DrawingState>,
  ): Promise<DrawingState | null> {
    const id = this.id;
    const turn = this.queue.then(() => (this.id === id ? this.send(what, ask) : null));
    this.waiting++;
    this.busy = what;
    this.queue = turn.finally(() => {
      if (--this.waiting === 0) this.busy = '';
    });
    return turn;
  }

  private async send(
    what: string,
    ask: (revision: number) => Promise<DrawingState>,
  ): Promise<DrawingState | null> {
    if (!this.state) return null;
    this.busy = what;
    try {
      const state = await ask(this.state.revision);
      await this.take(state);
      return state;
    } catch (error) {
      notices.refuse(error);
      if (error instanceof Refusal && error.problem.status === 409) await this.reload();
      return null;
    }
  }

  async reload() {
    try {
      await this.take(await api.drawing(this.id));
    } catch (error) {
      notices.refuse(error);
    }
  }

  act(act: Act) {
    return this.change('working', (revision) => api.act(this.id, revision, act));
  }

  operation(operation: Record<string, unknown>) {
    return this.act({ act: 'operation', operation });
  }

  undo() {
    this.stop();
    if (this.state?.undo || this.waiting) return this.change('undoing', (r) => this.turn('undo', r));
  }

  redo() {
    this.stop();
    if (this.state?.redo || this.waiting) return this.change('redoing', (r) => this.turn('redo', r));
  }

  /** Undo or redo where there is something left to, once its turn has come. */
  private turn(way: 'undo' | 'redo', revision: number): Promise<DrawingState> {
    return this.state?.[way] ? api[way](this.id, revision) : Promise.resolve(this.state!);
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
        const found = await api.preview(this.id, act);
        if (mine === this.tick) {
          this.preview = found.marks as Mark[];
          this.previewWords = found.words;
          this.others = found.others ?? [];
        }
      } catch (error) {
        if (mine === this.tick) {
          this.preview = [];
          this.others = [];
          this.previewWords = error instanceof Refusal ? error.message : String(error);
        }
      }
    }
    this.flying = false;
  }

  /** A point of the screen's sheet (y down) as the server takes it (y up). */
  up(p: [number, number]): [number, number] {
    return [p[0], (this.ink?.height ?? 0) - p[1]];
  }

  pullAct(picks: Target[], wish: string): Act {
    return {
      act: 'pull_dimension',
      view: picks[0].view,
      picks: picks.map((t) => ({ ref: t.ref, at: t.at, x: t.x, y: this.up([t.x, t.y])[1] })),
      pointer: this.up(this.pointer),
      wish,
    };
  }

  /** Begin to place a dimension out of picks; it follows the pointer. */
  place(picks: Target[], wish = '') {
    this.doing = { kind: 'placing', picks, wish };
    this.tick++;
    this.ask(this.pullAct(picks, wish));
  }

  followPlacing() {
    if (this.doing.kind === 'placing') this.ask(this.pullAct(this.doing.picks, this.doing.wish));
  }

  async finishPlacing() {
    if (this.doing.kind !== 'placing') return;
    const act = this.pullAct(this.doing.picks, this.doing.wish);
    this.stop();
    const state = await this.act(act);
    const made = state?.created?.at(-1);
    if (made) this.selection = { kind: 'dimension', id: made };
  }

  setView(id: string, changes: Record<string, unknown>) {
    return this.operation({ op: 'set_view', view: id, changes });
  }

  setDimension(id: string, changes: Record<string, unknown>) {
    return this.operation({ op: 'change_annotation', id, changes });
  }

  changeSheet(changes: Record<string, unknown>) {
    return this.act({ act: 'change_sheet', sheet: this.sheetId, ...changes });
  }

  centreAll(views: string[] | null) {
    return this.act({ act: 'centres', sheet: this.sheetId, views });
  }

  remove() {
    if ('id' in this.selection) return this.operation({ op: 'remove', ids: [this.selection.id] });
  }

  /** Move what is selected by so many mm on the sheet (y up). */
  nudge(dx: number, dy: number) {
    if (this.selection.kind === 'view') {
      const id = this.selection.id;
      const view = this.views.find((v) => v.id === id);
      if (view)
        void this.operation({ op: 'move_view', view: id, to: [view.place[0] + dx, view.place[1] + dy] });
    } else if (this.selection.kind === 'dimension') {
      const id = this.selection.id;
      const d = this.dimensions.find((x) => x.id === id);
      if (!d?.place) return;
      const p = d.place;
      if (d.measure === 'diameter' || d.measure === 'radius' || d.measure === 'angle') {
        void this.setDimension(id, { place: { angle: (p.angle ?? 45) - dx, offset: (p.offset ?? 10) + dy } });
      } else {
        const text = Math.abs(dx) > Math.abs(dy) === (d.direction !== 'vertical');
        const by = text ? dx || dy : dy || dx;
        void this.setDimension(id, {
          place: text
            ? { along: (p.along ?? 0) + by }
            : { offset: (p.offset ?? 10) + by * (p.frame === 'model' ? 1 : (p.side ?? 1)) },
        });
      }
    }
  }
}

export const work = new Work();
