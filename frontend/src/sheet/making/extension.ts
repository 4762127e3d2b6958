import { interaction } from '../interaction.svelte';
import { work } from '../work.svelte';
import type { Making } from './making';

export const EXTENSIONS = [
  ['leave_out', 'Leave out an extension line', 'click the extension line that is to go, or to come back'],
  ['break', 'Break an extension line', 'click where the extension line is to be broken, or mended'],
  ['begin', 'Begin an extension line elsewhere', 'click where the extension line is to begin'],
  ['aside', 'Move an extension line aside', 'click the extension line that is to be moved'],
] as const;
type What = (typeof EXTENSIONS)[number][0];

/** An extension line of a size changed where the hand clicks; one that is moved aside is taken hold of first. */
export function changingExtension(id: string, what: What, words: string): Making {
  let hold: [number, number] | undefined;
  return {
    words: () => (hold ? 'click where it is to run' : words),
    act: () =>
      what === 'aside' && !hold
        ? null
        : { act: 'change_extension', id, what, at: work.up(interaction.pointer), of: hold ?? null },
    click() {
      if (what !== 'aside' || hold) return true;
      hold = work.up(interaction.pointer);
      return false;
    },
    back() {
      const held = !!hold;
      hold = undefined;
      return held;
    },
    hides: () => [id],
    view: () => id,
  };
}
