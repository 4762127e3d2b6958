import type { Selection } from './work.svelte';
import { work } from './work.svelte';

/** An act that fits what is selected. */
export type Offer = { name: string; run: () => unknown };

const measures = (wishes: [string, string][], targets: Parameters<typeof work.place>[0]): Offer[] =>
  wishes.map(([name, wish]) => ({ name, run: () => work.place(targets, wish) }));

/** Up to five acts, likeliest first. */
export function offersFor(selection: Selection): Offer[] {
  if (selection.kind === 'geometry') {
    const [first, second] = selection.targets;
    if (second)
      return measures(
        [
          ['Dimension', ''],
          ['Horizontal', 'horizontal'],
          ['Vertical', 'vertical'],
          ['Aligned', 'aligned'],
        ],
        selection.targets,
      );
    if (first.kind !== 'line') return [];
    const round = /Ø|arc|sphere/.test(first.words);
    const common: Offer[] = [
      { name: 'Centres of this view', run: () => work.centreAll([first.view]) },
      { name: 'Select the view', run: () => (work.selection = { kind: 'view', id: first.view }) },
    ];
    if (round)
      return [
        ...measures(
          [
            [/arc/.test(first.words) ? 'Radius' : 'Diameter', ''],
            [
              /arc/.test(first.words) ? 'Diameter' : 'Radius',
              /arc/.test(first.words) ? 'diameter' : 'radius',
            ],
          ],
          selection.targets,
        ),
        ...common,
      ];
    return [
      ...measures(
        [
          ['Length', ''],
          ['Horizontal', 'horizontal'],
          ['Vertical', 'vertical'],
        ],
        selection.targets,
      ),
      ...common,
    ];
  }
  if (selection.kind === 'view') {
    const view = work.views.find((v) => v.id === selection.id);
    if (!view) return [];
    const found: Offer[] = [];
    if (view.look !== 'corner')
      found.push({ name: 'Centre marks and lines', run: () => work.centreAll([view.id]) });
    found.push({
      name: view.hidden_lines ? 'Leave hidden lines out' : 'Show hidden lines',
      run: () => work.setView(view.id, { hidden_lines: !view.hidden_lines }),
    });
    if (view.parent)
      found.push({
        name: view.tied ? 'Untie from its parent' : 'Tie to its parent',
        run: () => work.setView(view.id, { tied: !view.tied }),
      });
    found.push({ name: 'Remove the view', run: () => work.remove() });
    return found;
  }
  if (selection.kind === 'dimension') {
    const d = work.dimensions.find((x) => x.id === selection.id);
    if (!d) return [];
    const next = { auto: 'outside', outside: 'inside', inside: 'auto' }[d.arrows ?? 'auto'];
    return [
      {
        name: d.reference ? 'No longer a reference' : 'As a reference',
        run: () => work.setDimension(d.id, { reference: !d.reference }),
      },
      {
        name: `Arrows ${next === 'auto' ? 'by room' : next}`,
        run: () => work.setDimension(d.id, { arrows: next }),
      },
      { name: 'Text to the middle', run: () => work.setDimension(d.id, { place: { along: 0 } }) },
      { name: 'Remove', run: () => work.remove() },
    ];
  }
  if (selection.kind === 'centre') {
    const target = work.hits?.of(selection.id);
    return [
      ...(target
        ? [{ name: 'Measure from it', run: () => (work.selection = { kind: 'geometry', targets: [target] }) }]
        : []),
      { name: 'Remove', run: () => work.remove() },
    ];
  }
  return [];
}
