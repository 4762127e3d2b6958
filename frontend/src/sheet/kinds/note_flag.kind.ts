import FlagSentence from '../sentences/Flag.svelte';
import { work } from '../work.svelte';
import { dragged, nudged } from './hung';
import type { Kind } from './kind';

const kind: Kind = {
  kind: 'note_flag',
  noun: ['flag', 'flags'],
  sentence: FlagSentence,
  counts: 'sign',
  rank: 1.1,
  says: () => '',
  offers: (id) => [{ name: 'Remove', run: () => work.remove([id]) }],
  drag: dragged,
  moved: nudged,
};

export default kind;
