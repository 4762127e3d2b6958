import { describe, expect, it } from 'vitest';
import type { Mark } from '../api/client';
import { merged } from './merged';

const stroke = (d: string, w = 0.7, m: 's' | 'u' = 's', dash: number[] = []) =>
  ({ m, d, w, dash, pen: 'visible', src: d }) as unknown as Mark;
const fill = { m: 'f', d: 'M9 9Z' } as unknown as Mark;

describe('merged marks', () => {
  it('draws strokes alike as one, up to what lies between them', () => {
    const marks = [
      stroke('M0 0'),
      stroke('M1 1', 0.35),
      stroke('M2 2'),
      fill,
      stroke('M3 3'),
      stroke('M4 4', 0.7, 's', [2]),
    ];
    const found = merged(marks, false);
    expect(found.map((m) => ('d' in m ? m.d : ''))).toEqual(['M0 0M2 2', 'M1 1', 'M9 9Z', 'M3 3', 'M4 4']);
    expect(merged(marks, false)).toBe(found);
  });

  it('draws what lies under others in a colour alone', () => {
    const marks = [stroke('M0 0'), stroke('M1 1', 0.7, 'u')];
    expect(merged(marks, false).length).toBe(1);
    expect(merged(marks, true).map((m) => ('d' in m ? m.d : ''))).toEqual(['M0 0M1 1']);
  });
});
