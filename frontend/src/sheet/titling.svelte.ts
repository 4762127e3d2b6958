import offered from '../api/offered.json';
import { api, type Act, type KeptTemplate, type Template } from '../api/client';
import { give } from '../lib/csv';
import { notices } from '../lib/notices.svelte';
import { work } from './work.svelte';

export type Cell = Template['cells'][number];
export type Edge = 'left' | 'right' | 'top' | 'bottom';
type OfSheet<A> = A extends { sheet: string } ? Omit<A, 'sheet'> : never;
export type TitleAct = OfSheet<
  Extract<
    Act,
    {
      act:
        | 'split_cell'
        | 'join_cells'
        | 'remove_cells'
        | 'add_cell'
        | 'move_cell_edge'
        | 'change_cell'
        | 'change_border';
    }
  >
>;
const CLOSE = 0.01;

/** Changing the title block where it stands: the cells that are chosen, and the templates that are kept. */
class Titling {
  on = $state(false);
  chosen = $state.raw<string[]>([]);
  kept = $state.raw<KeptTemplate[]>([]);
  /** The template of the shown sheet. */
  template = $derived.by<Template>(() => {
    const name = work.sheet?.template;
    const own = name ? work.state?.document.templates?.find((t) => t.name === name) : undefined;
    return own ?? (offered.template as unknown as Template);
  });
  cells = $derived(this.template.cells);
  one = $derived(this.chosen.length === 1 ? this.cells.find((c) => c.id === this.chosen[0]) : undefined);
  width = $derived(Math.max(...this.cells.map((c) => c.x + c.width)));
  height = $derived(Math.max(...this.cells.map((c) => c.y + c.height)));

  begin() {
    work.field = null;
    this.chosen = [];
    this.on = true;
  }

  end() {
    this.on = false;
    this.chosen = [];
  }

  async do(act: TitleAct) {
    const before = new Set(this.cells.map((c) => c.id));
    const done = await work.act({ ...act, sheet: work.sheetId } as Act);
    const here = new Set(this.cells.map((c) => c.id));
    const made = this.cells.filter((c) => !before.has(c.id)).map((c) => c.id);
    const kept = this.chosen.filter((c) => here.has(c));
    this.chosen =
      act.act === 'add_cell' || act.act === 'split_cell'
        ? made
        : kept.slice(0, act.act === 'join_cells' ? 1 : 80);
    return done;
  }

  choose(id: string, more: boolean) {
    if (!more) this.chosen = [id];
    else this.chosen = this.chosen.includes(id) ? this.chosen.filter((c) => c !== id) : [...this.chosen, id];
  }

  /** The cell beside the last one that was chosen becomes the chosen one; with `more` it is added. */
  walk(key: string, more: boolean) {
    const from = this.cells.find((c) => c.id === this.chosen.at(-1)) ?? this.cells[0];
    const across = key === 'ArrowLeft' || key === 'ArrowRight';
    const way = key === 'ArrowRight' || key === 'ArrowUp' ? 1 : -1;
    const span = (c: Cell, x: boolean) => (x ? [c.x, c.x + c.width] : [c.y, c.y + c.height]);
    const [low, high] = span(from, !across);
    const end = span(from, across)[way > 0 ? 1 : 0];
    const shared = (c: Cell) => Math.min(high, span(c, !across)[1]) - Math.max(low, span(c, !across)[0]);
    // what has the longest border in common with it on that side
    const beside = this.cells
      .filter((c) => c.id !== from.id && Math.abs(span(c, across)[way > 0 ? 0 : 1] - end) < CLOSE)
      .sort((a, b) => shared(b) - shared(a))
      .filter((c) => shared(c) > CLOSE);
    if (!this.chosen.length) this.chosen = [from.id];
    else if (beside.length) this.choose(beside[0].id, more && !this.chosen.includes(beside[0].id));
  }

  /** What a key does to the cells; true where it does something. */
  keys(key: string, more: boolean): boolean {
    if (key.startsWith('Arrow')) this.walk(key, more);
    else if ((key === 'Delete' || key === 'Backspace') && this.chosen.length)
      void this.do({ act: 'remove_cells', cells: this.chosen });
    else if (key.toLowerCase() === 'j' && this.chosen.length > 1)
      void this.do({ act: 'join_cells', cells: this.chosen });
    else if (key.toLowerCase() === 's' && this.one)
      void this.do({ act: 'split_cell', cell: this.one.id, across: !more });
    else return false;
    return true;
  }

  /** Make a cell so wide or so high, by the border that can be moved. */
  resize(cell: Cell, axis: 'width' | 'height', to: number) {
    if (axis === 'height')
      return this.do({ act: 'move_cell_edge', cell: cell.id, side: 'top', to: cell.y + to });
    const last = cell.x + cell.width > this.width - CLOSE;
    return this.do({
      act: 'move_cell_edge',
      cell: cell.id,
      side: last ? 'left' : 'right',
      to: last ? cell.x + cell.width - to : cell.x + to,
    });
  }

  async picture(file: File) {
    if (!this.one) return;
    const id = this.one.id;
    await this.said(async () => {
      const picture = await api.picture(file);
      await this.do({ act: 'change_cell', cell: id, changes: { picture } });
    });
  }

  async load() {
    try {
      this.kept = await api.templates();
    } catch {
      this.kept = [];
    }
  }

  take(template: Template | null, all: boolean) {
    this.chosen = [];
    return work.act({ act: 'take_template', template, sheets: all ? [] : [work.sheetId] });
  }

  async keep(name: string) {
    await this.said(async () => {
      await api.keepTemplate(work.id, work.sheetId, name);
      notices.say(
        `Kept as ${name}`,
        'It can be taken in step 2 of every drawing, and new drawings can begin with it.',
      );
    });
  }

  remove(id: number) {
    return this.said(() => api.removeTemplate(id));
  }

  bring(file: File) {
    return this.said(async () => {
      const found = await api.bringTemplate(file);
      notices.say(`${found.name} is kept`, 'Choose it in the list to give it to this sheet.');
    });
  }

  /** As a file that another house can take in. */
  export() {
    return this.said(async () => {
      const text = await api.templateFile(work.id, work.sheetId);
      give(`${this.template.name || 'ISO 7200'}.template.json`, text, 'application/json');
    });
  }

  private async said(what: () => Promise<unknown>) {
    try {
      await what();
    } catch (error) {
      notices.refuse(error);
    }
    await this.load();
  }
}

export const titling = new Titling();
