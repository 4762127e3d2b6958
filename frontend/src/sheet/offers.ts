import { interaction } from './interaction.svelte';
import { forSizes, type Target } from './board/hits';
import { isPitch } from './board/pointing';
import { kinds, type Offer } from './kinds';
import { enlarging } from './making/enlarge';
import { leavingOut } from './making/leave';
import { notingHole } from './making/hole';
import { hanging } from './making/hang.svelte';
import { liningUp } from './making/line_up';
import { stating } from './making/row.svelte';
import { lookingSquare } from './making/square';
import { selected, type Selection } from './selection.svelte';
import { work } from './work.svelte';

const measures = (wishes: [string, string][], targets: Target[]): Offer[] =>
  wishes.map(([name, wish]) => ({ name, run: () => interaction.place(targets, wish) }));

/** Whether the line that is pointed at is left out of its view. */
function isOut(t: Target): boolean {
  const view = work.view(t.view);
  return !!view?.left_out?.includes(t.ref) || (!!t.hidden && !!view?.hidden_out?.includes(t.ref));
}

/** A line left out of its view, or brought back. */
function leaveOut(first: Target): Offer {
  const view = work.view(first.view);
  const now = view?.left_out ?? [];
  const unseen = view?.hidden_out ?? [];
  const others = (refs: string[]) => refs.filter((r) => r !== first.ref);
  if (isOut(first))
    return {
      name: 'Bring this line back',
      run: () => work.setView(first.view, { left_out: others(now), hidden_out: others(unseen) }),
    };
  return {
    name: 'Leave this line out',
    run: () => work.setView(first.view, { left_out: [...now, first.ref] }),
  };
}

/** What can be shown nearer, or from elsewhere, of what is pointed at. */
function closeUps(first: Target): Offer[] {
  const found: Offer[] = [];
  const straight = first.kind === 'line' && first.shape === 'straight';
  if (first.kind === 'line')
    found.push({ name: 'Enlarge this', run: () => interaction.make(enlarging('', first)) });
  if (straight)
    found.push({ name: 'Look square onto this', run: () => interaction.make(lookingSquare(first)) });
  if (first.kind === 'line')
    found.push({
      name: 'Crop to this',
      run: () =>
        work.act({
          act: 'crop_view',
          view: first.view,
          outline: { form: 'round', centre: work.up([first.x, first.y]), ref: first.ref, points: [] },
          edge: 'ragged',
        }),
    });
  if (first.kind === 'line') {
    found.push(leaveOut(first));
    found.push({ name: 'Leave out a whole face', run: () => interaction.make(leavingOut(first)) });
  }
  found.push({ name: 'Line up with another view', run: () => interaction.make(liningUp(first)) });
  if (straight)
    found.push({
      name: 'Turn the view: this level',
      run: () => work.act({ act: 'turn_view', view: first.view, ref: first.ref }),
    });
  return found;
}

/** Signs and notes that can hang on what is pointed at. */
const signsOn = (first: Target): Offer[] =>
  (
    [
      ['Tolerance of form or place', 'frame'],
      ['Datum', 'datum'],
      ['Texture', 'texture'],
      ['Note', 'note'],
    ] as const
  ).map(([name, sign]) => ({ name, run: () => interaction.make(hanging(sign, first)) }));

/** A line midway between two edges or axes, or from one point to another. */
function between(first: Target, second: Target): Offer[] {
  if (first.view !== second.view) return [];
  const [a, b] = [first, second].map((t) => interaction.caught(t, [t.x, t.y]));
  const points = first.kind === 'point' && second.kind === 'point';
  const form = points ? ('to' as const) : ('midway' as const);
  return [
    {
      name: points ? 'A line between them' : 'The line midway',
      run: () =>
        work.act({
          act: 'draw_line',
          view: first.view,
          form,
          axis: 'x',
          refs: [a.ref, b.ref],
          ats: [a.at, b.at],
        }),
    },
  ];
}

/** Sizes from where two straight edges meet, extended. */
function fromCorner(first: Target, second: Target): Offer[] {
  const straight = [first, second].every((t) => t.kind === 'line' && t.shape === 'straight');
  if (first.view !== second.view || !straight) return [];
  const corner: Target = { ...first, kind: 'point', at: `cross:${second.ref}`, words: 'corner of two edges' };
  return [{ name: 'A row from where they meet', run: () => interaction.make(stating(corner)) }];
}

