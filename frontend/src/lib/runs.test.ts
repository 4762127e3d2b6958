import { expect, test } from 'vitest';
import type { Element } from '../api/client';
import { runsOf } from './runs';

const marks = [[], [], []] as Element['marks'][];
const element = (id: string, group: string, x: number, k: number) =>
  ({ id, group, x, y: 1, marks: marks[k] }) as Element;

test('elements in a row of one view at one place are one, in their order', () => {
  const found = runsOf([
    element('sheet', 'sheet', 0, 0),
    element('a', 'v1', 5, 1),
    element('b', 'v1', 5, 2),
    element('c', 'v1', 6, 0),
    element('d', 'v2', 5, 1),
    element('e', 'v1', 5, 2),
  ]);
  expect(found.map((r) => [r.group, r.x, r.parts.map((p) => p.id).join()])).toEqual([
    ['sheet', 0, 'sheet'],
    ['v1', 5, 'a,b'],
    ['v1', 6, 'c'],
    ['v2', 5, 'd'],
    ['v1', 5, 'e'],
  ]);
  expect(new Set(found.map((r) => r.key)).size).toBe(5);
});

test('what is moved keeps its parts, so that nothing in it is drawn anew', () => {
  const [was] = runsOf([element('a', 'v1', 5, 1), element('b', 'v1', 5, 2)]);
  const [now] = runsOf([element('a', 'v1', 9, 1), element('b', 'v1', 9, 2)]);
  expect(now.key).toBe(was.key);
  expect(now.x).toBe(9);
  now.parts.forEach((part, k) => expect(part).toBe(was.parts[k]));
});
