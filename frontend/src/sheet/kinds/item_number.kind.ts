import ItemSentence from '../sentences/Item.svelte';
import { work } from '../work.svelte';
import { hungKind } from './hung';

export default hungKind({
  kind: 'item_number',
  noun: ['item number', 'item numbers'],
  sentence: ItemSentence,
  counts: 'sign',
  several: (ids) => [
    { name: 'On one leader', run: () => work.act({ act: 'stack_items', ids }) },
    { name: 'Remove', run: () => work.remove(ids) },
  ],
});
