import type { Act, Annotation } from '../../api/client';
import { interaction } from '../interaction.svelte';
import type { Target } from '../board/hits';
import { kinds } from '../kinds';
import { work } from '../work.svelte';
import type { Making, Sign, TypedSign, Written } from './making';

type Pick = { ref: string; at: string; x: number; y: number };
type Seat = { view: string; ref: string; at: [number, number]; dot: boolean; on: string };

const WORDS: { [sign in Sign]: string } = {
  frame: 'click what it is about: an outline, a face, a size',
  datum: 'click what is the datum: an outline, a face, a size',
  texture: 'click an outline; each further click sets one more',
  note: 'click what the note is about, or a free place',
  edge_sign: 'click the edge',
  weld: 'click where the weld is',
  centre_hole: 'click the end face',
  knurl: 'click the round face',
  datum_target: 'click a place in a face, or on an outline',
  treated_stretch: 'click where the stretch begins; its ends can be dragged then',
};
/** What each begins with. */
const FIRST: { [sign in TypedSign]: string } = {
  edge_sign: '−0.3',
  weld: 'a5 fillet',
  centre_hole: 'A 2.5/5.3',
  knurl: 'RGE 0.8',
  datum_target: 'A1 Ø6',
  treated_stretch: 'hardened 58+4 HRC',
};
const typedSign = (sign: Sign): sign is TypedSign => sign in FIRST;
/** What was written last of each, to begin the next with. */
const last: { [sign in Sign]: string } = { frame: '', datum: '', texture: 'Ra 3.2', note: '', ...FIRST };

/** Where a sign hangs that is set on what is pointed at; none where nothing can hang. */
export function seatOn(t: Target | undefined): Seat | undefined {
  if (!t) return undefined;
  const bare = { view: t.view, ref: '', at: work.up([t.x, t.y]), dot: false, on: '' };
  if (t.kind === 'line' || (t.kind === 'point' && t.ref)) return t.ref ? { ...bare, ref: t.ref } : undefined;
  if (t.kind === 'view') return { ...bare, dot: true };
  if (t.kind === 'element' && kinds.get(t.of)?.carries) return { ...bare, on: t.owner };
  return undefined;
}

/** A note on a view, without a leader: it goes along with it. */
export function writingOn(view: string): Making {
  const bare = { view, ref: '', at: work.up(interaction.pointer), dot: false, on: '' };
  return hanging('note', undefined, '', bare);
}

/** A sign or note that is written while it hangs at the pointer. */
export function hanging(sign: Sign, from?: Target, text = last[sign], there = seatOn(from)): Making {
  let seat = $state.raw(there);
  let written = $state(text);
  let free = $state(false);
  /** Where it stands: a note keeps its place while figures are pointed at for it. */
  let stands: [number, number] = interaction.pointer;

  /** The size that is pointed at, whose figure can be put into a note. */
  const figureAt = () => {
    const t = interaction.target;
    const size = t?.kind === 'element' && kinds.get(t.of)?.counts === 'size' ? t.owner : '';
    return sign === 'note' && (seat || free) ? size : '';
  };

  /** The act, also where nothing is written yet. */
  function whole(): Act | null {
    if (!(free || figureAt())) stands = interaction.pointer;
    const pointer = work.up(stands);
    const own = seat ?? (sign === 'texture' ? seatOn(interaction.target) : undefined);
    if (!own && !(sign === 'note' && free)) return null;
    const place = own ?? { view: '', ref: '', at: pointer, dot: false, on: '' };
    // where it is set with one click, it sits where that was
    const at = seat ? place.at : pointer;
    const hung = { ...place, at, pointer };
    if (sign === 'frame') return { act: 'state_frame', ...hung, text: written };
    if (sign === 'datum') return { act: 'state_datum', ...hung, letter: written.trim().toUpperCase() };
    if (sign === 'texture') return { act: 'state_texture', ...hung, text: written };
    if (typedSign(sign)) return { act: 'state_sign', ...hung, sign, text: written };
    return { act: 'state_note', ...hung, text: written, sheet: work.sheetId };
  }
  const act = () => (written.trim() || sign === 'datum' ? whole() : null);

  return {
    words: () => (seat || free ? '' : WORDS[sign]),
    act,
    click() {
      const t = interaction.target;
      const figure = figureAt();
      if (figure) {
        // a figure of the sheet that stays true
        written += `{size ${figure}}`;
        return false;
      }
      if (seat || free || (sign === 'texture' && seatOn(t))) {
        last[sign] = sign === 'texture' || typedSign(sign) ? written : '';
        return true;
      }
      seat = seatOn(t);
      if (!seat && sign === 'note') [stands, free] = [interaction.pointer, true];
      else if (!seat) interaction.words = WORDS[sign];
      return false;
    },
    back() {
      if (!(seat || free) || from || there) return false;
      seat = undefined;
      free = false;
      return true;
    },
    catches: () => !seat && !free,
    picks: () => (from && !seat?.dot ? [from] : []),
    again: () => (sign === 'texture' && !from ? hanging('texture', undefined, written) : null),
    written(): Written | null {
      if (!seat && !free && sign !== 'texture') return null;
      return {
        sign,
        text: written,
        frame: seat && sign === 'frame' ? (whole() as Written['frame']) : undefined,
        set(value) {
          written = value;
          interaction.follow();
        },
      };
    },
  };
}

