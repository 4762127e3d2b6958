import { selected } from '../selection.svelte';
import { work } from '../work.svelte';
import type { Making } from './making';

/** Sizes put in order, of some views or of the whole sheet: shown first, then done. */
export function tidying(views: string[]): Making {
  const act = () => ({ act: 'tidy' as const, sheet: work.sheetId, views });
  return {
    words: () => '',
    act,
    click: () => true,
    hides: () =>
      work.annotations
        .filter(
          (a) =>
            (a.kind === 'dimension' || a.kind === 'hole_note') && (!views.length || views.includes(a.on)),
        )
        .map((a) => a.id),
    view: () => views[0] ?? selected.one,
  };
}
