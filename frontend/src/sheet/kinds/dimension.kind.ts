import type { Dimension } from '../../api/client';
import DimensionSentence from '../DimensionSentence.svelte';
import { gestureOfDimension } from '../gestures/dimension';
import { work } from '../work.svelte';
import type { Kind } from './kind';

const dimension = (id: string): Dimension | undefined => work.dimensions.find((d) => d.id === id);

const kind: Kind = {
  kind: 'dimension',
  noun: ['size', 'sizes'],
  sentence: DimensionSentence,
  offers(id) {
    const d = dimension(id);
    if (!d) return [];
    const next = { auto: 'outside', outside: 'inside', inside: 'auto' }[d.arrows ?? 'auto'];
    return [
      {
        name: d.reference ? 'No longer a reference' : 'As a reference',
        run: () => work.setAnnotations([id], { reference: !d.reference }),
      },
      {
        name: `Arrows ${next === 'auto' ? 'by room' : next}`,
        run: () => work.setAnnotations([id], { arrows: next }),
      },
      { name: 'Text to the middle', run: () => work.setAnnotations([id], { place: { along: 0 } }) },
      { name: 'Remove', run: () => work.remove([id]) },
    ];
  },
  drag: (target) => gestureOfDimension(target.owner, target.at === 'text'),
  moved(id, dx, dy) {
    const d = dimension(id);
    if (!d?.place) return [];
    const p = d.place;
    const change = (place: { [name: string]: number }) => [
      { op: 'change_annotation' as const, id, changes: { place } },
    ];
    if (d.measure === 'diameter' || d.measure === 'radius' || d.measure === 'angle')
      return change({ angle: (p.angle ?? 45) - dx, offset: (p.offset ?? 10) + dy });
    const text = Math.abs(dx) > Math.abs(dy) === (d.direction !== 'vertical');
    const by = text ? dx || dy : dy || dx;
    return text
      ? change({ along: (p.along ?? 0) + by })
      : change({ offset: (p.offset ?? 10) + by * (p.frame === 'model' ? 1 : (p.side ?? 1)) });
  },
};

export default kind;
