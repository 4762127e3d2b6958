import { gestureOfAct } from '../gestures/act';
import { interaction } from '../interaction.svelte';
import HoleSentence from '../sentences/HoleNote.svelte';
import { selected } from '../selection.svelte';
import { work } from '../work.svelte';
import { hung } from './hung';
import type { Kind } from './kind';

const kind: Kind = {
  kind: 'hole_note',
  noun: ['hole note', 'hole notes'],
  sentence: HoleSentence,
  counts: 'size',
  carries: true,
  says: () => 'hole note',
  offers(id) {
    const note = work.annotation(id);
    if (note?.kind !== 'hole_note') return [];
    return [
      { name: 'Threaded, by its diameter', run: () => declare(id, '') },
      { name: 'No thread', run: () => declare(id, 'none') },
      ...hung(id),
      { name: 'Remove', run: () => work.remove([id]) },
    ];
  },
  drag(target) {
    selected.elements(target.owner);
    const act = () => ({
      act: 'move_hole_note' as const,
      id: target.owner,
      pointer: work.up(interaction.pointer),
    });
    return gestureOfAct([target.owner], act);
  },
  moved(id, dx, dy) {
    const note = work.annotation(id);
    if (note?.kind !== 'hole_note') return [];
    const turn = ((note.angle ?? 45) * Math.PI) / 180;
    const [x, y] = [Math.cos(turn) * (note.offset ?? 15) + dx, Math.sin(turn) * (note.offset ?? 15) + dy];
    return [
      {
        op: 'change_annotation',
        id,
        changes: { angle: (Math.atan2(y, x) * 180) / Math.PI, offset: Math.max(2, Math.hypot(x, y)) },
      },
    ];
  },
};

/** The thread of the hole that a note is about. */
export function declare(id: string, size: string) {
  const note = work.annotation(id);
  if (note?.kind === 'hole_note')
    return work.act({
      act: 'declare_thread',
      view: note.on,
      ref: note.ref,
      size,
      tolerance: '',
      hand: 'right',
      alike: true,
    });
}

export default kind;
