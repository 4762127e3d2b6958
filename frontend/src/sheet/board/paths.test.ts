import { describe, expect, it } from 'vitest';
import { flattened } from './paths';

const far = (p: number[], x: number, y: number) => {
  const found: number[] = [];
  for (let i = 0; i < p.length; i += 2) found.push(Math.hypot(p[i] - x, p[i + 1] - y));
  return found;
};

describe('path data as points', () => {
  it('gives the corners of lines', () => {
    expect(flattened('M1.5 -2L3 4L5.25 6')).toEqual([1.5, -2, 3, 4, 5.25, 6]);
  });

  it.each([0, 1])('keeps an arc on its circle, on the side that its sweep tells (%i)', (sweep) => {
    // a quarter of a circle of 10 about the origin or about (10, 10), from (10, 0) to (0, 10)
    const p = flattened(`M10 0A10 10 0 0 ${sweep} 0 10`);
    const [x, y] = sweep ? [0, 0] : [10, 10];
    for (const r of far(p, x, y)) expect(r).toBeCloseTo(10, 6);
    expect(p.slice(-2)[0]).toBeCloseTo(0, 9);
    expect(p.slice(-2)[1]).toBeCloseTo(10, 9);
  });

  it('keeps a tilted elliptic arc on its ellipse', () => {
    const tilt = Math.PI / 6;
    const at = (t: number) => {
      const [x, y] = [8 * Math.cos(t), 3 * Math.sin(t)];
      return [x * Math.cos(tilt) - y * Math.sin(tilt), x * Math.sin(tilt) + y * Math.cos(tilt)];
    };
    const [x0, y0] = at(0.3);
    const [x1, y1] = at(2.1);
    const p = flattened(`M${x0} ${y0}A8 3 30 0 1 ${x1} ${y1}`);
    for (let i = 0; i < p.length; i += 2) {
      const u = p[i] * Math.cos(tilt) + p[i + 1] * Math.sin(tilt);
      const v = -p[i] * Math.sin(tilt) + p[i + 1] * Math.cos(tilt);
      expect((u / 8) ** 2 + (v / 3) ** 2).toBeCloseTo(1, 6);
    }
  });

  it('follows a cubic to its end by way of its middle', () => {
    const p = flattened('M0 0C0 4 4 4 4 0');
    // at half way: (0 + 3·0 + 3·4 + 4)/8, (3·4 + 3·4)/8
    expect(far(p, 2, 3)).toContainEqual(0);
    expect(p.slice(-2)).toEqual([4, 0]);
  });
});
