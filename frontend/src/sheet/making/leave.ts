import { interaction } from '../interaction.svelte';
import type { Target } from '../board/hits';
import type { Making } from './making';

const KINDS = [
  ['face', 'lines of its face'],
  ['other_face', 'lines of its other face'],
  ['hidden', 'hidden lines of the feature'],
] as const;

/** Lines left out of a view together: those of a face, or the hidden ones of a feature. */
export function leavingOut(target: Target): Making {
  let of: (typeof KINDS)[number][0] = target.hidden ? 'hidden' : 'face';
  return {
    words: () => '',
    act: () => ({ act: 'leave_lines', view: target.view, ref: target.ref, of }),
    click: () => true,
    view: () => target.view,
    others: () =>
      KINDS.filter(([k]) => k !== of).map(([k, name]) => ({
        name,
        run: () => ((of = k), interaction.follow()),
      })),
  };
}
