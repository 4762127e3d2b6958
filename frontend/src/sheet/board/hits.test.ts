import { describe, expect, it } from 'vitest';
import type { SheetInk } from '../../api/client';
import { Hits } from './hits';

const stroke = (d: string, src = '', pen = 'visible') => ({ m: 's' as const, d, pen, w: 0.5, src });

function ink(): SheetInk {
  return {
    token: 't',
    order: ['v', 'd', 'c'],
    width: 420,
    height: 297,
    scale_text: '1:1',
    fields: [],
    remarks: [],
    space: { x: 20, y: 10, width: 390, height: 277 },
    title: { x: 230, y: 230, width: 180, height: 57 },
    elements: [
      {
        id: 'v',
        kind: 'view',
        group: 'v',
        view: '',
        words: 'Front view',
        key: 'k1',
        x: 100,
        y: 100,
        marks: [stroke('M0 0L50 0', 'E1'), stroke('M0 1L50 1', 'E2', 'hidden')],
      },
      {
        id: 'd',
        kind: 'dimension',
        group: 'v',
        view: '',
        words: '50',
        key: 'k2',
        x: 100,
        y: 100,
        marks: [
          stroke('M0 10L50 10'),
          { m: 't', text: '50', x: 22, y: 9, size: 4, angle: 0, box: [22, 9.5, 28, 9.5, 28, 5.5, 22, 5.5] },
        ],
      },
      {
        id: 'c',
        kind: 'centre_line',
        group: 'v',
        view: '',
        words: 'centre line',
        key: 'k3',
        x: 100,
        y: 100,
        marks: [stroke('M25 -5L25 5', 'F1', 'centre')],
      },
    ],
    views: [
      {
        id: 'v',
        name: 'Front',
        words: 'Front view',
        hull: [],
        x: 100,
        y: 95,
        width: 50,
        height: 10,
        scale: 1,
        scale_text: '1:1',
        part_name: 'p',
        facing: '−Y',
        meshed: 0,
        pending: false,
        moves: null,
        carries: [],
        own_direction: true,
        bodies: ['p'],
        colours: [],
        bent: false,
        axes: [],
        section: null,
        outline: null,
        breaks: [],
        broken: false,
        local_cuts: [],
        hatches: [],
        key: 'q',
        pointed: {
          words: ['edge, 50 long', 'end point'],
          lines: [
            ['E1', 'straight', 0],
            ['E2', 'straight', 0],
          ],
          snaps: [[0, 'start', 0, 0, 1, false]],
        },
      },
    ],
  };
}

describe('what lies under the pointer', () => {
  it('is the point before the line, and the visible line before the hidden one', () => {
    const hits = new Hits(ink());
    expect(hits.at(100.2, 100.2, 2).map((t) => t.kind)[0]).toBe('point');
    const [first, second] = hits.at(110, 100.5, 2).filter((t) => t.kind === 'line');
    expect([first.ref, second.ref]).toEqual(['E1', 'E2']);
    expect(second.words).toBe('hidden edge, 50 long');
  });

  it('is the lettering where one points into it', () => {
    const known = (kind: string) => (kind === 'dimension' ? { spoken: 'dimension' } : undefined);
    const [target] = new Hits(ink(), known).at(125, 108, 0.5);
    expect([target.of, target.at, target.words]).toEqual(['dimension', 'text', 'dimension 50']);
  });

  it('is nothing beside all of it, and the view within its box', () => {
    const hits = new Hits(ink());
    expect(hits.at(10, 10, 2)).toEqual([]);
    expect(hits.at(140, 104, 0.5).map((t) => t.kind)).toEqual(['view']);
  });

  it('a window takes what lies in it wholly', () => {
    const hits = new Hits(ink());
    expect(hits.within(120, 90, 130, 120)).toEqual(['c']);
    expect(hits.within(90, 90, 160, 120).sort()).toEqual(['c', 'd', 'v']);
  });

  it('goes through lines and points of a view in reading order', () => {
    const all = new Hits(ink()).all('v');
    expect(all.map((t) => [t.kind, t.ref])).toEqual([
      ['point', 'E1'],
      ['line', 'E1'],
      ['line', 'E2'],
    ]);
  });
});
