import { gestureOfCaption } from '../gestures/caption';
import { viewOf } from '../parts_of_views';
import { selected } from '../selection.svelte';
import { work } from '../work.svelte';
import type { Kind } from './kind';

const kind: Kind = {
  kind: 'caption',
  noun: ['caption', 'captions'],
  windowed: false,
  offers: (id) => [
    { name: 'Select its view', run: () => selected.elements(viewOf(id)) },
    ...(work.view(viewOf(id))?.caption_off
      ? [{ name: 'Back to its place', run: () => work.setView(viewOf(id), { caption_off: null }) }]
      : []),
  ],
  drag: (target, from) => gestureOfCaption(viewOf(target.owner), target.owner, from),
};

export default kind;
