import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import { parseScenario } from '../../scenario/format.ts';
import { zoneOf } from '../../time/zone.ts';
import { at, NEW_YORK } from '../../testing/build.ts';
import { dayOrderOf, readDate } from '../read/dates.ts';
import type { ScenarioJson } from './draft.ts';
import { fieldsOf, longKindOf } from '../read/headers.ts';
import { draftOf, importFile } from './importFiles.ts';
import type { ImportedFile, ImportOptions } from './report.ts';
import { mustDiffer, readTable } from '../read/table.ts';
import { decodeText } from '../read/text.ts';

const folder = new URL('../../../../../examples/import/', import.meta.url);
const course = JSON.parse(readFileSync(new URL('course.json', folder), 'utf8')) as ScenarioJson;
const asOf = at('2026-10-26T08:00');
const bytes = (text: string) => new TextEncoder().encode(text);

/** What a text brings, and what the scenario is then; it must still be a sound one. */
function bring(text: string | Uint8Array, options: Partial<ImportOptions> = {}, draft = draftOf(course)) {
  const report = importFile({ name: 'f', content: { bytes: typeof text === 'string' ? bytes(text) : text } }, draft, {
    asOf,
    ...options,
  });
  const json = draft.toScenario();
  const parsed = parseScenario(json);
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
  return { report, json, draft };
}
const counts = ({ read, new: fresh, changed, same, refused }: ImportedFile) => [
  read,
  fresh,
  changed,
  same,
  refused.length,
];
const refusedOf = (text: string, options: Partial<ImportOptions> = {}) =>
  bring(text, options).report.refused.map((r) => [r.row, r.column, r.code]);

const rowsOf = (text: string) => [...readTable(text).rows];

describe('a table', () => {
  // RFC 4180, section 2: the published examples.
  test.each([
    ['aaa,bbb,ccc\r\nzzz,yyy,xxx\r\n', [['zzz', 'yyy', 'xxx']]],
    ['aaa,bbb,ccc\r\nzzz,yyy,xxx', [['zzz', 'yyy', 'xxx']]],
    [
      'field_name,b,c\r\naaa,bbb,ccc\r\nzzz,yyy,xxx\r\n',
      [
        ['aaa', 'bbb', 'ccc'],
        ['zzz', 'yyy', 'xxx'],
      ],
    ],
    [
      'a,b,c\r\n"aaa","b \r\nbb","ccc"\r\nzzz,yyy,xxx',
      [
        ['aaa', 'b \r\nbb', 'ccc'],
        ['zzz', 'yyy', 'xxx'],
      ],
    ],
    ['a,b,c\r\n"aaa","b""bb","ccc"', [['aaa', 'b"bb', 'ccc']]],
  ])('[RFC 4180] %j', (text, rows) => {
    expect(rowsOf(text).map((r) => r.cells)).toEqual(rows);
  });

  test('is cut at the delimiter of its first line, and counts records from the header', () => {
    expect(readTable('a;b\n1,5;2\n\n3;4').delimiter).toBe(';');
    expect(rowsOf('a;b\n1,5;2\n\n3;4')).toEqual([
      { row: 2, line: 2, cells: ['1,5', '2'] },
      { row: 4, line: 4, cells: ['3', '4'] },
    ]);
    expect(readTable('"a,b"\tc\n1\t2').delimiter).toBe('\t');
  });

  test.each([
    ['a,b\n"x,2', /does not close/],
    ['a,A\n1,2', /Two columns are called/],
    ['a,b\n', /no rows/],
    [',,\n1,2,3', /no column names/],
    [`${'a,'.repeat(2001)}b\n1`, /Two columns|at most 2000/],
  ])('that cannot be trusted is refused whole: %#', (text, said) => {
    expect(() => mustDiffer(readTable(text).headers)).toThrow(said);
  });

  test('is found in its encoding', () => {
    const utf16 = new Uint8Array([
      0xff,
      0xfe,
      ...[...'é'].flatMap((c) => [c.charCodeAt(0) & 255, c.charCodeAt(0) >> 8]),
    ]);
    expect(decodeText(utf16)).toEqual({ text: 'é', encoding: 'utf-16le' });
    expect(decodeText(new Uint8Array([0xef, 0xbb, 0xbf, 0xc3, 0xa9]))).toEqual({ text: 'é', encoding: 'utf-8' });
    expect(decodeText(new Uint8Array([0xe9, 0x80]))).toEqual({ text: 'é€', encoding: 'windows-1252' });
    expect(() => decodeText(new Uint8Array([0x61, 0, 0x62]))).toThrow(/no text file/);
    // “Okoró, Zoé” in UTF-8, with one byte lost at the end.
    expect(() => decodeText(new Uint8Array([0xc3, 0xb3, 0x2c, 0xc3, 0xa9, 0x0a, 0xc3]))).toThrow(/damaged/);
  });
});

