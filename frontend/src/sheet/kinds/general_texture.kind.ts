import GeneralSentence from '../sentences/General.svelte';
import { work } from '../work.svelte';
import { dragged, nudged } from './hung';
import type { Kind } from './kind';

const kind: Kind = {
  kind: 'general_texture',
  noun: ['general texture', 'general textures'],
  sentence: GeneralSentence,
  counts: 'sign',
  rank: 1.1,
  spoken: 'general texture',
  says: () => 'general texture',
  offers: (id) => [
    { name: 'Fill in the field', run: () => (work.field = 'surface') },
    { name: 'Remove', run: () => work.remove([id]) },
  ],
  drag: dragged,
  moved: nudged,
};

export default kind;
