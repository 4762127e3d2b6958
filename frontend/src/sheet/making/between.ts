import { interaction } from '../interaction.svelte';
import { drawnOf } from '../parts_of_views';
import { work } from '../work.svelte';
import type { Making } from './making';

/** A section turned into a long view between break lines, where the hand clicks. */
export function turningIn(view: string): Making {
  return {
    words: () => '',
    act: () => ({ act: 'revolve_between', view, to: work.up(interaction.pointer) }),
    click: () => true,
    hides: () => drawnOf(view),
  };
}
