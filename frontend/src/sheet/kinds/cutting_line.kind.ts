import { gestureOfCutting } from '../gestures/cutting';
import { gestureOfLetter } from '../gestures/letter';
import { viewOf } from '../parts_of_views';
import ViewSentence from '../sentences/ViewSentence.svelte';
import type { Kind } from './kind';
import view from './view.kind';

const kind: Kind = {
  kind: 'cutting_line',
  noun: ['cutting line', 'cutting lines'],
  sentence: ViewSentence,
  ofView: true,
  offers: (id) => view.offers(viewOf(id)),
  drag: (target, from) =>
    target.at === 'text'
      ? gestureOfLetter(viewOf(target.owner), from)
      : gestureOfCutting(viewOf(target.owner), null, from),
};

export default kind;