describe('a date', () => {
  const zone = zoneOf(NEW_YORK);
  const read = (text: string, order: 'monthFirst' | 'dayFirst' | 'unknown' = 'unknown') => {
    const date = readDate(text, { zone, order });
    return date.ok ? new Date(date.at).toISOString() : date.code;
  };

  test.each([
    ['2026-09-13T23:59:00-04:00', '2026-09-14T03:59:00.000Z'],
    ['2026-09-13', '2026-09-13T04:00:00.000Z'],
    ['2026-11-02 09:30', '2026-11-02T14:30:00.000Z'],
    ['9/13/2026 11:59 PM', '2026-09-14T03:59:00.000Z'],
    ['13.09.2026 9:05', '2026-09-13T13:05:00.000Z'],
    ['Sep 13, 2026 8:10 PM', '2026-09-14T00:10:00.000Z'],
    ['Sunday, 13 September 2026', '2026-09-13T04:00:00.000Z'],
    ['9/9/2026', '2026-09-09T04:00:00.000Z'],
    ['12/25/26 12 AM', '2026-12-25T05:00:00.000Z'],
    ['03/04/2026', 'ambiguousDate'],
    ['2026-02-30', 'date'],
    ['9/13/2026 25:00', 'date'],
    ['tomorrow', 'date'],
    ['1969-12-31', 'dateRange'],
    ['2101-01-01', 'dateRange'],
  ])('%s', (text, expected) => {
    expect(read(text)).toBe(expected);
  });

  test('is in the order that its column proves', () => {
    expect(dayOrderOf(['03/04/2026', '13/04/2026'])).toBe('dayFirst');
    expect(dayOrderOf(['03/04/2026', '04/13/2026'])).toBe('monthFirst');
    expect(dayOrderOf(['13/04/2026', '04/13/2026'])).toBe('unknown');
    expect(read('03/04/2026', 'dayFirst')).toBe('2026-04-03T04:00:00.000Z');
    expect(read('03/04/2026', 'monthFirst')).toBe('2026-03-04T05:00:00.000Z');
  });
});

test('headers are read by what people call them, and canonical names win', () => {
  expect(fieldsOf(['Student ID', 'E-mail', 'Boat'], 'roster')).toEqual(['id', 'email', null]);
  expect(fieldsOf(['Login ID', 'id'], 'roster')).toEqual([null, 'id']);
  expect(fieldsOf(['Nr'], 'roster', { Nr: 'id' })).toEqual(['id']);
  const none = () => false;
  expect(longKindOf(['id', 'firstName', 'lastName', 'email'], none)).toBeNull();
  expect(longKindOf(['title', 'kind', 'dueAt'], none)).toBe('items');
  expect(longKindOf(['person', 'item', 'points', 'at'], none)).toBe('gradebook');
  expect(longKindOf(['person', 'kind', 'item', 'at'], none)).toBe('activity');
  expect(longKindOf(['person', 'status', 'at'], none)).toBe('attendance');
  expect(longKindOf(['email', 'Boat'], none)).toBeNull();
  expect(longKindOf(['Name', 'Quiz 1'], (h) => h === 'Quiz 1')).toBeNull();
});

describe('the example files', () => {
  const example = (name: string, draft = draftOf(course)) => bring(readFileSync(new URL(name, folder)), {}, draft);

  test.each([
    ['roster.csv', 'roster', [3, 1, 1, 0, 1]],
    ['items.csv', 'items', [2, 2, 0, 0, 0]],
    ['gradebook.csv', 'gradebook', [3, 2, 0, 0, 1]],
    ['activity.csv', 'activity', [4, 3, 0, 0, 1]],
    ['attendance.tsv', 'attendance', [2, 2, 0, 0, 0]],
    ['columns.csv', 'columns', [2, 0, 2, 0, 0]],
  ])('%s', (name, kind, expected) => {
    const { report, draft } = example(name);
    expect(report.kind).toBe(kind);
    expect(counts(report)).toEqual(expected);
    // The same file again changes nothing.
    const [read, , , , refused] = counts(report);
    const again = counts(example(name, draft).report);
    expect([again[0], again[1], again[2], again[4]]).toEqual([read, 0, 0, refused]);
  });

  test('say what they brought', () => {
    const { json, report } = example('roster.csv');
    expect(report.columns).toEqual({
      'Student ID': 'id',
      Name: 'name',
      'E-mail': 'email',
      Section: 'section',
      'contact advisor': 'contact advisor',
      'contact advisor email': 'contact advisor email',
    });
    expect(report.refused).toEqual([
      {
        row: 4,
        line: 4,
        column: 'E-mail',
        code: 'address',
        message: expect.stringContaining('is not an email address'),
      },
    ]);
    expect(json.people[0]).toMatchObject({
      section: '01',
      contacts: [{ kind: 'advisor', name: 'B. Lund', email: 'lund@saltmarsh.example' }],
      fields: { Boat: 'Tern' },
    });
    expect(json.people[2]).toMatchObject({
      id: 'p3',
      firstName: 'Runa',
      lastName: 'Dahl',
      enrolledAt: '2026-08-31T00:00:00-04:00',
    });
    expect(example('items.csv').json.items!.slice(2)).toMatchObject([
      { id: 'chart-lab-1', kind: 'assignment', points: 40, dueAt: '2026-09-20T17:00:00-04:00' },
      { id: 'watch-log-week-1', kind: 'forum', dueAt: '2026-09-06T23:59:00-04:00' },
    ]);
    expect(example('gradebook.csv').json.grades).toMatchObject([
      { person: 'p1', item: 'q1', points: 18, at: '2026-10-26T08:00:00-04:00' },
      { person: 'p2', item: 'q1', points: 9 },
    ]);
    expect(example('attendance.tsv').json.events).toMatchObject([
      { person: 'p1', kind: 'attend', item: 's1', at: '2026-09-02T10:00:00-04:00' },
      { person: 'p2', kind: 'absent', item: 's1' },
    ]);
  });
});

