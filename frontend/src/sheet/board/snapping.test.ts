import { describe, expect, it } from 'vitest';
import { snapped } from './snapping';

const at = (x: number, y: number, width = 20, height = 10) => ({ x, y, width, height });

describe('moving a view', () => {
  it('catches left edges in line, and says so', () => {
    const found = snapped(at(101.4, 80), [at(100, 20)]);
    expect(found.dx).toBeCloseTo(-1.4);
    expect(found.guides[0].words).toBe('edges in line');
  });
  it('catches middles before edges that are farther', () => {
    const found = snapped(at(104.5, 80, 10, 10), [at(100, 20)]);
    expect(found.dx).toBeCloseTo(0.5);
    expect(found.guides[0].words).toBe('middles in line');
  });
  it('leaves a view alone that is near to nothing', () => {
    expect(snapped(at(150, 150), [at(100, 20)])).toEqual({ dx: 0, dy: 0, guides: [] });
  });
  it('leaves the gap that two others leave', () => {
    // 20 to 50 is a gap of 30; after 70 the next begins at 100
    const found = snapped(at(101, 1, 33, 12), [at(0, 0), at(50, 0)]);
    expect(found.dx).toBeCloseTo(-1);
    expect(found.guides.map((g) => g.words)).toContain('gaps alike');
  });
});
