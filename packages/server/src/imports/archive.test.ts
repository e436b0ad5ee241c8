import { describe, expect, test } from '@jest/globals';
import ExcelJS from 'exceljs';
import { zipSync } from 'fflate';
import { draftOf, importFile, type ScenarioJson } from '@zest-bell/core';
import { openFile } from './archive.ts';

const text = (s: string) => new TextEncoder().encode(s);
const zip = (files: Record<string, Uint8Array>) => Buffer.from(zipSync(files));

/** The directory of an archive says where each part lies and how long it is (APPNOTE 4.3.12). */
function claiming(archive: Buffer, size: number): Buffer {
  const copy = Buffer.from(archive);
  const directory = copy.indexOf(Buffer.from([0x50, 0x4b, 1, 2]));
  copy.writeUInt32LE(size, directory + 24);
  return copy;
}

describe('an archive is refused whole', () => {
  const zeros = new Uint8Array(110 << 20);
  test.each<[string, () => Buffer, RegExp]>([
    ['that inflates to too much', () => zip({ 'users.csv': zeros }), /too large once it is unpacked/],
    [
      'that lies about its size',
      () => claiming(zip({ 'users.csv': zeros.subarray(0, 1 << 20) }), 1000),
      /cannot be opened/,
    ],
    ['with an archive in it', () => zip({ 'inner.zip': text('x') }), /an archive in it/],
    ['with a name that points out of it', () => zip({ '../users.csv': text('x') }), /cannot be opened|points out/],
    ['that is cut off', () => zip({ 'users.csv': text('a,b\n1,2') }).subarray(0, 40), /cannot be opened/],
    [
      'with too many files',
      () => zip(Object.fromEntries(Array.from({ length: 2001 }, (_, i) => [`${i}.csv`, text('x')]))),
      /too many files/,
    ],
  ])('%s', async (_what, make, said) => {
    await expect(openFile('a.zip', make())).rejects.toThrow(said);
  });
});

test('a workbook that another library wrote is read as it was written', async () => {
  const book = new ExcelJS.Workbook();
  book.addWorksheet('Empty');
  const sheet = book.addWorksheet('Roster');
  sheet.addRow(['Student ID', 'Name', 'Enrolled on', 'Active', 'Boat']);
  sheet.addRow(['p1', 'Okoro, Imani', new Date(Date.UTC(2026, 8, 3)), true, { formula: '"Te"&"rn"', result: 'Tern' }]);
  sheet.getCell('C2').numFmt = 'yyyy-mm-dd';
  sheet.addRow([
    'p2',
    { richText: [{ text: 'Dahl, ' }, { text: 'Runa' }] },
    new Date(Date.UTC(2026, 8, 4, 9, 30)),
    false,
    7,
  ]);
  const bytes = Buffer.from(await book.xlsx.writeBuffer());
  const course: ScenarioJson = {
    course: { timeZone: 'America/New_York', start: '2026-08-31', end: '2026-12-18' },
    people: [],
  };
  const draft = draftOf(course);
  const report = importFile(await openFile('roster.xlsx', bytes), draft, { asOf: 0 });
  expect(report).toMatchObject({ kind: 'roster', sheet: 'Roster', new: 2, refused: [] });
  expect(draft.json.people).toMatchObject([
    { id: 'p1', firstName: 'Imani', enrolledAt: '2026-09-03T00:00:00-04:00', active: true, fields: { Boat: 'Tern' } },
    { id: 'p2', lastName: 'Dahl', enrolledAt: '2026-09-04T09:30:00-04:00', active: false, fields: { Boat: '7' } },
  ]);
});