function forGeometry(targets: Target[]): Offer[] {
  const [first, second, third] = targets;
  if (third && isPitch(third))
    return [{ name: 'Angle about it', run: () => interaction.place(targets.slice(0, 3)) }];
  if (third && first.kind === 'point' && second.kind === 'point')
    return [{ name: 'Distance along it', run: () => interaction.place(targets.slice(0, 3)) }];
  if (second)
    return [
      ...measures(
        [
          ['Dimension', ''],
          ['Horizontal', 'horizontal'],
          ['Vertical', 'vertical'],
          ['Aligned', 'aligned'],
        ],
        targets,
      ),
      ...fromCorner(first, second),
      ...between(first, second),
    ];
  const cut: Offer = {
    name: 'Cut here',
    run: () => interaction.cut(first.view, [interaction.caught(first, [first.x, first.y])], false),
  };
  const view: Offer = { name: 'Select the view', run: () => selected.elements(first.view) };
  if (forSizes(first))
    return [{ name: 'A row of sizes from here', run: () => interaction.make(stating(first)) }, view];
  const signs = first.kind === 'line' || first.kind === 'point' ? signsOn(first) : [];
  const near = [...signs, ...closeUps(first)];
  if (isOut(first)) return [leaveOut(first), view];
  if (first.kind !== 'line' && first.kind !== 'point') return [];
  if (work.step === 7) return [...signs, cut, view];
  const thread: Offer = {
    name: 'Threaded, by its diameter',
    run: () =>
      work.act({
        act: 'declare_thread',
        view: first.view,
        ref: first.ref,
        size: '',
        tolerance: '',
        hand: 'right',
        alike: true,
      }),
  };
  if (first.kind === 'point') {
    // the lines of a modelled thread are all but covered by their own ends
    const offers =
      first.shape === 'curve' ? [cut, view, { ...thread, name: 'Show as a thread' }] : [cut, view];
    return work.step === 4 ? [cut, ...near, view] : [...offers, ...near];
  }
  if (first.shape === 'curve')
    return [
      { name: 'Ordinates of this curve', run: () => interaction.make(stating(first, 'ordinates')) },
      { ...thread, name: 'Show as a thread' },
      cut,
      view,
      ...near,
    ];
  const mark: Offer = {
    name: 'Mark its centre',
    run: () => work.act({ act: 'centres', sheet: work.sheetId, views: [first.view], refs: [first.ref] }),
  };
  const keyway: Offer = {
    name: 'Sizes of the keyway',
    run: () => work.act({ act: 'state_keyway', view: first.view, ref: first.ref }),
  };
  if (first.shape === 'arc')
    return [
      ...measures(
        [
          ['Radius', ''],
          ['Diameter', 'diameter'],
          ['Arc length', 'arc length'],
        ],
        targets,
      ),
      {
        name: 'Sizes of the slot',
        run: () => work.act({ act: 'state_slot', view: first.view, ref: first.ref }),
      },
      keyway,
      mark,
      cut,
      view,
      ...near,
    ];
  const note: Offer = { name: 'Note the hole', run: () => interaction.make(notingHole(first)) };
  const row: Offer = { name: 'A row of sizes from here', run: () => interaction.make(stating(first)) };
  if (first.shape === 'circle')
    return [
      ...measures([['Diameter', '']], targets),
      note,
      ...measures([['Radius', 'radius']], targets),
      mark,
      cut,
      view,
      thread,
      row,
      ...near,
    ];
  if (first.shape === 'outline')
    return [
      ...measures(
        [
          ['Diameter', ''],
          ['Length', 'length'],
        ],
        targets,
      ),
      note,
      cut,
      thread,
      view,
      ...near,
    ];
  if (work.step === 4) return [cut, ...near, view];
  return [
    ...measures(
      [
        ['Length', ''],
        ['Horizontal', 'horizontal'],
        ['Vertical', 'vertical'],
      ],
      targets,
    ),
    cut,
    view,
    row,
    ...measures(
      [
        ['Chamfer', 'chamfer'],
        ['Slope', 'slope'],
        ['Angle to the level', 'angle to the level'],
      ],
      targets,
    ),
    keyway,
    ...near,
  ];
}

/** What several elements are, in words. */
export function nounsOf(ids: string[]): string {
  const counts = new Map<string, number>();
  for (const id of ids) {
    const kind = work.elements.get(id)?.kind ?? '';
    counts.set(kind, (counts.get(kind) ?? 0) + 1);
  }
  return [...counts]
    .map(([kind, n]) => {
      const [one, several] = kinds.get(kind)?.noun ?? ['element', 'elements'];
      return n === 1 ? `1 ${one}` : `${n} ${several}`;
    })
    .join(', ');
}

function forSeveral(ids: string[]): Offer[] {
  const own = new Set(ids.map((id) => work.elements.get(id)?.kind ?? ''));
  const found: Offer[] = own.size === 1 ? (kinds.get([...own][0])?.several?.(ids) ?? []) : [];
  found.push({ name: `Remove these ${ids.length}`, run: () => work.remove(ids) });
  return found;
}

/** Acts that fit what is selected, likeliest first. */
export function offersFor(selection: Selection): Offer[] {
  if (selection.kind === 'geometry') return forGeometry(selection.targets);
  if (selection.kind === 'sheet') return [];
  if (selection.ids.length > 1) return forSeveral(selection.ids);
  const [id] = selection.ids;
  return kinds.get(work.elements.get(id)?.kind ?? '')?.offers(id) ?? [];
}
