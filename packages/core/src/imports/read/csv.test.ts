import { expect, test } from '@jest/globals';
import { csvCell, csvOf } from './csv.ts';
import { readTable } from './table.ts';

// What spreadsheets run when a cell begins so: OWASP, CSV injection; the full-width forms are common practice, no source.
test.each([
  ['=1+2', "'=1+2"],
  ['+49 30', "'+49 30"],
  ['-5', '-5'],
  ['-', '-'],
  ['@SUM(A1)', "'@SUM(A1)"],
  ['\t=x', '"\'\t=x"'],
  [' =1', "' =1"],
  ['＝1', "'＝1"],
  ['|x', "'|x"],
  ['85%', '85%'],
  ['a "q"', '"a ""q"""'],
  ['x;y', '"x;y"'],
])('%j is written as %j', (value, written) => {
  expect(csvCell(value)).toBe(written);
});

test('what is written is read again as it was', () => {
  const rows = [
    ['Name', 'Note'],
    ['Okoro, Imani', 'line one\nline "two"'],
    ['Dahl', 'x;y'],
  ];
  const table = readTable(csvOf(rows));
  expect([table.headers, ...Array.from(table.rows, (r) => r.cells)]).toEqual(rows);
});
