import { kinds } from './kinds';
import { selected } from './selection.svelte';
import { work } from './work.svelte';

/** An act of the route card and the finder: with its key, and why it cannot be done just now. */
export type RouteAct = {
  step: number;
  name: string;
  /** What it does, in a sentence. */
  says: string;
  key?: string;
  run: () => unknown;
  reason?: () => string;
};

export const needViews = () => (work.views.length ? '' : 'There are no views on this sheet yet.');
export const needSelection = (what: string) => () => (selected.ids.length ? '' : `Select ${what} first.`);

/** Why an act on one element of a kind cannot be done just now. */
export const needOne = (kind: string) => () =>
  work.elements.get(selected.one)?.kind === kind ? '' : `Select a ${kinds.get(kind)?.noun[0] ?? kind} first.`;
