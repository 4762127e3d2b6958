import { work } from '../work.svelte';
import { dragged, nudged } from './hung';
import type { Kind } from './kind';

const kind: Kind = {
  kind: 'hole_letter',
  noun: ['letter of a hole', 'letters of holes'],
  counts: 'mark',
  rank: 1.1,
  says: () => '',
  offers: (id) => [{ name: 'Remove', run: () => work.remove([id]) }],
  drag: dragged,
  moved: nudged,
};

export default kind;
