import { selected } from '../selection.svelte';
import { work } from '../work.svelte';
import type { Kind } from './kind';

/** What centre marks and centre lines have in common. */
export const centre = (
  own: Pick<Kind, 'kind' | 'noun' | 'counts' | 'caught' | 'several' | 'picked'>,
): Kind => ({
  ...own,
  ended: true,
  measured: true,
  offers(id) {
    const target = work.hits?.of(id);
    return [
      ...(target ? [{ name: 'Measure from it', run: () => selected.geometry(target) }] : []),
      { name: 'Remove', run: () => work.remove([id]) },
    ];
  },
});
