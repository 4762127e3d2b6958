import { api, Refusal, type Act, type Element } from '../api/client';
import type { Target } from './hits';
import { selected } from './selection.svelte';
import { work } from './work.svelte';

/** What a hand is doing just now. */
export type Doing =
  | { kind: 'nothing' }
  | { kind: 'placing'; picks: Target[]; wish: string }
  | { kind: 'pulling-view'; view: string; side: string };

/** Where the pointer is, what lies under it, and the ink of what a hand is about to make. */
class Asking {
  doing = $state.raw<Doing>({ kind: 'nothing' });
  hover = $state.raw<Target[]>([]);
  hoverAt = $state(0);
  pointer = $state.raw<[number, number]>([0, 0]);
  preview = $state.raw<Element[]>([]);
  words = $state('');
  others = $state.raw<string[]>([]);
  private flying = false;
  private next: Act | null = null;
  private tick = 0;

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
    this.hover = work.hits?.at(at[0], at[1], reach) ?? [];
    this.hoverAt = 0;
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
    this.tick++;
    this.ask(this.pullAct(picks, wish));
  }

  follow() {
    if (this.doing.kind === 'placing') this.ask(this.pullAct(this.doing.picks, this.doing.wish));
    else if (this.doing.kind === 'pulling-view') this.ask(this.viewAct(this.doing.view, this.doing.side));
  }

  viewAct(view: string, side: string): Act {
    return { act: 'pull_view', view, side, to: work.up(this.pointer) };
  }

  /** Begin to pull a view out of a side or corner of another; it follows the pointer. */
  pullView(view: string, side: string) {
    this.stop();
    this.doing = { kind: 'pulling-view', view, side };
    this.ask(this.viewAct(view, side));
  }

  /** Set down what is being placed. */
  async finish() {
    if (this.doing.kind === 'nothing') return;
    const act =
      this.doing.kind === 'placing'
        ? this.pullAct(this.doing.picks, this.doing.wish)
        : this.viewAct(this.doing.view, this.doing.side);
    this.stop();
    const state = await work.act(act);
    const made = state?.created?.at(-1);
    if (made) selected.elements(made);
  }
}

export const asking = new Asking();
