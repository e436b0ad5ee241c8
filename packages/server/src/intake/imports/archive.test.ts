import { describe, expect, test } from '@jest/globals';
import ExcelJS from 'exceljs';
import { zipSync } from 'fflate';
import { readdirSync, readFileSync } from 'node:fs';
import { bytesOf, draftOf, importFile, type ScenarioJson } from '@zest-bell/core/imports';
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
    await expect(openFile('a.zip', bytesOf(make()))).rejects.toThrow(said);
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
  const report = importFile(await openFile('roster.xlsx', bytesOf(bytes)), draft, { asOf: 0 });
  expect(report).toMatchObject({ kind: 'roster', sheet: 'Roster', new: 2, refused: [] });
  expect(draft.json.people).toMatchObject([
    { id: 'p1', firstName: 'Imani', enrolledAt: '2026-09-03T00:00:00-04:00', active: true, fields: { Boat: 'Tern' } },
    { id: 'p2', lastName: 'Dahl', enrolledAt: '2026-09-04T09:30:00-04:00', active: false, fields: { Boat: '7' } },
  ]);
});

/** New, changed, the same and refused, of each example file against the example course. */
const EXAMPLES: Readonly<Record<string, readonly [kind: string, ...counts: number[]]>> = {
  'activity.csv': ['activity', 3, 0, 0, 1],
  'attendance.tsv': ['attendance', 2, 0, 0, 0],
  'awkward-activity.csv': ['activity', 2, 0, 0, 2],
  'awkward-gradebook.csv': ['gradebook', 1, 1, 0, 1],
  'columns.csv': ['columns', 0, 2, 0, 0],
  'course.json': ['scenario', 0, 0, 4, 0],
  'days-done.csv': ['gradebook', 4, 0, 0, 0],
  'gradebook.csv': ['gradebook', 2, 0, 0, 1],
  'items.csv': ['items', 2, 0, 0, 0],
  'last-visits.csv': ['lastSeen', 1, 0, 1, 0],
  'last-visits-ages.csv': ['lastSeen', 2, 0, 0, 0],
  'oneroster.zip': ['oneroster', 3, 0, 8, 0],
  'roster.csv': ['roster', 1, 1, 0, 1],
  'roster.xlsx': ['roster', 1, 1, 0, 0],
  'sheet.xlsx': ['gradebook', 0, 2, 0, 7],
  'statements.jsonl': ['xapi', 3, 0, 0, 1],
  'term.ics': ['calendar', 1, 1, 0, 1],
};

describe('the example files', () => {
  const folder = new URL('../../../../../examples/import/', import.meta.url);
  const course = () => JSON.parse(readFileSync(new URL('course.json', folder), 'utf8')) as ScenarioJson;

  test('are all here', () => {
    const files = readdirSync(folder, { withFileTypes: true }).flatMap((entry) => (entry.isFile() ? [entry.name] : []));
    expect(files.toSorted()).toEqual(Object.keys(EXAMPLES).toSorted());
  });

  test.each(Object.entries(EXAMPLES))('%s', async (name, [kind, ...counts]) => {
    const file = await openFile(name, bytesOf(readFileSync(new URL(name, folder))));
    const report = importFile(file, draftOf(course()), { asOf: Date.UTC(2026, 9, 26, 12) });
    expect([report.kind, report.new, report.changed, report.same, report.refused.length]).toEqual([kind, ...counts]);
  });

  test('[F7] the sheet that everybody has brings people, items and every score, a percent as a percent', async () => {
    const file = await openFile('sheet.xlsx', bytesOf(readFileSync(new URL('sheet.xlsx', folder))));
    const draft = draftOf(course());
    const add = { people: true, items: true };
    const report = importFile(file, draft, { asOf: Date.UTC(2026, 9, 26, 12), add });
    expect(report).toMatchObject({ leftOut: 1, added: { people: 2, items: 5 }, refused: [] });
    const scores = (person: string) =>
      draft.facts.grades.filter((g) => g.person === person).map((g) => [g.item, g.points]);
    expect(scores('p1')).toEqual([
      ['essay-1', 44],
      ['quiz-a', 15],
      ['quiz-b', 18],
      ['midterm', 57],
    ]);
    expect(scores('p3')).toEqual([
      ['essay-2', 47],
      ['quiz-a', 19],
      ['quiz-b', 17],
      ['midterm', 92],
    ]);
    expect(draft.json.items!.find((i) => i.id === 'essay-2')).toMatchObject({ group: 'Essays', excused: ['p1'] });
  });
});
