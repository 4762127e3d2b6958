import type { Direction } from '../../api/client';
import { asking } from '../asking.svelte';
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
      to: work.up(asking.pointer),
    }),
    click: () => true,
    others: () => [
      {
        name: pictorial ? 'as a principal view' : 'as a pictorial view',
        run: () => ((pictorial = !pictorial), asking.follow()),
      },
      { name: cut ? 'whole' : 'cut through its middle', run: () => ((cut = !cut), asking.follow()) },
    ],
  };
}
