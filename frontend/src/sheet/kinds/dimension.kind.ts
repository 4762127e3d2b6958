import type { Dimension } from '../../api/client';
import DimensionSentence from '../sentences/DimensionSentence.svelte';
import { gestureOfDimension } from '../gestures/dimension';
import { work } from '../work.svelte';
import { interaction } from '../interaction.svelte';
import { changingExtension, EXTENSIONS } from '../making/extension';
import { givingLook } from '../making/look';
import { addingTo, datumFor } from '../making/row.svelte';
import { AWAY, isOut } from './aside';
import { hung } from './hung';
import type { Kind, Offer } from './kind';

const dimension = (id: string): Dimension | undefined => work.dimensions.find((d) => d.id === id);

/** What can be done with the set that a size is in, or that is made of it. */
function ofRow(d: Dimension): Offer[] {
  if (d.measure !== 'distance') return [];
  const found: Offer[] = [{ name: 'One more place in its row', run: () => interaction.make(addingTo(d.id)) }];
  const forms = [
    ['chain', 'Row as a chain'],
    ['parallel', 'Row in parallel'],
    ['running', 'Row as running sizes'],
    ['symmetrical', 'Row symmetrical about the middle'],
  ] as const;
  if (!d.row) return found;
  for (const [form, name] of forms)
    if (form !== d.row.form) found.push({ name, run: () => work.act({ act: 'change_row', id: d.id, form }) });
  found.push({ name: 'Another datum', run: () => interaction.make(datumFor(d.id)) });
  found.push({
    name: 'Leave its end out of the row',
    run: () => work.act({ act: 'change_row', id: d.id, leave_out: true }),
  });
  return found;
}

/** What a hand can do to its extension lines. */
function ofExtensions(d: Dimension): Offer[] {
  if (d.measure !== 'distance' && d.measure !== 'length' && d.measure !== 'diameter') return [];
  const found: Offer[] = EXTENSIONS.map(([what, name, words]) => ({
    name,
    run: () => interaction.make(changingExtension(d.id, what, words)),
  }));
  if (d.extensions?.length)
    found.push({
      name: 'Extension lines as usual',
      run: () => work.act({ act: 'change_extension', id: d.id, what: 'usual', at: [0, 0] }),
    });
  return found;
}

const kind: Kind = {
  kind: 'dimension',
  noun: ['size', 'sizes'],
  sentence: DimensionSentence,
  counts: 'size',
  carries: true,
  looked: true,
  rank: 1.2,
  spoken: 'dimension',
  says: (own) => (own.kind === 'dimension' ? own.measure : ''),
  several: (ids) => [
    { name: 'As references', run: () => work.setAnnotations(ids, { reference: true }) },
    { name: 'No longer references', run: () => work.setAnnotations(ids, { reference: false }) },
    { name: 'Arrows by room', run: () => work.setAnnotations(ids, { arrows: 'auto' }) },
    {
      name: 'Text to the middle',
      run: () => work.setAnnotations(ids, { place: { along: 0, aside: [0, 0] } }),
    },
  ],
  offers(id) {
    const d = dimension(id);
    if (!d) return [];
    const next = ({ auto: 'outside', outside: 'inside', inside: 'auto' } as const)[d.arrows ?? 'auto'];
    const signs = hung(id);
    const first = work.step === 7 ? signs : [];
    return [
      ...first,
      {
        name: d.reference ? 'No longer a reference' : 'As a reference',
        run: () => work.setAnnotations([id], { reference: !d.reference }),
      },
      {
        name: `Arrows ${next === 'auto' ? 'by room' : next}`,
        run: () => work.setAnnotations([id], { arrows: next }),
      },
      ...ofRow(d),
      ...(d.measure === 'angle' ? [] : [{ name: 'Choose a fit', run: () => (work.fitting = id) }]),
      { name: 'Change its look', run: () => work.editLook(id) },
      { name: 'Give its look to others', run: () => interaction.make(givingLook(id)) },
      {
        name: d.pinned ? 'Let tidying move it' : 'Pin it where it is',
        run: () => work.setAnnotations([id], { pinned: !d.pinned }),
      },
      {
        name: 'Text to the middle',
        run: () => work.setAnnotations([id], { place: { along: 0, aside: [0, 0] } }),
      },
      ...(d.measure === 'diameter' || d.measure === 'radius' || isOut(d)
        ? []
        : [
            {
              name: 'Text out with a leader',
              run: () => work.setAnnotations([id], { place: { aside: AWAY } }),
            },
          ]),
      ...ofExtensions(d),
      ...(first.length ? [] : signs),
      { name: 'Remove', run: () => work.remove([id]) },
    ];
  },
  drag: (target) => gestureOfDimension(target.owner, target.at === 'text'),
  moved(id, dx, dy) {
    const d = dimension(id);
    if (!d?.place) return [];
    const p = d.place;
    const change = (place: { [name: string]: number | [number, number] }) => [
      { op: 'change_annotation' as const, id, changes: { place } },
    ];
    if (isOut(d)) return change({ aside: [(p.aside?.[0] ?? 0) + dx, (p.aside?.[1] ?? 0) + dy] });
    if (d.measure === 'diameter' || d.measure === 'radius' || d.measure === 'angle')
      return change({ angle: (p.angle ?? 45) - dx, offset: (p.offset ?? 10) + dy });
    const text = Math.abs(dx) > Math.abs(dy) === (d.direction !== 'vertical');
    const by = text ? dx || dy : dy || dx;
    return text
      ? change({ along: (p.along ?? 0) + by })
      : change({ offset: (p.offset ?? 10) + by * (p.frame === 'model' ? 1 : (p.side ?? 1)) });
  },
};

export default kind;