describe('a gradebook', () => {
  test('takes blanks, dashes and excuses for what they are, and zero as a grade', () => {
    const { report, json } = bring('id,q1\np1,-\np2,EX\n');
    expect(counts(report)).toEqual([2, 0, 1, 1, 0]);
    expect(json.items![0]!.excused).toEqual(['p2']);
    expect(bring('id,q1\np1,0\np2,\n').json.grades).toMatchObject([{ person: 'p1', points: 0 }]);
  });

  test('counts points that did not change as the same, and a better grade as changed', () => {
    const { draft } = bring('id,q1\np1,12\n');
    expect(counts(bring('id,q1\np1,12\n', {}, draft).report)).toEqual([1, 0, 0, 1, 0]);
    const later = { asOf: at('2026-10-27T08:00') };
    expect(counts(bring('id,q1\np1,15\n', later, draft).report)).toEqual([1, 0, 1, 0, 0]);
    expect(draft.toScenario().grades).toHaveLength(2);
  });

  test('refuses single cells and takes the others of the row', () => {
    expect(refusedOf('id,q1,s1\np1,-3,P\np2,1e12,4\n', { kind: 'gradebook' })).toEqual([
      [2, 'q1', 'negative'],
      [3, 'q1', 'number'],
      [3, 's1', 'mark'],
    ]);
    expect(refusedOf('id,q1\np1,2000000000\n')).toEqual([[2, 'q1', 'tooLarge']]);
  });

  test('in long form has its own instants and criteria', () => {
    const { json, report } = bring('person,item,points,at,criterion\np1,q1,2,2026-09-15T08:00:00-04:00,Method\n');
    expect(report.refused).toEqual([]);
    expect(json.grades).toEqual([
      { person: 'p1', item: 'q1', criterion: 'Method', points: 2, at: '2026-09-15T08:00:00-04:00' },
    ]);
  });
});

describe('people', () => {
  test('are found by id, by address, else by a name that only one has', () => {
    const two = structuredClone(course);
    two.people.push({ ...two.people[0]!, id: 'p9', email: 'other@saltmarsh.example' });
    const rows =
      'name,email,kind,at\nImani Okoro,,login,2026-09-02\n"Okoro, Imani",OTHER@saltmarsh.example,login,2026-09-02\n,,login,2026-09-02\n';
    const { report, json } = bring(rows, {}, draftOf(two));
    expect(report.refused.map((r) => [r.row, r.code])).toEqual([
      [2, 'ambiguousPerson'],
      [4, 'unknownPerson'],
    ]);
    expect(json.events).toMatchObject([{ person: 'p9', kind: 'signIn' }]);
  });

  test('are refused with a reason, and nothing of the row is taken', () => {
    const text =
      'id,firstName,lastName,role,enrolledAt\np1,Imani,Changed,captain,\np8,A,B,student,03/04/2026\n,C,D,student,\n';
    const { report, json } = bring(text);
    expect(report.refused.map((r) => [r.row, r.column, r.code])).toEqual([
      [2, 'role', 'role'],
      [3, 'enrolledAt', 'ambiguousDate'],
    ]);
    expect(json.people.map((p) => p.lastName)).toEqual(['Okoro', 'Lind', 'D']);
  });
});

test('facts without an id that overlap double nothing', () => {
  const { draft } = bring('person,kind,item,at\np1,open,q1,2026-09-10T09:30:00-04:00\n');
  const overlap = 'person,kind,item,at\np1,open,q1,2026-09-10T13:30:00Z\np1,open,q1,2026-09-10T10:00:00-04:00\n';
  expect(counts(bring(overlap, {}, draft).report)).toEqual([2, 1, 0, 1, 0]);
});
