import type { Target } from './hits';
import { kinds } from '../kinds';

/** True where a size can be pulled out of what is pointed at. */
export function pullable(t: Target | undefined): boolean {
  return (
    !!t && (t.kind === 'line' || t.kind === 'point' || (t.kind === 'element' && !!kinds.get(t.of)?.measured))
  );
}

/** True where what is pointed at means a size by itself: a line, or a middle, a centre or a side that stands for its edge. */
export function meantAlone(t: Target): boolean {
  return t.kind === 'line' || /^(middle|centre|rim|pitch)/.test(t.at ?? '');
}

/** True for a pitch circle: angles are measured about it. */
export const isPitch = (t: Target): boolean => t.at.startsWith('pitch:');
