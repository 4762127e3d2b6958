import { interaction } from '../interaction.svelte';
import { selected } from '../selection.svelte';
import { work } from '../work.svelte';
import type { Making } from './making';

/** Sizes put in order, of some views or of the whole sheet: shown first, then done. */
export function tidying(views: string[]): Making {
  let spread = $state(false);
  const act = () => ({ act: 'tidy' as const, sheet: work.sheetId, views, spread });
  return {
    words: () => '',
    act,
    click: () => true,
    // whatever is shown where it would stand is not shown where it stands
    hides: () => interaction.preview.map((e) => e.id),
    others: () => [
      {
        name: spread ? 'Leave the views where they are' : 'Spread the views for them too',
        run: () => {
          spread = !spread;
          interaction.follow();
        },
      },
    ],
    view: () => views[0] ?? selected.one,
  };
}
