import { describe, expect, it } from 'vitest';
import type { ViewJson } from '../../api/client';
import { liesOn, meet } from './standing';

const square = (x: number, y: number, s = 10): [number, number][] => [
  [x, y],
  [x + s, y],
  [x + s, y + s],
  [x, y + s],
];
const view = (words: string, x: number, y: number) => ({ words, hull: square(x, y) }) as unknown as ViewJson;
const sheet = {
  space: { x: 0, y: 0, width: 100, height: 100 },
  title: { x: 70, y: 80, width: 30, height: 20 },
};

describe('what a view that is dragged comes to lie on', () => {
  it('tells shapes that meet from such as only touch, or whose boxes alone meet', () => {
    expect(meet(square(0, 0), square(9, 9))).toBe(true);
    expect(meet(square(0, 0), square(10, 0))).toBe(false);
    const diamond: [number, number][] = [
      [15, 5],
      [25, 15],
      [15, 25],
      [5, 15],
    ];
    expect(meet(square(0, 0, 9), diamond)).toBe(false);
  });

  it('names it: the frame, the title block, another view', () => {
    const own = view('Front view', 20, 20);
    expect(liesOn([own], [0, 0], [view('Top view', 50, 20)], sheet)).toBe('');
    expect(liesOn([own], [25, 0], [view('Top view', 50, 20)], sheet)).toBe('on Top view');
    expect(liesOn([own], [55, 65], [], sheet)).toBe('on the title block');
    expect(liesOn([own], [-25, 0], [], sheet)).toBe('across the frame');
  });
});
