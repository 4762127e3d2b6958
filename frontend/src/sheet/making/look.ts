import { kinds } from '../kinds';
import { interaction } from '../interaction.svelte';
import type { Gesture } from '../gestures/gesture';
import type { Making } from './making';

/** The look of a size swept over others: pressed and drawn over them, or clicked one by one. */
export function givingLook(source: string): Making {
  const over: string[] = [];
  const touch = () => {
    const t = interaction.target;
    if (t?.kind === 'element' && kinds.get(t.of)?.looked && t.owner !== source && !over.includes(t.owner))
      over.push(t.owner);
    interaction.words = over.length
      ? `${over.length} ${over.length === 1 ? 'size' : 'sizes'} will look like it`
      : 'sweep over the sizes that are to look like it';
  };
  return {
    words: () => 'sweep over the sizes that are to look like it',
    act: () => (over.length ? { act: 'give_look', source, ids: over } : null),
    click() {
      touch();
      return over.length > 0;
    },
    drag(): Gesture {
      touch();
      return {
        cursor: 'crosshair',
        move: touch,
        up: () => (over.length ? interaction.finish() : undefined),
        cancel: () => interaction.stop(),
      };
    },
    picked: () => over,
    still: true,
  };
}
