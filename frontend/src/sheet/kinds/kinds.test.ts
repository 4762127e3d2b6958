import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Annotation, Element } from '../../api/client';
import { Hits } from '../board/hits';
import { offersFor } from '../offers';
import { work } from '../work.svelte';
import { kinds, type Kind } from '.';

const stamp: Kind = {
  kind: 'stamp',
  noun: ['stamp', 'stamps'],
  counts: 'size',
  spoken: 'a stamp that says',
  windowed: false,
  rank: 0.1,
  offers: (id) => [{ name: `Ink ${id} again`, run: () => null }],
  several: (ids) => [{ name: `Ink ${ids.length} again`, run: () => null }],
};

const element = (id: string): Element => ({
  id,
  kind: 'stamp',
  group: 'v',
  view: '',
  words: 'OK',
  key: id,
  x: 0,
  y: 0,
  marks: [{ m: 's', pen: 'visible', w: 0.5, d: 'M 10 10 L 20 10' }],
});

const sheet = (elements: Element[]) =>
  ({ width: 100, height: 100, elements, views: [], fields: [] }) as unknown as ConstructorParameters<
    typeof Hits
  >[0];

describe('a kind that only its own file knows', () => {
  beforeEach(() => void kinds.set('stamp', stamp));
  afterEach(() => void kinds.delete('stamp'));

  it('is offered what it says itself, alone and several together', () => {
    work.ink = sheet([element('a'), element('b')]) as typeof work.ink;
    const chosen = (ids: string[]) =>
      ({ kind: 'elements', ids, targets: [] }) as Parameters<typeof offersFor>[0];
    expect(offersFor(chosen(['a'])).map((o) => o.name)).toEqual(['Ink a again']);
    expect(offersFor(chosen(['a', 'b'])).map((o) => o.name)).toEqual(['Ink 2 again', 'Remove these 2']);
  });

  it('is pointed at by its own name and rank, and left out of windows', () => {
    const hits = new Hits(sheet([element('a')]), (kind) => kinds.get(kind));
    expect(hits.at(15, 10, 2).map((t) => t.words)).toContain('a stamp that says OK');
    expect(hits.within(0, 0, 100, 100)).toEqual([]);
  });

  it('is listed among the sizes', () => {
    const own = { id: 'a', on: 'v', kind: 'stamp' } as unknown as Annotation;
    expect([own].filter((a) => kinds.get(a.kind)?.counts === 'size')).toHaveLength(1);
  });
});
