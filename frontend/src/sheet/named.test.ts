import { describe, expect, it } from 'vitest';
import type { Target } from './board/hits';
import { beside, namesOf } from './named';

const line = (words: string, d: string, shape: Target['shape'] = 'straight'): Target => ({
  kind: 'line',
  view: 'v',
  ref: d,
  at: '',
  owner: 'v',
  of: 'view',
  shape,
  x: 0,
  y: 0,
  words,
  marks: [{ m: 's', d, pen: 'visible' } as unknown as Target['marks'][number]],
});

describe('names of what can be pointed at', () => {
  const all = [
    line('edge, 30 long', 'M 0 0 L 30 0'),
    line('edge, 20 long', 'M 0 0 L 0 20'),
    line('circle Ø5', 'M 4 4 L 6 6', 'circle'),
    line('circle Ø5', 'M 14 4 L 16 6', 'circle'),
    line('edge, 30 long', 'M 0 20 L 30 20'),
    line('edge, 20 long', 'M 30 0 L 30 20'),
  ];

  it('tell sides, and number what is called alike', () => {
    expect(namesOf(all, 'front view').map((n) => n.name)).toEqual([
      'upper edge, edge, 30 long, front view',
      'left edge, edge, 20 long, front view',
      'circle Ø5, hole 1, front view',
      'circle Ø5, hole 2, front view',
      'lower edge, edge, 30 long, front view',
      'right edge, edge, 20 long, front view',
    ]);
  });

  it('lead to a place beside the view', () => {
    const box = { x: 0, y: 0, width: 30, height: 20 };
    expect(beside([{ ...all[4], x: 15, y: 20 }], box)).toEqual([15, 30]);
    const written = [{ x: 10, y: 26, width: 9, height: 4 }];
    expect(beside([{ ...all[4], x: 15, y: 20 }], box, written)).toEqual([15, 36]);
    expect(beside([{ ...all[1], x: 0, y: 10 }], box)).toEqual([-10, 10]);
    expect(beside([{ ...all[3], x: 15, y: 5 }], box)).toEqual([-10, -5]);
    const two = [
      { ...all[2], x: 5, y: 5 },
      { ...all[3], x: 15, y: 5 },
    ];
    expect(beside(two, box)).toEqual([10, -10]);
  });
});
