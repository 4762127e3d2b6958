import { work } from '../work.svelte';
import type { Kind } from './kind';

const kind: Kind = {
  kind: 'pitch_circle',
  noun: ['pitch circle', 'pitch circles'],
  counts: 'axis',
  offers: (id) => [{ name: 'Remove', run: () => work.remove([id]) }],
};

export default kind;
