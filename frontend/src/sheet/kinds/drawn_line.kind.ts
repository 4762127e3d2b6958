import { gestureOfEnd } from '../gestures/end';
import { work } from '../work.svelte';
import type { Kind } from './kind';

const kind: Kind = {
  kind: 'drawn_line',
  noun: ['line', 'lines'],
  counts: 'axis',
  ended: true,
  offers: (id) => [{ name: 'Remove', run: () => work.remove([id]) }],
  drag: (target, from) => gestureOfEnd(target.owner, from),
};

export default kind;
