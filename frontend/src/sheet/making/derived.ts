import { interaction } from '../interaction.svelte';
import { work } from '../work.svelte';
import type { Making } from './making';

/** A view of what is made of the part that a view shows, set down where one clicks. */
const set = (act: Making['act'], view: string): Making => ({
  words: () => 'click where it is to stand',
  act,
  click: () => true,
  view: () => view,
});

/** A bent sheet laid flat. */
export const layingFlat = (view: string): Making =>
  set(() => ({ act: 'lay_flat', view, to: work.up(interaction.pointer) }), view);

/** The part of the other hand, as in a mirror. */
export const mirroring = (view: string): Making =>
  set(() => ({ act: 'mirror_view', view, to: work.up(interaction.pointer) }), view);
