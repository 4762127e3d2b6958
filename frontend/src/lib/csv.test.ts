import { describe, expect, it } from 'vitest';
import { cellsOf, csvOf } from './csv';

describe('cells of a text', () => {
  it('takes what spreadsheets copy and write', () => {
    expect(cellsOf('Module\t2\r\nTeeth\t24\r\n')).toEqual([
      ['Module', '2'],
      ['Teeth', '24'],
    ]);
    expect(cellsOf('a;b\n1,5;2')).toEqual([
      ['a', 'b'],
      ['1,5', '2'],
    ]);
    expect(cellsOf('"say ""so""",x\n"1, 2",y')).toEqual([
      ['say "so"', 'x'],
      ['1, 2', 'y'],
    ]);
  });

  it('comes back from its own CSV, and makes no formulas', () => {
    const rows = [
      ['Name', 'Size'],
      ['Stud, long', '12"'],
    ];
    expect(cellsOf(csvOf(rows))).toEqual(rows);
    expect(csvOf([['=1+1']])).toBe(`"'=1+1"`);
  });
});
