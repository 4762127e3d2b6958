import { gestureOfCutting } from '../gestures/cutting';
import ViewSentence from '../ViewSentence.svelte';
import type { Kind } from './kind';
import view from './view.kind';

/** The section that a cutting line belongs to. */
export const sectionOf = (line: string) => line.replace(/-line$/, '');

const kind: Kind = {
  kind: 'cutting_line',
  noun: ['cutting line', 'cutting lines'],
  sentence: ViewSentence,
  offers: (id) => view.offers(sectionOf(id)),
  drag: (target, from) => gestureOfCutting(sectionOf(target.owner), null, from),
};

export default kind;
