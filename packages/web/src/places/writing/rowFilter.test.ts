import { expect, test } from '@jest/globals';
import { fitsFilter, type FilterOperator } from './rowFilter.ts';

test.each<[FilterOperator, string, string, boolean]>([
  ['filled', ' x ', '', true],
  ['filled', '  ', '', false],
  ['empty', '', '', true],
  ['equals', '07', '7', true],
  ['equals', 'Tern', 'tern', true],
  ['equals', 'Tern', '', false],
  ['contains', 'Tern II', 'ii', true],
  ['contains', 'Tern', '', false],
  ['over', '85%', '80', true],
  ['over', '80', '80', false],
  ['over', 'many', '1', false],
  ['under', '-1', '0', true],
  ['under', '', '5', false],
])('a cell %s: “%s” against “%s”', (operator, cell, value, expected) => {
  expect(fitsFilter([cell], { column: 0, operator, value })).toBe(expected);
});
