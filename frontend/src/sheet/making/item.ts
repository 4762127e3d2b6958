import { interaction } from '../interaction.svelte';
import type { Target } from '../board/hits';
import { work } from '../work.svelte';
import type { Making } from './making';

/** The item number of a body, set down where the hand clicks; one after another. */
export function numbering(): Making {
  let body: (Target & { spot: [number, number]; dot: boolean }) | undefined;
  return {
    words: () => 'click a body: an edge for an arrow, inside a face for a dot',
    act: () =>
      body
        ? {
            act: 'state_item',
            view: body.view,
            ref: body.ref,
            on: '',
            at: work.up(body.spot),
            dot: body.dot,
            pointer: work.up(interaction.pointer),
          }
        : null,
    click() {
      if (body) return true;
      const t = interaction.target;
      if (t && ((t.kind === 'line' && t.ref) || t.kind === 'view'))
        body = { ...t, spot: t.kind === 'line' ? [t.x, t.y] : interaction.pointer, dot: t.kind === 'view' };
      else interaction.words = 'click a body in a view';
      return false;
    },
    back() {
      const had = !!body;
      body = undefined;
      return had;
    },
    catches: () => !body,
    again: () => numbering(),
  };
}
