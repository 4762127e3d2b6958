import { opened } from '../lib/lately';
import { kinds } from './kinds';
import {
  api,
  Refusal,
  type Act,
  type Annotation,
  type AnnotationChanges,
  type Dimension,
  type Direction,
  type DrawingState,
  type Element,
  type Operation,
  type Sheet,
  type SheetInk,
  type Shown,
  type View,
  type ViewChanges,
  type ViewProgress,
} from '../api/client';
import { notices } from '../lib/notices.svelte';
import { Hits } from './board/hits';
import { selected } from './selection.svelte';

/** ms after which it is asked again whether another window has changed the drawing. */
const SOON = 1000;

/** A word with the first number that none of these is called by yet. */
function freeName(word: string, taken: { name: string }[]): string {
  let k = 1;
  while (taken.some((t) => t.name === `${word} ${k}`)) k++;
  return `${word} ${k}`;
}

/** The ink of an element that the screen has, where it stands now. */
function movedTo(sent: Element, had: Element | undefined): Element | undefined {
  return had && { ...sent, marks: had.marks };
}

/** The drawing at work: as the server has it, with its ink, and the changes on their way there. */
class Work {
  id = 0;
  state = $state.raw<DrawingState | null>(null);
  ink = $state.raw<SheetInk | null>(null);
  sheetId = $state('');
  step = $state(0);
  busy = $state('');
  field = $state<string | null>(null);
  /** The slip for issuing as a revision is open. */
  issuingAs = $state(false);
  /** Sheets are being laid on the paper of a printer. */
  printing = $state(false);
  /** The table whose cells are being edited. */
  table = $state('');
  /** Names of the short list of materials. */
  materials = $state.raw<string[]>([]);
  /** The part of which another revision is being chosen; none while empty. */
  revising = $state('');
  /** The revision that is offered, as long as it was not put off. */
  offered = $derived((this.state?.newer ?? []).find((n) => !this.putOff.includes(n.by)));
  putOff = $state<string[]>([]);
  /** What is to be removed, while it is asked what becomes of the views that hang on it. */
  removing = $state.raw<string[]>([]);
  /** A sheet that is to be issued and waits for its views. */
  issuing = $state.raw<{ kind: string; share: number; what: string; owner: object } | null>(null);
  hits: Hits | null = null;
  /** The size for which a fit is being chosen; none while empty. */
  fitting = $state('');
  /** The style of sizes that is being changed; none while empty. */
  styling = $state('');

  /** The style of views that is being changed; none while empty. */
  viewStyling = $state('');

  /** Change the look of what marks and names a view: of its own style, or of a new one that it gets. */
  async editViewLook(id: string) {
    const styles = this.state?.document.view_styles ?? [];
    const name = this.view(id)?.style || this.state?.document.view_style || '';
    if (styles.some((s) => s.name === name)) {
      this.viewStyling = name;
      return;
    }
    const style = { name: freeName('Look', styles) };
    const done = await this.together('Begin a look of views', [
      { op: 'set_styles', view_styles: [...styles, style] },
      { op: 'set_view', view: id, changes: { style: style.name } },
    ]);
    if (done) this.viewStyling = style.name;
  }

  /** Change the look of a size: of its own style, or of a new one that it gets. */
  async editLook(id: string) {
    const own = this.dimensions.find((d) => d.id === id);
    const styles = this.state?.document.styles ?? [];
    const name = own?.style || this.state?.document.style || '';
    if (styles.some((s) => s.name === name)) this.styling = name;
    else {
      const style = { name: freeName('Own', styles) };
      const done = await this.together('Begin a look of sizes', [
        { op: 'set_styles', styles: [...styles, style] },
        { op: 'change_annotation', id, changes: { style: style.name } },
      ]);
      if (done) this.styling = style.name;
    }
  }

  /** The view of which lines that are left out are seen in grey. */
  ghosts = $state('');
  /** Views that are being projected, and how far they are. */
  progress = $state.raw<ViewProgress[]>([]);
  private watching = 0;
  private queue: Promise<unknown> = Promise.resolve();
  private waiting = 0;

  /** Directions that are kept with the drawing's part under names. */
  directions = $state.raw<Direction[]>([]);
  /** The part that the sheet is about. */
  partKey = $derived(
    this.state?.document.sheets.find((s) => s.id === this.sheetId)?.views?.[0]?.part ??
      this.state?.document.parts?.[0]?.key ??
      '',
  );

