import { kinds } from '../kinds';
import { selected } from '../selection.svelte';
import { work } from '../work.svelte';
import { snapped, type Guide } from '../board/snapping';
import { liesOn } from '../board/standing';
import type { Gesture } from './gesture';

/** Dragging views (all that are selected, if that one is among them): what is tied to them goes along. */
export function gestureOfView(id: string, from: [number, number]): Gesture {
  const ids = selected.ids.includes(id) ? selected.ids : [id];
  if (ids.length === 1) selected.elements(id);
  const shown = (work.ink?.views ?? []).filter((v) => ids.includes(v.id));
  const held = shown.find((v) => v.id === id)?.moves;
  const moved = new Set(shown.flatMap((v) => [v.id, ...v.carries]));
  const others = (work.ink?.views ?? []).filter((v) => !moved.has(v.id));
  let guides = $state.raw<Guide[]>([]);
  let by = $state.raw<[number, number]>([0, 0]);
  const carried = (work.ink?.views ?? []).filter((v) => moved.has(v.id));
  // a section that is drawn within its view belongs there
  const own = (v: { id: string }) => {
    const found = work.view(v.id);
    return !(found?.kind === 'section' && found.within);
  };
  const lies = $derived(work.ink ? liesOn(carried.filter(own), by, others.filter(own), work.ink) : '');
  const gesture: Gesture = {
    cursor: 'move',
    get guides() {
      return guides;
    },
    get by() {
      return by;
    },
    get warns() {
      return lies;
    },
    carries: moved,
    move(at, e) {
      // over the tag of another sheet it goes there
      const tag = document.elementFromPoint(e.clientX, e.clientY)?.closest<HTMLElement>('[data-sheet]');
      work.overTag = tag && tag.dataset.sheet !== work.sheetId ? tag.dataset.sheet || 'new' : '';
      const [dx, dy] = [at[0] - from[0], at[1] - from[1]];
      // tied to its parent, it moves along one way only (given y up)
      const along = held ? dx * held[0] - dy * held[1] : 0;
      by = held ? [along * held[0], -along * held[1]] : [dx, dy];
      guides = [];
      const lead = shown.find((v) => v.id === id);
      // with Alt it goes where the hand goes
      if (held || e.altKey || !lead) return;
      const box = { x: lead.x + dx, y: lead.y + dy, width: lead.width, height: lead.height };
      const found = snapped(box, others);
      by = [dx + found.dx, dy + found.dy];
      guides = found.guides;
    },
    up() {
      const tag = work.overTag;
      work.overTag = '';
      if (tag) return work.sendTo(ids, tag === 'new' ? '' : tag);
      const [dx, dy] = gesture.by ?? [0, 0];
      if (!dx && !dy) return;
      const moves = kinds.get('view')?.moved;
      return work.together(
        'Move views',
        shown.flatMap((v) => moves?.(v.id, dx, -dy) ?? []),
      );
    },
    cancel: () => (work.overTag = ''),
  };
  return gesture;
}
