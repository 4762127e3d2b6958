import type { Direction } from '../../api/client';
import { interaction } from '../interaction.svelte';
import { work } from '../work.svelte';
import type { Making } from './making';

/** A view from a direction that is kept with the part. */
export function placing(from: Direction): Making {
  let pictorial = false;
  let cut = false;
  return {
    words: () => '',
    act: () => ({
      act: 'place_view',
      sheet: work.sheetId,
      part: work.partKey,
      name: from.name,
      toward: from.toward,
      up: from.up,
      pictorial,
      cut_at: cut ? 0 : null,
      to: work.up(interaction.pointer),
    }),
    click: () => true,
    others: () => [
      {
        name: pictorial ? 'as a principal view' : 'as a pictorial view',
        run: () => ((pictorial = !pictorial), interaction.follow()),
      },
      { name: cut ? 'whole' : 'cut through its middle', run: () => ((cut = !cut), interaction.follow()) },
    ],
  };
}
