import { interaction } from '../interaction.svelte';
import { work } from '../work.svelte';
import type { Making } from './making';

/** A view pulled out of a side or corner of another. */
export function pulling(view: string, side: string): Making {
  return {
    words: () => '',
    act: () => ({ act: 'pull_view', view, side, to: work.up(interaction.pointer) }),
    click: () => true,
  };
}
