import { gestureOfRing } from '../gestures/outline_move';
import ViewSentence from '../sentences/ViewSentence.svelte';
import { selected } from '../selection.svelte';
import { viewOf } from '../parts_of_views';
import type { Kind } from './kind';
import view from './view.kind';

const kind: Kind = {
  kind: 'ring',
  noun: ['outline of a detail', 'outlines of details'],
  sentence: ViewSentence,
  ofView: true,
  offers: (id) => view.offers(viewOf(id)),
  drag(target) {
    selected.elements(viewOf(target.owner));
    return gestureOfRing(viewOf(target.owner), false);
  },
};

export default kind;
