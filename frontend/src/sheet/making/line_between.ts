import type { Target } from '../board/hits';
import { interaction } from '../interaction.svelte';
import { work } from '../work.svelte';
import type { Making } from './making';

type Place = { view: string; ref: string; at: string; spot: [number, number] };

/** A centre line from one place of a view to another: what is caught there holds it, else it stands free. */
export function liningBetween(): Making {
  let first: Place | undefined;
  const here = (view: string): Place => {
    const t: Target | undefined = interaction.target;
    const held = !!t?.ref && t.view === view && ['point', 'element', 'line'].includes(t.kind);
    if (!t || !held) return { view, ref: '', at: '', spot: work.up(interaction.pointer) };
    const at = t.at.startsWith('pitch:') ? 'centre' : t.at;
    return { view, ref: t.ref, at, spot: work.up([t.x, t.y]) };
  };
  return {
    words: () =>
      first ? 'click where it ends' : 'click where it begins: a point, a rim, a crossing, or free',
    act() {
      if (!first) return null;
      const last = here(first.view);
      return {
        act: 'draw_line',
        view: first.view,
        form: 'to',
        axis: 'x',
        refs: [first.ref, last.ref],
        ats: [first.at, last.at],
        spots: [first.spot, last.spot],
      };
    },
    click() {
      if (first) return true;
      const view = interaction.viewFor('');
      if (view) first = here(view);
      return false;
    },
    back() {
      const was = !!first;
      first = undefined;
      return was;
    },
    measures: true,
    catches: () => true,
    among: () => (first ? [first.view] : work.views.map((v) => v.id)),
  };
}
