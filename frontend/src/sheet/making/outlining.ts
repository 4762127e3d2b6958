import type { Point } from '../../api/client';
import { interaction } from '../interaction.svelte';
import type { Gesture } from '../gestures/gesture';
import type { Target } from '../board/hits';
import { work } from '../work.svelte';

type Form = 'round' | 'rectangle' | 'ellipse' | 'free';
const FORMS: [Form, string][] = [
  ['round', 'as a ring'],
  ['rectangle', 'as a rectangle'],
  ['ellipse', 'as an ellipse'],
  ['free', 'free hand'],
];

/** An outline that a hand draws: pressed in the middle and pulled wide, or by two clicks; its centre is what it caught. */
export class Outlining {
  view = '';
  form: Form = 'round';
  private centre: { x: number; y: number; ref: string; at: string } | null = null;
  private half: Point | null = null;
  private about = '';
  private stroke: Point[] = [];
  private drawing = false;

  constructor(view = '', target?: Target) {
    this.view = view;
    if (!target) return;
    this.about = target.ref;
    this.centre = { ...interaction.caught(target, [target.x, target.y]), ref: target.ref };
    this.view = target.view;
  }

  /** True as soon as it has its size. */
  get ready() {
    return !!this.about || !!this.half || (this.form === 'free' && this.stroke.length > 4 && !this.drawing);
  }

  /** True as soon as there is something to show. */
  get begun() {
    return this.centre !== null && (this.form !== 'free' || this.stroke.length > 3);
  }

  /** The outline as the server takes it; up to the pointer while it is being pulled wide. */
  drawn() {
    const { x, y, ref, at } = this.centre!;
    const form = this.form === 'ellipse' ? 'round' : this.form;
    if (this.form === 'free') return { form, centre: [x, y] as Point, ref: '', at: '', points: this.stroke };
    if (this.about) return { form, centre: [x, y] as Point, ref: this.about, at, points: [] };
    const half = this.half ?? this.reach();
    return { form, centre: [x, y] as Point, ref, at, half, points: [] };
  }

  private reach(): Point {
    const [px, py] = work.up(interaction.pointer);
    const { x, y } = this.centre!;
    if (this.form === 'rectangle' || this.form === 'ellipse')
      return [Math.max(0.6, Math.abs(px - x)), Math.max(0.6, Math.abs(py - y))];
    const r = Math.max(0.6, Math.hypot(px - x, py - y));
    return [r, r];
  }

  /** A click: the centre, then the size; false where it did not belong to it. */
  click(): boolean {
    if (this.ready) return false;
    if (!this.centre) this.begin();
    else if (this.reach()[0] > 1) this.half = this.reach();
    return true;
  }

  private begin() {
    const t = interaction.target;
    const view = interaction.viewFor(this.view);
    if (!view) return;
    this.view = view;
    this.centre = interaction.caught(t?.kind === 'point' ? t : null);
  }

  /** Pressed and pulled wide at one stroke; `done` when it has its size. */
  drag(done: () => void): Gesture | null {
    if (this.centre) return null;
    this.begin();
    if (!this.centre) return null;
    if (this.form === 'free') return this.freely(done);
    return {
      cursor: 'crosshair',
      move: () => interaction.follow(),
      up: () => {
        if (this.reach()[0] > 1.5) {
          this.half = this.reach();
          done();
        }
        interaction.follow();
      },
      cancel: () => interaction.stop(),
    };
  }

  /** Drawn round at one stroke. */
  private freely(done: () => void): Gesture {
    this.stroke = [work.up(interaction.pointer)];
    this.drawing = true;
    return {
      cursor: 'crosshair',
      move: () => {
        const next = work.up(interaction.pointer);
        const last = this.stroke[this.stroke.length - 1];
        if (Math.hypot(next[0] - last[0], next[1] - last[1]) > 1.2) this.stroke.push(next);
        interaction.follow();
      },
      up: () => {
        this.drawing = false;
        if (this.stroke.length > 4) done();
        else this.centre = null;
        interaction.follow();
      },
      cancel: () => interaction.stop(),
    };
  }

  back(): boolean {
    if (this.about) return false;
    if (this.stroke.length) [this.stroke, this.centre] = [[], null];
    else if (this.half) this.half = null;
    else if (this.centre) this.centre = null;
    else return false;
    return true;
  }

  /** Other forms that it can have, as long as it has none yet. */
  get forms() {
    if (this.ready) return [];
    return FORMS.filter(([form]) => form !== this.form).map(([form, name]) => ({
      name,
      run: () => {
        this.form = form;
        interaction.follow();
      },
    }));
  }
}
