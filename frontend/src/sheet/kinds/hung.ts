import type { Operation } from '../../api/client';
import { interaction } from '../interaction.svelte';
import { gestureOfAct } from '../gestures/act';
import type { Gesture } from '../gestures/gesture';
import type { Target } from '../board/hits';
import { hanging, rewriting } from '../making/hang.svelte';
import type { TypedSign } from '../making/making';
import TypedSentence from '../sentences/Typed.svelte';
import { selected } from '../selection.svelte';
import { work } from '../work.svelte';
import type { Kind, Offer } from './kind';

/** What can hang on a size, a note or a sign. */
export function hung(id: string): Offer[] {
  const target = work.hits?.of(id);
  if (!target) return [];
  return [
    { name: 'Tolerance of form or place', run: () => interaction.make(hanging('frame', target)) },
    { name: 'Datum', run: () => interaction.make(hanging('datum', target)) },
    { name: 'Note below', run: () => interaction.make(hanging('note', target)) },
  ];
}

/** Dragging a sign: its end; where it is taken at its tip, that. */
export function dragged(target: Target, from: [number, number]): Gesture {
  selected.elements(target.owner);
  const start = work.up(from);
  const act = () => ({
    act: 'move_sign' as const,
    id: target.owner,
    start,
    pointer: work.up(interaction.pointer),
  });
  return gestureOfAct([target.owner], act);
}

/** What moves a sign by so many mm (y up). */
export function nudged(id: string, dx: number, dy: number): Operation[] {
  const own = work.annotation(id);
  const change = (changes: { [name: string]: unknown }) =>
    [{ op: 'change_annotation', id, changes }] as Operation[];
  if (own?.kind === 'notes_block' || own?.kind === 'table' || own?.kind === 'general_texture')
    return change({ at: [(own.at?.[0] ?? 0) + dx, (own.at?.[1] ?? 0) + dy] });
  if (!own || !('shift' in own)) return [];
  if (own.foot) {
    const turn = ((own.angle ?? 45) * Math.PI) / 180;
    const [x, y] = [Math.cos(turn) * (own.offset ?? 15) + dx, Math.sin(turn) * (own.offset ?? 15) + dy];
    return change({ angle: (Math.atan2(y, x) * 180) / Math.PI, offset: Math.max(3, Math.hypot(x, y)) });
  }
  if (own.kind === 'text_note' && !work.annotation(own.on)) {
    const [x, y] = own.at ?? [0, 0];
    return change({ at: [x + dx, y + dy] });
  }
  const [x, y] = own.shift ?? [0, 0];
  return change({ shift: [x + dx, Math.min(0, y + dy)] });
}

/** A kind of signs that are typed. */
export function typedKind(kind: TypedSign, noun: [string, string]): Kind {
  return {
    kind,
    noun,
    sentence: TypedSentence,
    counts: 'sign',
    rank: 1.1,
    spoken: noun[0],
    says: () => noun[0],
    offers(id) {
      const text = work.elements.get(id)?.words ?? '';
      const own = work.annotation(id);
      const pinned = !!own && 'pinned' in own && !!own.pinned;
      return [
        { name: 'Write it anew', run: () => interaction.make(rewriting(id, kind, text)) },
        {
          name: pinned ? 'Let tidying move it' : 'Pin it where it is',
          run: () => work.setAnnotations([id], { pinned: !pinned }),
        },
        { name: 'Remove', run: () => work.remove([id]) },
      ];
    },
    drag: dragged,
    moved: nudged,
  };
}

/** A kind of signs that hang on a leader, told by its sentence, with nothing but that it can be removed. */
export function hungKind(own: Pick<Kind, 'kind' | 'noun' | 'counts' | 'sentence' | 'several'>): Kind {
  return {
    ...own,
    rank: 1.1,
    says: () => '',
    offers: (id) => [{ name: 'Remove', run: () => work.remove([id]) }],
    drag: dragged,
    moved: nudged,
  };
}
