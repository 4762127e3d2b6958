import { remember, remembered } from '../lib/remembered';
import { api } from '../api/client';
import { notices } from '../lib/notices.svelte';
import { router } from '../lib/router.svelte';
import { bringing } from '../shelf/bringing.svelte';
import { interaction } from './interaction.svelte';
import type { Target } from './board/hits';
import { work } from './work.svelte';

export type Mark = { x: number; y: number; words: string; pull?: [number, number] };

const KEPT = 'guide';
const SIZES = 3;

/** A first sheet, step by step: part, views, a section, three sizes, issue. It goes on by what is done, and is left at any
 * step; nothing depends on it. */
class Guide {
  on = $state(remembered(KEPT) === 'on');
  issued = $state(false);

  private set(on: boolean) {
    this.on = on;
    this.issued = false;
    remember(KEPT, on ? 'on' : '');
  }

  /** Begin with a part of the shelf; the demo parts are brought where there is none. */
  async begin() {
    this.set(true);
    try {
      let parts = await api.parts();
      if (!parts.length) {
        const { more, ...first } = await api.demoParts();
        await bringing.followAll([first, ...(more ?? [])], () => {});
        parts = await api.parts();
      }
      const easy = parts.find(
        (p) => p.name.toLowerCase().includes('pedestal') && p.summary.bodies.length === 1,
      );
      const part = easy ?? parts.find((p) => !p.damaged);
      if (part) router.go('new', part.key);
    } catch (error) {
      this.leave();
      notices.refuse(error);
    }
  }

  leave() {
    this.set(false);
  }

  get where(): number {
    const [page] = router.path;
    if (page === 'new') return 1;
    if (page !== 'drawing') return 0;
    if (!work.views.length) return 1;
    if (!work.views.some((v) => v.kind === 'section')) return 2;
    if (work.sizes.length < SIZES) return 3;
    return this.issued ? 5 : 4;
  }

  get words(): string {
    switch (this.where) {
      case 0:
        return 'Choose “New drawing” at a part of the shelf.';
      case 1:
        return 'Turn the part until its front looks at you, choose sheet and views, then “Place views”. They stand where the standard wants them.';
      case 2:
        return interaction.doing.kind === 'cutting'
          ? 'Click at 1, then at 2. The section follows the pointer then: click where it is to stand, such as 3.'
          : 'Now a section: press X. A cutting line then follows the pointer.';
      case 3: {
        const left = SIZES - work.sizes.length;
        const many = ['', 'One size more', 'Two sizes more', 'Three sizes'][left];
        return `${many}: press on the marked edge, keep the button down, pull the size away, and let go where its line is to be.`;
      }
      case 4:
        return 'All is there to issue the sheet: press 8, then choose “Issue as PDF”.';
      default:
        return 'That is a sheet. Whatever else there is: / finds it, ? shows all keys and acts.';
    }
  }

  /** Where on the sheet the gesture of this step happens. */
  get marks(): Mark[] {
    const view = work.ink?.views[0];
    if (!this.on || !view) return [];
    if (this.where === 2 && interaction.doing.kind === 'cutting') {
      const [x, y] = [view.x + view.width / 2, view.y + view.height / 2];
      if (interaction.doing.growing)
        return [
          { x, y: view.y - 8, words: '1' },
          { x, y: view.y + view.height + 8, words: '2' },
        ];
      // beyond all that stands in line with it
      const row = (work.ink?.views ?? []).filter((v) => Math.abs(v.y + v.height / 2 - y) < view.height / 4);
      const last = row.reduce((m, v) => (v.x + v.width > m.x + m.width ? v : m), view);
      const wide = row.find((v) => v.id !== view.id)?.width ?? view.width;
      return [{ x: last.x + last.width + 16 + wide / 2, y, words: '3' }];
    }
    if (this.where !== 3 || interaction.doing.kind !== 'nothing') return [];
    const all: Target[] = work.hits?.all(view.id) ?? [];
    const straight = all.filter((t) => t.kind === 'line' && t.shape === 'straight' && !t.hidden);
    if (!straight.length) return [];
    const by = (value: (t: Target) => number) => straight.reduce((a, b) => (value(b) > value(a) ? b : a));
    const [middle, spots] = [
      [view.x + view.width / 2, view.y + view.height / 2],
      [by((t) => t.y - Math.abs(t.x - (view.x + view.width / 2)) / 50), by((t) => -t.x), by((t) => -t.y)],
    ];
    const spot = spots[Math.min(work.sizes.length, 2)];
    const [dx, dy] = [spot.x - middle[0], spot.y - middle[1]];
    const level = Math.abs(dx) / (view.width || 1) > Math.abs(dy) / (view.height || 1);
    return [{ x: spot.x, y: spot.y, words: '', pull: level ? [Math.sign(dx), 0] : [0, Math.sign(dy)] }];
  }
}

export const guide = new Guide();
