import type { Target } from './hits';
import { kinds } from './kinds';

/** True where a size can be pulled out of what is pointed at. */
export function pullable(t: Target | undefined): boolean {
  return (
    !!t && (t.kind === 'line' || t.kind === 'point' || (t.kind === 'element' && !!kinds.get(t.of)?.measured))
  );
}
