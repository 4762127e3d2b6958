import { describe, expect, it } from 'vitest';
import type { DrawingInfo } from '../api/client';
import { inOrder } from './order.svelte';

const drawing = (id: number, number: string, title: string) => ({ id, number, title }) as DrawingInfo;
const shelf = [
  drawing(1, 'WL-10', 'Pawl'),
  drawing(2, '', 'Annex'),
  drawing(3, 'WL-9', 'pawl'),
  drawing(4, 'wl-9', 'Catch box'),
];
const ids = (found: DrawingInfo[]) => found.map((d) => d.id);

describe('the order of drawings on the shelf', () => {
  it('by number counts figures as numbers, whatever the case, and puts those without one last', () => {
    expect(ids(inOrder(shelf, 'number'))).toEqual([3, 4, 1, 2]);
  });
  it('by title goes on by number where titles are one', () => {
    expect(ids(inOrder(shelf, 'title'))).toEqual([2, 4, 3, 1]);
  });
  it('by last use has those never opened after the others, as they came', () => {
    expect(ids(inOrder(shelf, 'used', [4, 9, 1]))).toEqual([4, 1, 2, 3]);
  });
  it('by last change is as they came, and no order changes the list itself', () => {
    expect(inOrder(shelf, 'changed')).toBe(shelf);
    expect(ids(shelf)).toEqual([1, 2, 3, 4]);
  });
});