/** What a sign says, written anew. */
export function rewriting(id: string, sign: Sign, text: string): Making {
  let written = $state(text);
  const whole = (): Act => {
    if (sign === 'frame') {
      const own = work.annotation(id);
      const derived = own?.kind === 'tolerance_frame' && !!own.derived;
      return { act: 'change_frame', id, text: written, derived };
    }
    if (sign === 'texture') return { act: 'change_texture', ids: [id], text: written };
    if (sign === 'datum') return { act: 'change_datum', id, letter: written.trim().toUpperCase() };
    if (typedSign(sign)) return { act: 'change_sign', id, text: written };
    return { act: 'change_note', id, text: written };
  };
  const act = () => (written.trim() ? whole() : null);
  return {
    words: () => '',
    act,
    click() {
      const t = interaction.target;
      if (sign === 'note' && t?.kind === 'element' && kinds.get(t.of)?.counts === 'size') {
        written += `{size ${t.owner}}`;
        return false;
      }
      return true;
    },
    hides: () => [id],
    view: () => id,
    written: () => ({
      sign,
      text: written,
      frame: sign === 'frame' ? (whole() as Written['frame']) : undefined,
      set(value) {
        written = value;
        interaction.follow();
      },
    }),
  };
}

/** One more leader of a note, to what is clicked; one that is there is taken off. */
export function leading(id: string): Making {
  return {
    words: () => 'click where one more leader is to go, or one that is to be taken off',
    act() {
      const own = seatOn(interaction.target);
      if (!own || own.on || own.dot) return null;
      return { act: 'add_leader', id, ref: own.ref, at: work.up(interaction.pointer), dot: false };
    },
    click: () => !!seatOn(interaction.target),
    hides: () => [id],
    view: () => id,
    catches: () => true,
  };
}

/** The general notes of a sheet, or a table of values, written line by line; of one that is there, anew. */
export function linesOf(sign: 'notes' | 'table', id: string, text: string): Making {
  let written = $state(text);
  function act(): Act | null {
    const sheet = work.sheetId;
    if (!written.trim()) return null;
    if (sign === 'table') return { act: 'state_table', sheet, text: written, id };
    return id ? { act: 'change_notes', id, text: written } : { act: 'state_notes', sheet, text: written };
  }
  return {
    words: () => '',
    act,
    click: () => true,
    hides: () => (id ? [id] : []),
    view: id ? () => id : undefined,
    written: () => ({
      sign,
      text: written,
      set(value) {
        written = value;
        interaction.follow();
      },
    }),
  };
}

/** A flag that refers to a general note, set on what is clicked. */
export function flagging(block: string, line: string): Making {
  let seat = $state.raw<Seat>();
  return {
    words: () => 'click what the note is about: an outline, a face, a size',
    act: () =>
      seat ? { act: 'state_flag', ...seat, block, line, pointer: work.up(interaction.pointer) } : null,
    click() {
      if (seat) return true;
      seat = seatOn(interaction.target);
      return false;
    },
    back() {
      const had = !!seat;
      seat = undefined;
      return had;
    },
    catches: () => !seat,
    again: () => flagging(block, line),
  };
}

const hangs = (a: Annotation) =>
  kinds.get(a.kind)?.counts === 'size' || ('shift' in a && (!!a.foot || !('at' in a)));

/** What is set down together: each that hangs on something with what is stacked under it, and all that stand free. */
export function together(annotations: Annotation[]): Annotation[][] {
  const names = new Set(annotations.map((a) => a.id));
  const under = (id: string): Annotation[] =>
    annotations.filter((a) => a.on === id).flatMap((a) => [a, ...under(a.id)]);
  const roots = annotations.filter((a) => !names.has(a.on));
  const free = roots.filter((a) => !hangs(a)).flatMap((a) => [a, ...under(a.id)]);
  return [...roots.filter(hangs).map((a) => [a, ...under(a.id)]), ...(free.length ? [free] : [])];
}

/** Signs that were copied, or kept under a name, set down where the hand points, one after another: also on another drawing.
 * A size of two places is set between two. */
export function settingAnew(all: Annotation[]): Making {
  let seats = $state.raw<(Seat & { pick: Pick })[]>([]);
  const [annotations, ...rest] = together(all);
  const hung = hangs(annotations[0]) ? annotations[0] : undefined;
  const size = hung && kinds.get(hung.kind)?.counts === 'size';
  const wanted = !hung ? 0 : hung.kind === 'dimension' ? hung.anchors.length : 1;
  const words = () =>
    !hung
      ? 'click where it is to stand'
      : wanted === 2
        ? `click the ${seats.length ? 'second' : 'first'} place that it is to measure between`
        : 'click what it is about: an outline, a face, a size';
  const whole = () => seats.length >= wanted;
  return {
    words: () => (whole() && hung ? '' : rest.length ? `${words()}; ${rest.length} more to follow` : words()),
    act() {
      const pointer = work.up(interaction.pointer);
      if (!whole()) return null;
      const { view, ref, at, dot, on } = seats[0] ?? { view: '', ref: '', at: pointer, dot: false, on: '' };
      const place = { view, ref, at, dot, on };
      const picks = wanted === 2 ? seats.map((s) => s.pick) : [];
      return { act: 'set_anew', ...place, picks, pointer, sheet: work.sheetId, annotations };
    },
    click() {
      if (whole()) return true;
      const t = interaction.target;
      const seat = seatOn(t);
      if (!seat || !t || (wanted === 2 && (!seat.ref || (seats[0] && seats[0].view !== seat.view)))) {
        interaction.words = words();
        return false;
      }
      const [x, y] = work.up([t.x, t.y]);
      seats = [...seats, { ...seat, pick: { ref: seat.ref, at: t.at ?? '', x, y } }];
      return false;
    },
    back() {
      const had = seats.length > 0;
      seats = seats.slice(0, -1);
      return had;
    },
    catches: () => !whole(),
    measures: !!size,
    again: () => (rest.length ? settingAnew(rest.flat()) : null),
  };
}