  sheet = $derived<Sheet | undefined>(this.state?.document.sheets.find((s) => s.id === this.sheetId));
  views = $derived<View[]>(this.sheet?.views ?? []);
  annotations = $derived<Annotation[]>(this.sheet?.annotations ?? []);
  dimensions = $derived<Dimension[]>(this.annotations.filter((a) => a.kind === 'dimension'));
  /** What is said of the part in figures. */
  signs = $derived(this.annotations.filter((a) => kinds.get(a.kind)?.counts === 'sign'));
  sizes = $derived(this.annotations.filter((a) => kinds.get(a.kind)?.counts === 'size'));
  sheets = $derived(this.state?.document.sheets ?? []);
  /** The place of the shown sheet among all, from 1 on. */
  sheetNumber = $derived(this.sheets.findIndex((s) => s.id === this.sheetId) + 1);
  /** As of which step the small picture of a sheet is shown: it is made anew when one leaves the sheet. */
  pictured = $state.raw<Record<string, number>>({});
  /** The sheet whose tag a view is held over, or 'new'. */
  overTag = $state('');
  elements = $derived(new Map<string, Element>((this.ink?.elements ?? []).map((e) => [e.id, e])));

  /** A hand holds something on the sheet: what another window changed is shown when it has let go. */
  gripped = false;
  private following = 0;

  /** The drawing is no longer on the screen. */
  close() {
    this.following++;
  }

  /** While a drawing is on the screen: show what another window has changed. */
  private async follow() {
    const mine = ++this.following;
    for (;;) {
      await new Promise((done) => setTimeout(done, SOON));
      if (mine !== this.following) return;
      if (document.hidden || this.waiting || this.gripped || !this.state) continue;
      try {
        const { edit } = await api.edit(this.id);
        const shown = this.state.edit;
        if (mine !== this.following || edit === shown || this.waiting || this.gripped) continue;
        const state = await api.drawing(this.id);
        // what was done here meanwhile goes before
        if (mine === this.following && !this.waiting && this.state.edit === shown) await this.take(state);
      } catch {
        // it is asked again; what is done here tells what is wrong
      }
    }
  }

  async open(id: number) {
    this.id = id;
    this.state = null;
    this.ink = null;
    this.field = null;
    this.table = '';
    this.issuingAs = false;
    this.printing = false;
    this.putOff = [];
    void api.materials().then(
      (found) => (this.materials = found.map((m) => m.name)),
      () => {},
    );
    selected.nothing();
    try {
      const state = await api.drawing(id);
      const [front] = state.document.sheets;
      this.sheetId = front.id;
      this.pictured = Object.fromEntries(state.document.sheets.map((s) => [s.id, state.edit]));
      await this.take(state);
      opened(id);
      void this.follow();
      this.directions = this.partKey ? (await api.part(this.partKey)).directions : [];
    } catch (error) {
      notices.refuse(error);
    }
  }

  /** Ink of the sheet. */
  private async freshInk(): Promise<SheetInk> {
    const had = this.ink;
    // the sheet is shown first; what can be pointed at in views of many lines comes after
    if (!had) return api.ink(this.id, this.sheetId, '', 'later');
    return this.joined(had, await api.ink(this.id, this.sheetId, had.token));
  }

  /** Ink as it was told beside what the screen had then: of that, only where it stands comes along. */
  private async joined(had: SheetInk, ink: SheetInk): Promise<SheetInk> {
    const byId = new Map(had.elements.map((e) => [e.id, e]));
    const byKey = new Map(had.elements.map((e) => [e.key, e]));
    const fresh = new Map(ink.elements.map((e) => [e.id, e]));
    const views = new Map(had.views.map((v) => [v.key, v]));
    let whole = true;
    // what stood at the place of its view goes along with it
    const along = (e: Element | undefined) => {
      const [old, now] = e ? [byId.get(e.group), fresh.get(e.group)] : [];
      return e && old && now && e.id !== e.group && e.x === old.x && e.y === old.y
        ? { ...e, x: now.x, y: now.y }
        : e;
    };
    ink.elements = ink.order.flatMap((id) => {
      const sent = fresh.get(id);
      const found = sent ? (sent.marks ? sent : movedTo(sent, byKey.get(sent.key))) : along(byId.get(id));
      if (!found) whole = false;
      return found ?? [];
    });
    ink.views = ink.views.map((v) => {
      const old = views.get(v.key);
      if (!v.pointed && !old) whole = false;
      return v.pointed ? v : { ...v, pointed: old?.pointed ?? null };
    });
    return whole ? ink : api.ink(this.id, this.sheetId);
  }

  private show(ink: SheetInk) {
    this.ink = ink;
    this.hits = new Hits(ink, (kind) => kinds.get(kind));
  }

