import { work } from './work.svelte';

/** The view to which a cutting line, ring, arrow or caption belongs; a view is its own. */
export const viewOf = (element: string) => work.elements.get(element)?.view || element;

/** What is drawn of a view, by kinds of elements. */
export const partsOf = (view: string, ...kinds: string[]) =>
  [...work.elements.values()].filter((e) => e.view === view && kinds.includes(e.kind)).map((e) => e.id);

/** What is drawn of a view itself: its lines, its hatch and its threads. */
export const drawnOf = (view: string) => partsOf(view, 'view', 'hatch', 'thread');
