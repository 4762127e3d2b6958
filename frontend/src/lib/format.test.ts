import { expect, it } from 'vitest';
import { massWords, parseScale, sizeWords } from './format';

it.each([
  ['1:2', 0.5],
  ['2:1', 2],
  ['1/5', 0.2],
  ['0,5', 0.5],
  ['1:0', null],
  ['half', null],
  ['', null],
])('a scale typed as %s', (text, value) => expect(parseScale(text)).toBe(value));

it('masses are written in the unit that reads best', () => {
  expect([massWords(12.345), massWords(2641.5), massWords(3.2e6), massWords(null)]).toEqual([
    '12.3 g',
    '2.64 kg',
    '3.2 t',
    'mass not known',
  ]);
  expect(sizeWords([140, 80, 114.00001])).toBe('140 × 80 × 114 mm');
});