  /** Show a drawing as it stands; `had` is the ink beside which its own was told, where that came along. */
  async take(state: DrawingState, had: SheetInk | null = null) {
    const sheets = state.document.sheets;
    if (!sheets.some((s) => s.id === this.sheetId)) {
      // the sheet that was shown is gone: the one that stands in its place
      this.sheetId = sheets[Math.min(Math.max(this.sheetNumber - 1, 0), sheets.length - 1)].id;
      this.ink = null;
    }
    const along = had && had === this.ink && state.ink;
    const ink = along ? await this.joined(had, along) : await this.freshInk();
    this.state = { ...state, ink: null };
    this.show(ink);
    selected.keep(
      new Set([...[...this.views, ...this.annotations].map((e) => e.id), ...this.elements.keys()]),
    );
    void this.watch();
    void this.point();
  }

  /** Show another sheet of the drawing. */
  async openSheet(id: string) {
    if (id === this.sheetId || !this.state) return;
    selected.nothing();
    this.pictured = { ...this.pictured, [this.sheetId]: this.state.edit };
    this.sheetId = id;
    this.ink = null;
    try {
      await this.take(this.state);
    } catch (error) {
      notices.refuse(error);
    }
  }

  /** Show the next sheet, or the last. */
  async stepSheet(by: 1 | -1) {
    const next = this.sheets[this.sheetNumber - 1 + by];
    if (next) await this.openSheet(next.id);
  }

  /** An act after which another sheet is shown: one that is named, or the one that it has made. True where it was done. */
  private async leadingTo(act: Act, sheet = ''): Promise<boolean> {
    const had = new Set(this.sheets.map((s) => s.id));
    const state = await this.act(act);
    const shown = state && (sheet || state.document.sheets.find((s) => !had.has(s.id))?.id);
    if (shown) await this.openSheet(shown);
    return !!shown;
  }

  newSheet() {
    return this.leadingTo({ act: 'new_sheet', after: this.sheetId });
  }

  copySheet() {
    return this.leadingTo({ act: 'copy_sheet', sheet: this.sheetId });
  }

  async moveSheet(sheet: string, to: number) {
    const from = this.sheets.findIndex((s) => s.id === sheet);
    if (to === from || to < 0 || to >= this.sheets.length) return;
    await this.operation({ op: 'move_sheet', sheet, to });
  }

  /** Views and what stands free moved to another sheet, or to a new one, which is shown then. */
  async sendTo(ids: string[], sheet: string) {
    if (!ids.length) return;
    if (await this.leadingTo({ act: 'send_to', ids, sheet }, sheet)) selected.elements(...ids);
  }

