import type { Mark } from '../api/client';

type Stroke = Extract<Mark, { m: 's' | 'u' }>;

const known = new WeakMap<Mark[], Mark[]>();
const coloured = new WeakMap<Mark[], Mark[]>();

/** Marks with all strokes alike drawn as one, as long as nothing else lies between them: a view of many lines is then but a
 * few things on the screen. Strokes under others are drawn in `colour` only. */
export function merged(marks: Mark[], colour: boolean): Mark[] {
  const kept = colour ? coloured : known;
  let found = kept.get(marks);
  if (found) return found;
  found = [];
  let alike = new Map<string, { of: Stroke; ways: string[] }>();
  const put = () => {
    for (const { of, ways } of alike.values()) found!.push({ ...of, m: 's', d: ways.join('') });
    alike = new Map();
  };
  for (const mark of marks) {
    if (mark.m === 's' || mark.m === 'u') {
      if (mark.m === 'u' && !colour) continue;
      const look = `${mark.w} ${mark.dash?.join(' ') ?? ''}`;
      const group = alike.get(look);
      if (group) group.ways.push(mark.d);
      else alike.set(look, { of: mark, ways: [mark.d] });
    } else {
      put();
      found.push(mark);
    }
  }
  put();
  kept.set(marks, found);
  return found;
}
