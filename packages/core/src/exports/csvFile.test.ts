/** A table as CSV, read by a library that did not write it. */
import { describe, expect, test } from '@jest/globals';
import Papa from 'papaparse';
import { at, NEW_YORK } from '../testing/build.ts';
import { csvPieces, csvText } from './csvFile.ts';
import { fileNameOf, headingsOf, number, text, wallText, type ExportTable } from './table.ts';

const table = (
  rows: ExportTable['rows'],
  columns: ExportTable['columns'] = [text('Name'), text('Note')],
): ExportTable => ({ name: 'T', zone: NEW_YORK, columns, rows });
const read = (csv: string) => Papa.parse<string[]>(csv).data;

describe('a table as CSV', () => {
  test('RFC 4180: records end with CRLF, quotation marks are doubled; numbers are numbers', () => {
    const rows = [
      ['Okoro, "Imani"', 'a\nb'],
      [null, 'x'],
    ];
    expect(csvText(table(rows))).toBe('Name,Note\r\n"Okoro, ""Imani""","a\nb"\r\n,x\r\n');
    expect([...csvPieces(table([[1.5, -2]], [number('A'), number('B')]))].at(-1)).toBe('1.5,-2\r\n');
    expect(csvText(table([]), { bom: true }).charCodeAt(0)).toBe(0xfeff);
  });

  test('times are local ISO, their zone stands in the heading', () => {
    expect(headingsOf({ columns: [{ name: 'Due at', kind: 'dateTime' }], zone: NEW_YORK })).toEqual([
      'Due at (America/New_York)',
    ]);
    expect(wallText(at('2026-10-26T08:02'), NEW_YORK)).toBe('2026-10-26T08:02:00');
    expect(csvText(table([[at('2026-12-01T23:59')]], [{ name: 'D', kind: 'dateTime' }]))).toContain(
      '2026-12-01T23:59:00',
    );
  });

  // What a spreadsheet runs when a cell begins so: OWASP, CSV injection.
  test.each([
    ['=1+1', "'=1+1"],
    ['+x', "'+x"],
    ['-x', "'-x"],
    ['@x', "'@x"],
    ['\tx', "'\tx"],
    ['\rx', "'\rx"],
    ['-5', '-5'],
    ['|x', '|x'],
    ["O'Neil", "O'Neil"],
  ])('a text that would run gets one sign before it: %j', (cell, written) => {
    expect(read(csvText(table([[cell, 'x']])))[1]![0]).toBe(written);
  });

  test('files are called by names that every system takes', () => {
    expect(fileNameOf('a/b: "c"?')).toBe('a-b- -c--');
    expect(fileNameOf(' ')).toBe('table');
  });
});