  /** Ask for what can be pointed at, where it did not come along. */
  private async point() {
    const shown = this.ink;
    if (!shown?.views.some((v) => !v.pointed && !v.pending)) return;
    // not while the sheet itself is being painted
    await new Promise((painted) => requestAnimationFrame(() => setTimeout(painted)));
    if (this.ink !== shown) return;
    try {
      const ink = await this.freshInk();
      if (this.ink === shown) this.show(ink);
    } catch (error) {
      notices.refuse(error);
    }
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
          const ink = await this.freshInk();
          if (mine !== this.watching) return;
          this.show(ink);
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

  /** Changes go to the server one after the other, each on what the one before left; none is dropped. Where another window was first,
   * what may be done `again` is done on top of that. */
  private change(
    what: string,
    ask: (edit: number, shown?: Shown) => Promise<DrawingState>,
    again = false,
  ): Promise<DrawingState | null> {
    const id = this.id;
    const turn = this.queue.then(() => (this.id === id ? this.send(what, ask, again) : null));
    this.waiting++;
    this.busy = what;
    this.queue = turn.finally(() => {
      if (--this.waiting === 0) this.busy = '';
    });
    return turn;
  }

  private async send(
    what: string,
    ask: (edit: number, shown?: Shown) => Promise<DrawingState>,
    again: boolean,
  ): Promise<DrawingState | null> {
    if (!this.state) return null;
    this.busy = what;
    const before = this.state.edit;
    try {
      return await this.asked(ask);
    } catch (error) {
      const late = error instanceof Refusal && error.problem.status === 409;
      if (late) await this.reload();
      if (!late || !again || this.state.edit === before) {
        notices.refuse(error);
        return null;
      }
    }
    // another window was first: this is done on top of what it did, so that nothing that was typed is lost
    try {
      const state = await this.asked(ask);
      notices.say('Another window changed the drawing', 'What you did was done on top of that.');
      return state;
    } catch (error) {
      notices.refuse(error);
      return null;
    }
  }

  private async asked(ask: (edit: number, shown?: Shown) => Promise<DrawingState>): Promise<DrawingState> {
    const had = this.ink;
    const shown = had ? { sheet: this.sheetId, since: had.token } : undefined;
    const state = await ask(this.state?.edit ?? 0, shown);
    await this.take(state, had);
    return state;
  }

  async reload() {
    try {
      await this.take(await api.drawing(this.id));
    } catch (error) {
      notices.refuse(error);
    }
  }

  act(act: Act) {
    return this.change('working', (edit, shown) => api.act(this.id, edit, act, shown), true);
  }

  /** Issue the drawing as a revision, after all that is under way. */
  issueAs(said: { letter: string; date: string; creator: string; approver: string; words: string }) {
    return this.change('issuing', (edit, shown) => api.issue(this.id, { edit, shown, ...said }));
  }

  operation(operation: Operation) {
    return this.act({ act: 'operation', operation });
  }

  /** Several operations as one step of the history. */
  together(label: string, operations: Operation[]) {
    if (operations.length === 1) return this.operation(operations[0]);
    if (operations.length) return this.operation({ op: 'group', label, operations });
  }

  undo() {
    if (this.state?.undo || this.waiting) return this.change('undoing', (...at) => this.turn('undo', ...at));
  }

  redo() {
    if (this.state?.redo || this.waiting) return this.change('redoing', (...at) => this.turn('redo', ...at));
  }

  /** Undo or redo where there is something left to, once its turn has come. */
  private turn(way: 'undo' | 'redo', edit: number, shown?: Shown): Promise<DrawingState> {
    return this.state?.[way] ? api[way](this.id, edit, shown) : Promise.resolve(this.state!);
  }

  /** Go back or forward by so many steps of the history. */
  async travel(by: number) {
    const way = by < 0 ? 'undo' : 'redo';
    if (by) await this.change(`${way}ing`, (at, shown) => api[way](this.id, at, shown, Math.abs(by)));
  }

  /** A point of the screen's sheet (y down) as the server takes it (y up). */
  up(p: [number, number]): [number, number] {
    return [p[0], (this.ink?.height ?? 0) - p[1]];
  }

  view(id: string): View | undefined {
    return this.views.find((v) => v.id === id);
  }

  annotation(id: string): Annotation | undefined {
    return this.annotations.find((a) => a.id === id);
  }

  setView(id: string, changes: ViewChanges) {
    return this.operation({ op: 'set_view', view: id, changes });
  }

  setAnnotations(ids: string[], changes: AnnotationChanges) {
    return this.together(
      `Change ${ids.length} elements`,
      ids.map((id) => ({ op: 'change_annotation', id, changes })),
    );
  }

  /** Annotations that were copied or cut. */
  copied = $state.raw<Annotation[]>([]);

  /** The annotations that are selected, and what is stacked under them. */
  selectedWithStacked(): Annotation[] {
    const found = selected.ids.flatMap((id) => this.annotation(id) ?? []);
    for (const own of found)
      found.push(...this.annotations.filter((a) => a.on === own.id && !found.some((f) => f.id === a.id)));
    return found;
  }

  /** Copy the annotations that are selected; `cut` removes them too. */
  copy(cut: boolean) {
    const found = this.selectedWithStacked();
    if (!found.length) {
      notices.say('There is nothing to copy', 'Select sizes or marks first.', true);
      return;
    }
    this.copied = found;
    notices.say(
      `${found.length} ${cut ? 'cut' : 'copied'}`,
      'Ctrl V puts them on the selected view; where none is, they are set one after another where you click.',
    );
    if (cut) void this.remove(found.map((a) => a.id));
  }

  /** Put what was copied on the selected view, where it fits. */
  async paste() {
    const view = this.view(selected.one);
    if (!this.copied.length || !view) {
      notices.say(
        this.copied.length ? 'No view is selected' : 'Nothing was copied',
        this.copied.length
          ? 'Select the view that is to have it.'
          : 'Select sizes or marks and press Ctrl C.',
        true,
      );
      return;
    }
    const state = await this.act({ act: 'paste', on: view.id, annotations: this.copied });
    if (state?.created?.length) selected.elements(...state.created);
  }

  /** Views that hang on some, at however many removes, on all sheets. */
  hanging(ids: string[]) {
    const views = this.sheets.flatMap((s) => s.views ?? []);
    const found = new Set(ids);
    for (let before = -1; before !== found.size;) {
      before = found.size;
      for (const v of views) if (v.parent && found.has(v.parent)) found.add(v.id);
    }
    return views.filter((v) => found.has(v.id) && !ids.includes(v.id));
  }

  /** Remove what is selected; where views hang on it, it is asked first what becomes of them. */
  remove(ids = selected.ids) {
    if (!ids.length) return;
    if (this.hanging(ids).length) this.removing = ids;
    else return this.operation({ op: 'remove', ids });
  }
}

export const work = new Work();
