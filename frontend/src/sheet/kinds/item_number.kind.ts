import ItemSentence from '../sentences/Item.svelte';
import { work } from '../work.svelte';
import { dragged, nudged } from './hung';
import type { Kind } from './kind';

const kind: Kind = {
  kind: 'item_number',
  noun: ['item number', 'item numbers'],
  sentence: ItemSentence,
  counts: 'sign',
  rank: 1.1,
  says: () => '',
  offers: (id) => [{ name: 'Remove', run: () => work.remove([id]) }],
  several: (ids) => [
    { name: 'On one leader', run: () => work.act({ act: 'stack_items', ids }) },
    { name: 'Remove', run: () => work.remove(ids) },
  ],
  drag: dragged,
  moved: nudged,
};

export default kind;
