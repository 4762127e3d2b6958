import { beforeEach, describe, expect, it } from 'vitest';
import { interaction } from '../interaction.svelte';
import type { Annotation } from '../../api/client';
import type { Target } from '../board/hits';
import { work } from '../work.svelte';
import { hanging, seatOn, settingAnew, together } from './hang.svelte';

const target = (more: Partial<Target>): Target => ({
  kind: 'line',
  view: 'v',
  ref: 'E1',
  at: '',
  owner: 'v',
  of: 'view',
  x: 10,
  y: 20,
  words: '',
  marks: [],
  ...more,
});

describe('a sign that is hung where the hand points', () => {
  beforeEach(() => {
    work.ink = { width: 100, height: 50, elements: [], views: [], fields: [] } as unknown as typeof work.ink;
    interaction.pointer = [30, 40];
    interaction.hover = [];
  });

  it('sits on an outline, inside a face, or on a size; not on a mark or a field', () => {
    expect(seatOn(target({}))).toMatchObject({ view: 'v', ref: 'E1', on: '', dot: false, at: [10, 30] });
    expect(seatOn(target({ kind: 'view', ref: '' }))).toMatchObject({ ref: '', dot: true });
    expect(seatOn(target({ kind: 'element', of: 'dimension', owner: 'e7' }))).toMatchObject({ on: 'e7' });
    expect(seatOn(target({ kind: 'element', of: 'centre_mark', owner: 'e8' }))).toBeUndefined();
    expect(seatOn(target({ kind: 'field', ref: '' }))).toBeUndefined();
  });

  it('asks for nothing before it has a place and words, and follows both', () => {
    const making = hanging('frame', undefined, '');
    expect(making.act()).toBeNull();
    interaction.hover = [target({})];
    expect(making.click()).toBe(false);
    expect(making.act()).toBeNull();
    making.written?.()?.set('flatness 0.1');
    expect(making.act()).toEqual({
      act: 'state_frame',
      view: 'v',
      ref: 'E1',
      at: [10, 30],
      dot: false,
      on: '',
      pointer: [30, 10],
      text: 'flatness 0.1',
    });
    expect(making.click()).toBe(true);
    expect(making.back?.()).toBe(true);
    expect(making.act()).toBeNull();
  });

  it('of textures sets one with each click and goes on with what was typed', () => {
    const making = hanging('texture', undefined, 'Ra 1.6');
    interaction.hover = [target({})];
    expect(making.act()).toMatchObject({ act: 'state_texture', ref: 'E1', text: 'Ra 1.6', at: [30, 10] });
    expect(making.click()).toBe(true);
    expect(making.again?.()?.written?.()?.text).toBe('Ra 1.6');
  });

  it('of a note takes the figure of a size that is pointed at, and stays where it was', () => {
    const making = hanging('note', undefined, 'Bore ');
    making.click();
    work.ink = { ...work.ink, height: 50 } as typeof work.ink;
    expect(making.act()).toMatchObject({ act: 'state_note', pointer: [30, 10], ref: '' });
    interaction.hover = [target({ kind: 'element', of: 'dimension', owner: 'e7' })];
    interaction.pointer = [90, 10];
    expect(making.click()).toBe(false);
    expect(making.written?.()?.text).toBe('Bore {size e7}');
    expect(making.act()).toMatchObject({ pointer: [30, 10] });
  });

  it('sets a copied size of two places between two, then the next that was copied', () => {
    const size = { id: 'e1', on: 'v', kind: 'dimension', anchors: [{}, {}] } as unknown as Annotation;
    const frame = { id: 'e2', on: 'e1', kind: 'tolerance_frame', shift: [0, 0] } as unknown as Annotation;
    const notes = { id: 'e3', on: 's', kind: 'notes_block', at: [1, 2] } as unknown as Annotation;
    expect(together([notes, size, frame]).map((g) => g.map((a) => a.id))).toEqual([['e1', 'e2'], ['e3']]);
    const making = settingAnew([notes, size, frame]);
    expect(making.words()).toContain('first place');
    for (const ref of ['E1', 'E2']) {
      expect(making.act()).toBeNull();
      interaction.hover = [target({ ref })];
      expect(making.click()).toBe(false);
    }
    expect(making.act()).toMatchObject({ view: 'v', ref: 'E1', picks: [{ ref: 'E1' }, { ref: 'E2' }] });
    expect(making.again?.()?.act()).toMatchObject({ annotations: [notes], picks: [] });
    expect(making.back?.()).toBe(true);
    expect(making.act()).toBeNull();
  });
});
