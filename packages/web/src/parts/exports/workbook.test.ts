/** A workbook is opened by a library that did not write it. */
import { expect, test } from '@jest/globals';
import ExcelJS from 'exceljs';
import writeXlsxFile from 'write-excel-file/node';
import { dateTime, number, text, type ExportTable } from '@zest-bell/core/exports';
import { zoneOf } from '@zest-bell/core/time';
import { sheetName, sheetOf } from './workbook.ts';

const zone = 'America/New_York';
const table: ExportTable = {
  name: 'NAV 120 people',
  zone,
  columns: [text('Name'), number('Points'), dateTime('Due at'), { name: 'Day', kind: 'date' }],
  rows: [
    ['=1+1', 12.5, zoneOf(zone).toInstant(Date.parse('2026-10-26T08:02:30Z')), '2026-11-01'],
    ['O’Neil', null, null, null],
  ],
};

test('numbers are numbers, dates are dates by the wall clock of the course, and a text that looks like a formula is a text', async () => {
  const bytes = await writeXlsxFile(sheetOf(table), { sheet: sheetName(table.name) }).toBuffer();
  const book = new ExcelJS.Workbook();
  await book.xlsx.load(bytes as unknown as ArrayBuffer);
  const [sheet] = book.worksheets;
  expect(sheet!.name).toBe('NAV 120 people');
  const rows: unknown[] = [];
  sheet!.eachRow((row) => rows.push((row.values as unknown[]).slice(1)));
  expect(rows).toEqual([
    ['Name', 'Points', 'Due at (America/New_York)', 'Day'],
    ['=1+1', 12.5, new Date('2026-10-26T08:02:30Z'), new Date('2026-11-01T00:00:00Z')],
    ['O’Neil'],
  ]);
  expect(sheet!.getCell('A2').type).toBe(ExcelJS.ValueType.String);
});

test('a sheet is called by a name that a workbook takes', () => {
  expect(sheetName('a/b [c]: d? and more than a name of a sheet')).toBe('a-b -c-- d- and more than a nam');
  expect(sheetName('')).toBe('Table');
});
