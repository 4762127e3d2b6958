import { interaction } from '../interaction.svelte';
import { drawnOf } from '../parts_of_views';
import { work } from '../work.svelte';
import type { Making } from './making';
import { Outlining } from './outlining';

/** A crop: an outline on a view, to which it is cropped as soon as it is drawn. */
export function cropping(view = ''): Making {
  const outline = new Outlining(view);
  return {
    words: () =>
      outline.begun
        ? 'pull it as wide as it is to be'
        : 'press in the middle of what is to be kept and pull an outline round it',
    act: () =>
      outline.begun
        ? { act: 'crop_view', view: outline.view, outline: outline.drawn(), edge: 'ragged' }
        : null,
    click: () => outline.click() && outline.ready,
    drag: () => outline.drag(() => void interaction.finish()),
    back: () => outline.back(),
    view: () => outline.view,
    hides: () => (outline.begun ? drawnOf(outline.view) : []),
    catches: () => !outline.begun,
    others: () => outline.forms,
  };
}

/** Keep the half or quarter of a view, with its sign of symmetry. */
type Half = -1 | 0 | 1;

export function halved(view: string, halves: [Half, Half]) {
  return work.setView(view, { crop: { outline: null, halves, edge: 'none' } });
}
