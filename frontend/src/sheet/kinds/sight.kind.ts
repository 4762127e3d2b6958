import ViewSentence from '../sentences/ViewSentence.svelte';
import { viewOf } from '../parts_of_views';
import type { Kind } from './kind';
import view from './view.kind';

const kind: Kind = {
  kind: 'sight',
  noun: ['arrow of a view', 'arrows of views'],
  sentence: ViewSentence,
  ofView: true,
  offers: (id) => view.offers(viewOf(id)),
};

export default kind;
