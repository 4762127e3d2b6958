import { interaction } from '../interaction.svelte';
import { work } from '../work.svelte';
import type { Making } from './making';

/** A rib of a section, clicked in its middle, that is left without hatch. */
export function leavingRib(view: string): Making {
  let clicked = false;
  return {
    words: () => 'click in the middle of the rib or web',
    act: () => (clicked ? { act: 'leave_rib', view, to: work.up(interaction.pointer) } : null),
    click: () => (clicked = true),
  };
}
