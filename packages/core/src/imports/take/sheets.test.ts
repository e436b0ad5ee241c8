/** The sheets that instructors have, by the numbered rules of how files are read. Conventions of sheets: common practice, no source. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { parseScenario } from '../../scenario/format.ts';
import { zoneOf } from '../../time/zone.ts';
import { at, NEW_YORK } from '../../testing/build.ts';
import { readAge } from '../read/ages.ts';
import { readDate } from '../read/dates.ts';
import type { DraftEvent, ScenarioJson } from './draft.ts';
import { draftOf, importFile, importFileInParts } from './importFiles.ts';
import type { ImportOptions, ReadFile } from './report.ts';
import { nameOf, plainName } from '../read/names.ts';
import { readNumber } from '../read/numbers.ts';
import { isTotal, lastSeenKind, soundsLikeItem, titleParts } from '../read/titles.ts';

const asOf = at('2026-10-26T08:00');
const zone = zoneOf(NEW_YORK);
const person = (id: string, firstName: string, lastName: string) => ({
  id,
  firstName,
  lastName,
  email: `${id}@saltmarsh.example`,
  role: 'student',
  enrolledAt: '2026-08-31T00:00:00-04:00',
});
const base: ScenarioJson = {
  format: 'zest-bell/scenario@1',
  course: { code: 'NAV 120', title: 'Coastal Navigation', timeZone: NEW_YORK, start: '2026-08-31', end: '2026-12-18' },
  people: [person('p1', 'Asta', 'Lind'), person('p2', 'Béla', 'Kovács'), person('p3', 'Imani', 'Okoro')],
  items: [
    { id: 'q1', title: 'Tide quiz', kind: 'quiz', points: 20, group: 'Quizzes' },
    { id: 'e1', title: 'Essay 1', kind: 'assignment', points: 50 },
    { id: 'bare', title: 'Log', kind: 'assignment' },
    { id: 's1', title: 'Chart table 1', kind: 'session', opensAt: '2026-09-02T10:00:00-04:00' },
    { id: 'f1', title: 'Watch log', kind: 'forum' },
  ],
};
const EMPTY: ScenarioJson = { ...base, people: [], items: [] };

/** What a sheet brings; the scenario is a sound one afterwards. Commas part its cells, semicolons where `text` has some. */
function bring(text: string, options: Partial<ImportOptions> = {}, to: ScenarioJson = base) {
  const draft = draftOf(to);
  const file = { name: 'sheet.csv', content: { bytes: new TextEncoder().encode(text) } };
  const parts = importFileInParts(file, draft, { asOf, ...options });
  let report: ReadFile;
  for (;;) {
    const part = parts.next();
    if (part.done) {
      report = part.value;
      break;
    }
  }
  const json = draft.toScenario();
  const parsed = parseScenario(json);
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
  return { report, json, draft };
}
const ADD = { add: { people: true, items: true } };
const meanings = (text: string, options: Partial<ImportOptions> = {}, to = base) =>
  bring(text, options, to).report.meanings.map((m) => (m.as === 'field' ? m.field : (m.leftOut ?? m.as)));
const refused = (text: string, options: Partial<ImportOptions> = {}, to = base) =>
  bring(text, options, to).report.refused.map((r) => [r.line, r.column, r.code]);
const points = (text: string, options: Partial<ImportOptions> = {}, to = base) =>
  bring(text, options, to).json.grades!.map((g) => [g.person, g.item, g.points]);

describe('[F1] the meaning of columns', () => {
  test('is by field, item, own column, total, new item and kind, whatever the order', () => {
    expect(
      meanings(
        'Last name,First name,Student No.,School email,Period,Essay 1 (50),Quiz A [20 pts],Total,Comments\nLind,Asta,p1,p1@saltmarsh.example,2,40,18,58,ok\n',
      ),
    ).toEqual(['lastName', 'firstName', 'id', 'email', 'section', 'grade', 'grade', 'total', 'remark']);
  });
  test.each([
    ['Name,Essay 1\nAsta Lind,40\n', 'gradebook'],
    ['Name,Chart table 1\nAsta Lind,P\n', 'attendance'],
    ['Name,Last access\nAsta Lind,2026-10-20\n', 'lastSeen'],
    ['Name,Email\nAsta Lind,p1@saltmarsh.example\n', 'roster'],
    ['Name,Boat\nAsta Lind,Skiff\n', 'columns'],
    ['Name,Parent email\nAsta Lind,lind@home.example\n', 'roster'],
    ['person,item,points\np1,q1,10\n', 'gradebook'],
  ])('%j is a sheet of kind %s', (text, kind) => {
    expect(bring(text).report.kind).toBe(kind);
  });
  test('a bad field of a person refuses its row, any other cell is refused alone', () => {
    const text = 'Name,Email,Role,Essay 1\nAsta Lind,nonsense,,40\nImani Okoro,,,many\nBéla Kovács,,captain,30\n';
    expect(refused(text)).toEqual([
      [2, 'Email', 'address'],
      [3, 'Essay 1', 'number'],
      [4, 'Role', 'role'],
    ]);
    expect(points(text)).toEqual([]);
  });
  test('several ids are looked up in order, are no grade, and may not be two people', () => {
    expect(points('Student ID,Login,Essay 1\n77,p1,40\n')).toEqual([['p1', 'e1', 40]]);
    expect(refused('Student ID,Login,Essay 1\np2,p1,40\n')).toEqual([[2, 'Student ID', 'twoPeople']]);
  });
});

describe('[F2] the header', () => {
  const titles = 'NAV 120 gradebook\nExported by,R. Ostrander\n\n';
  test('stands below titles, and rows are called by the lines of the sheet', () => {
    const { report, json } = bring(`${titles}Name,Essay 1\nAsta Lind,40\nNobody Known,3\n`);
    expect(report.titles).toEqual(['NAV 120 gradebook', 'Exported by R. Ostrander']);
    expect(report.refused.map((r) => [r.row, r.line, r.code])).toEqual([[3, 6, 'unknownPerson']]);
    expect(json.grades).toMatchObject([{ person: 'p1', points: 40 }]);
  });
  test('texts above it are the groups of items that are made', () => {
    const { json } = bring(',Labs,,Quizzes\nName,Lab 1 (10),Lab 2 (10),Quiz B (5)\nAsta Lind,9,8,5\n', ADD);
    expect(json.items!.slice(-3).map((i) => [i.title, i.group])).toEqual([
      ['Lab 1', 'Labs'],
      ['Lab 2', 'Labs'],
      ['Quiz B', 'Quizzes'],
    ]);
  });
  test('two alike refuse the file unless both are left out; a repeated one and a nameless column are left out', () => {
    expect(() => bring('Name,Essay 1,Essay 1\nAsta Lind,1,2\n')).toThrow(/Two columns are called “Essay 1”/);
    expect(points('Name,Total,Total,Essay 1,\nAsta Lind,1,2,40,x\nName,Total,Total,Essay 1,\n')).toEqual([
      ['p1', 'e1', 40],
    ]);
  });
  test('a first column without one holds the names if most are known or “Last, First”', () => {
    expect(points(',Essay 1,Tide quiz\n"Lind, Asta",40,10\n"Okoro, Imani",30,\n')).toHaveLength(3);
  });
  test('a second table beside the first is not read, and the report says so', () => {
    const { report, json } = bring('Name,Essay 1,,Name,Essay 1\nAsta Lind,40,,Imani Okoro,30\n');
    expect([report.cut, json.grades!.length]).toEqual([2, 1]);
  });
});

test.each([
  ['Total', true],
  ['Course grade (%)', true],
  ['Quizzes average', true],
  ['Current score', true],
  ['Letter grade', true],
  ['Final exam', false],
  ['Midterm grade', false],
  ['Date', false],
  ['Running club', false],
])('[F3] %s is a total: %s', (header, total) => {
  expect(isTotal(header, ['Quizzes'])).toBe(total);
});

test('[F4] rows of averages and of points possible name nobody', () => {
  const text = 'Name,Essay 1,Log\nPoints possible,60,25\nAsta Lind,40,20\nClass average: ,40,20\nStd Dev,1,1\n';
  const { report, json } = bring(text);
  expect([report.leftOut, report.refused]).toEqual([3, []]);
  expect(json.items!.filter((i) => i.points).map((i) => [i.id, i.points])).toEqual([
    ['q1', 20],
    ['e1', 60],
    ['bare', 25],
  ]);
});

describe('[F5] people', () => {
  test.each([
    ['Lind, Asta (p1)', 'Asta', 'Lind'],
    ['Asta Lind <asta@x.example>', 'Asta', 'Lind'],
    ['Okoro, Jr., Imani', 'Imani', 'Okoro'],
    ['Imani Okoro, PhD', 'Imani', 'Okoro'],
    ['Asta  Lind (she/her)', 'Asta', 'Lind'],
  ])('%s is %s %s', (name, firstName, lastName) => {
    expect(nameOf({ name })).toEqual({ firstName, lastName });
  });
  test('are found by id, address or name in either order, without regard to accents and case', () => {
    expect(points('Name,Essay 1\nKOVACS BELA,1\n"lind, asta",2\n"Somebody (p3)",3\n')).toEqual([
      ['p2', 'e1', 1],
      ['p1', 'e1', 2],
      ['p3', 'e1', 3],
    ]);
    expect(plainName('Kovács, Béla')).toBe('kovacs bela');
  });
  test('twice under one id are one where the name is the same, and refused where it is another', () => {
    const text = 'id,Name,Section,Essay 1\np1,Asta Lind,01,40\np1,"Lind, Asta",02,41\np1,Imani Okoro,01,3\n';
    const { report, json } = bring(text);
    expect(report.refused.map((r) => [r.line, r.code])).toEqual([[4, 'twice']]);
    expect(json.people[0]!.section).toBe('01');
  });
  test('of one name without an id or an address are both refused', () => {
    expect(refused('Name,Essay 1\nAsta Lind,1\n"Lind, Asta",2\n').map((r) => r[2])).toEqual([
      'ambiguousPerson',
      'ambiguousPerson',
    ]);
  });
  test('keep what is known outside of a roster, and say how many differ; in a roster what is filled replaces', () => {
    const sheet = bring('id,Email,Essay 1\np1,other@x.example,40\n');
    expect([sheet.report.differs, sheet.json.people[0]!.email]).toEqual([1, 'p1@saltmarsh.example']);
    expect(bring('id,First name,Email\np1,ASTA,other@x.example\n').json.people[0]).toMatchObject({
      firstName: 'Asta',
      email: 'other@x.example',
    });
  });
  test('may be said to be nobody', () => {
    const options = { choices: { people: { visitor: '' } } };
    expect(bring('Name,Essay 1\nVisitor,1\nAsta Lind,2\n', options).report).toMatchObject({ leftOut: 1, refused: [] });
  });
});

describe('[F6] what the course lacks', () => {
  const text = 'Name,Student ID,Essay 1 (50),Quiz A [20 pts]\nNils Berg,n7,40,18\nEva Holm,,30,\n';
  test('is offered and refused, or added with points and a kind by its words', () => {
    const offered = bring(text);
    expect(offered.report.offered).toEqual({ people: 2, items: 1 });
    expect(offered.report.refused.map((r) => r.code)).toEqual(['unknownItem', 'unknownPerson', 'unknownPerson']);
    const { report, json } = bring(text, ADD);
    expect(report.added).toEqual({ people: 2, items: 1 });
    expect(json.people.slice(3)).toMatchObject([{ id: 'n7', firstName: 'Nils', role: 'student' }, { id: 'eva-holm' }]);
    expect(json.items!.at(-1)).toMatchObject({ title: 'Quiz A', kind: 'quiz', points: 20 });
    expect(report).toMatchObject({ new: 5, changed: 0, same: 0, refused: [] });
  });
  test.each([
    ['Midterm', true],
    ['Problem Set 3', true],
    ['Hw 4', true],
    ['Presentations', true],
    ['Boat', false],
  ])('%s sounds like an item: %s', (title, sounds) => {
    expect(soundsLikeItem(title)).toBe(sounds);
  });
  test('a column that is empty but for the points possible makes none, and a date makes a session of that day', () => {
    expect(bring('Name,Lab 9\nPossible,10\nAsta Lind,\n', ADD).json.items).toHaveLength(5);
    const { json } = bring('Name,9/14/2026,9/16/2026\nAsta Lind,P,A\nImani Okoro,A,P\n', ADD);
    expect(json.items!.slice(5)).toMatchObject([
      { kind: 'session', dueAt: '2026-09-14T00:00:00-04:00' },
      { kind: 'session' },
    ]);
    expect(json.events).toHaveLength(4);
  });
});

describe('[F7] [F8] numbers', () => {
  test.each([
    ['1,234', null, 1234],
    ['1,5', null, 'ambiguous'],
    ['12,5', 'comma', 12.5],
    ['1.234,5', 'comma', 1234.5],
    ['12,5', 'point', 'ambiguous'],
    ["1'234.5", 'point', 1234.5],
    ['1 234', 'point', 1234],
    ['12 34', 'point', null],
    ['−3', 'point', -3],
    ['1e3', 'point', null],
  ] as const)('%s under %s is %s', (text, sign, value) => {
    expect(readNumber(text, sign)).toBe(value);
  });
  test('a comma is proven by its column, a point beats it, and the file decides where a column proves nothing', () => {
    expect(points('Name;Essay 1;Tide quiz\nAsta Lind;12,5;17\nImani Okoro;9,25;3,250\n')).toEqual([
      ['p1', 'e1', 12.5],
      ['p1', 'q1', 17],
      ['p3', 'e1', 9.25],
      ['p3', 'q1', 3.25],
    ]);
    expect(refused('Name;Essay 1\nAsta Lind;12,5\nImani Okoro;9.5\n')).toEqual([[2, 'Essay 1', 'ambiguousNumber']]);
  });
  test('an error of the spreadsheet is refused where it is taken alone', () => {
    expect(refused('Name,Essay 1,Total\nAsta Lind,#DIV/0!,#REF!\n')).toEqual([[2, 'Essay 1', 'error']]);
  });
});

describe('[F9] fractions and percents', () => {
  test('are of the points possible', () => {
    expect(points('Name,Essay 1,Tide quiz\nAsta Lind,40 / 50,85%\nImani Okoro,15/20,\n')).toEqual([
      ['p1', 'e1', 40],
      ['p1', 'q1', 17],
      ['p3', 'e1', 37.5],
    ]);
  });
  test('give an item its points where they all agree, and are refused where they do not', () => {
    expect(bring('Name,Log\nAsta Lind,8/10\nImani Okoro,7/10\n').json.items![2]!.points).toBe(10);
    expect(refused('Name,Log\nAsta Lind,8/10\nImani Okoro,7/12\n').map((r) => r[2])).toEqual([
      'denominator',
      'denominator',
    ]);
    expect(bring('Name,Log\nAsta Lind,85%\nImani Okoro,missing\n').json.items![2]!.points).toBe(100);
    expect(refused('Name,Log\nAsta Lind,85%\nImani Okoro,7\n').map((r) => r[2])).toEqual(['noPoints']);
  });
  test('the points of the header replace what is known, those of a row count before it', () => {
    expect(bring('Name,Essay 1 (60)\nAsta Lind,50%\n').json.grades).toMatchObject([{ points: 30 }]);
    const { json, report } = bring('Name,Essay 1 (60)\nAsta Lind,50%\nOut of,80\n');
    expect([json.items![1]!.points, json.grades![0]!.points, report.changed]).toEqual([80, 40, 1]);
  });
  test.each([
    ['Quiz 1 (20)', 'Quiz 1', 20],
    ['Quiz 1 [max. 20 pts]', 'Quiz 1', 20],
    ['Quiz 1 / 20', 'Quiz 1', 20],
    ['Essay (draft)', 'Essay (draft)', null],
    ['Quiz (20%)', 'Quiz (20%)', null],
  ])('%s', (header, title, possible) => {
    expect(titleParts(header)).toEqual({ title, points: possible });
  });
});

test('[F10] words say nothing or excuse, in any case and in brackets', () => {
  const cells = ['', '—', 'n/a', 'Not Submitted', '(missing)', 'LATE', 'turned in', 'To  grade', 'EX', '(excused)'];
  const text = `Name,Essay 1\n${cells.map((c, i) => `${['Asta Lind', 'Imani Okoro'][i % 2]},${c}`).join('\n')}\n`;
  const one = (cell: string) => bring(`Name,Essay 1\nAsta Lind,${cell}\n`);
  for (const cell of cells.slice(0, 8)) expect([one(cell).json.grades, one(cell).report.refused]).toEqual([[], []]);
  expect(one('exempt').json.items![1]!.excused).toEqual(['p1']);
  expect(refused('Name,Essay 1\nAsta Lind,e\n')).toEqual([[2, 'Essay 1', 'number']]);
  // In a column of attendance its own marks come first.
  expect(bring('Name,Chart table 1\nAsta Lind,e\nImani Okoro,late\n').json).toMatchObject({
    events: [{ kind: 'attend' }],
  });
  expect(text).toContain('EX');
});

describe('[F11] letters', () => {
  test('are percents of the points possible; words beside them are nothing', () => {
    expect(points('Name,Essay 1\nAsta Lind,A−\nImani Okoro,b\nBéla Kovács,W\n')).toEqual([
      ['p1', 'e1', 46],
      ['p3', 'e1', 42.5],
    ]);
  });
  test('a column with anything else is read as numbers', () => {
    expect(refused('Name,Essay 1\nAsta Lind,A\nImani Okoro,40\n')).toEqual([[2, 'Essay 1', 'number']]);
  });
  test('a scale of the course takes the place of the common one', () => {
    const own = { ...base, course: { ...base.course, letters: { A: 100, B: 80 } } };
    expect(points('Name,Essay 1\nAsta Lind,A\nImani Okoro,B\n', {}, own)).toEqual([
      ['p1', 'e1', 50],
      ['p3', 'e1', 40],
    ]);
  });
});

describe('[F12] dates', () => {
  const frame = { start: at('2026-08-31T00:00'), end: at('2026-12-19T00:00'), asOf };
  const read = (text: string, order: 'monthFirst' | 'dayFirst' | 'unknown' = 'unknown') => {
    const date = readDate(text, { zone, order, frame });
    return date.ok ? new Date(date.at).toISOString().slice(0, 16) : date.code;
  };
  test.each([
    ['9/14/26', '2026-09-14T04:00'],
    ['14-09-2026', '2026-09-14T04:00'],
    ['2026/09/14', '2026-09-14T04:00'],
    ['Monday, September 14, 2026 at 9:30 PM', '2026-09-15T01:30'],
    ['14 Sep 2026', '2026-09-14T04:00'],
    ['Sep 14', '2026-09-14T04:00'],
    ['Sep 14, 3 PM', '2026-09-14T19:00'],
    ['Jan 5', '2026-01-05T05:00'],
    ['2026-09-14 10:00 UTC', '2026-09-14T10:00'],
    ['2026-09-14 10:00 -0700', '2026-09-14T17:00'],
    ['2026-09-14 10:00 PST', 'date'],
    ['Sept 31, 2026', 'date'],
    ['14', 'date'],
  ])('%s is %s', (text, expected) => {
    expect(read(text)).toBe(expected);
  });
});

describe('[F13] last seen', () => {
  test.each([
    ['Last access', 'lastVisit'],
    ['Last Login', 'lastSignIn'],
    ['Last sign-in (date)', 'lastSignIn'],
    ['Last login (course)', 'lastVisit'],
    ['Last name', null],
    ['Access', null],
  ])('%s tells of a %s', (header, kind) => {
    expect(lastSeenKind(header)).toBe(kind);
  });
  test('dates are visits, never is nothing, far off is a slip', () => {
    const text = 'Name,Last access\nAsta Lind,2026-10-20 14:00\nImani Okoro,never\nBéla Kovács,2021-01-01\n';
    const { json, report } = bring(text);
    expect(json.events).toEqual([{ person: 'p1', kind: 'lastVisit', at: '2026-10-20T14:00:00-04:00' }]);
    expect(report.refused.map((r) => r.code)).toEqual(['dateRange']);
    expect(bring(text, {}, json).report).toMatchObject({ new: 0, same: 2 });
  });
  test.each([
    ['5 days 3 hours', '2026-10-21T05:00', 'hour'],
    ['2 wks ago', '2026-10-12T08:00', 'week'],
    ['1 month', '2026-09-26T08:00', 'month'],
    ['45 secs', '2026-10-26T07:59', 'second'],
    ['just now', '2026-10-26T08:00', 'minute'],
  ])('%s counts back from the file', (text, wall) => {
    const age = readAge(text, asOf, zone)!;
    expect(new Date(zone.toWall(age.at)).toISOString().slice(0, 16)).toBe(wall);
  });
  test.each(['', '5', 'days', '5 boats', '1 2 3 4', 'today', '1 y 2 y 3 y 4 y 5 y 6 y 7 y'])('%j is no age', (text) => {
    expect(readAge(text, asOf, zone)).toBeNull();
  });
  test('an age of what is known already is the same', () => {
    const text = 'Name,Last access\nAsta Lind,5 days 3 hours\n';
    const first = bring(text);
    expect(first.report).toMatchObject({ kind: 'lastSeen', new: 1 });
    // Read an hour later it is still that visit; a day later it is another.
    const later = (hours: number) => bring(text, { asOf: asOf + hours * 3_600_000 }, first.json).report;
    expect([later(1).same, later(24).new]).toEqual([1, 1]);
  });
});

test('[F14] done on a date is what does such an item; a mark without a date is refused', () => {
  const text =
    'Name,Essay 1 submitted on,Date completed: Watch log\nAsta Lind,2026-10-02,10/13/2026\nImani Okoro,yes,not yet\n';
  const { json, report } = bring(text);
  expect(json.events!.map((e: DraftEvent) => [e.person, e.kind, e.item])).toEqual([
    ['p1', 'submit', 'e1'],
    ['p1', 'post', 'f1'],
  ]);
  expect(report.refused.map((r) => [r.column, r.code])).toEqual([['Essay 1 submitted on', 'noDate']]);
  // A column of dates under the title itself.
  expect(bring('Name,Essay 1\nAsta Lind,2026-10-02\n').json.events).toMatchObject([{ kind: 'submit' }]);
});

test('[F15] a table about nobody and nothing is refused whole, and so is a cell that no spreadsheet holds', () => {
  expect(() => bring('Boat,Color\nSkiff,red\n')).toThrow('Nothing in this file says who or what its rows are about.');
  expect(() => bring(`Name,Essay 1\n${'x'.repeat(32_768)},1\n`)).toThrow(/more than 32,767 characters/);
});

test('[F16] counts a person once, and every grade, excuse, event and mark', () => {
  const file = {
    name: 's.csv',
    content: {
      bytes: new TextEncoder().encode(
        'Name,Section,Essay 1,Tide quiz\nAsta Lind,01,40,EX\nImani Okoro,,,\nAverage,,40,\n',
      ),
    },
  };
  const report = importFile(file, draftOf(base), { asOf });
  expect(report).toMatchObject({ kind: 'gradebook', read: 3, new: 1, changed: 2, same: 1, leftOut: 1, refused: [] });
  expect(report.columns).toEqual({ Name: 'name', Section: 'section' });
});

test('the sheet that everybody has begins a course', () => {
  const text = [
    'NAV 120 Coastal Navigation,,,,,,,,,',
    'Fall 2026,,,,,,,,,',
    'Last,First,ID,Email,Sec,Essay 1 (50),Quiz A [20 pts],Midterm,Total,Notes',
    'Lind,Asta,1001,asta@x.example,01,42,15/20,57%,88%,late twice',
    'Okoro,Imani,1002,imani@x.example,02,EX,missing,91%,95%,',
    'Average,,,,,42,15,74%,91%,',
  ].join('\n');
  const { report, json } = bring(text, ADD, EMPTY);
  expect(report).toMatchObject({ kind: 'gradebook', leftOut: 1, refused: [], added: { people: 2, items: 3 } });
  expect(json.items!.map((i) => [i.title, i.kind, i.points])).toEqual([
    ['Essay 1', 'assignment', 50],
    ['Quiz A', 'quiz', 20],
    ['Midterm', 'quiz', 100],
  ]);
  expect(json.grades!.map((g) => [g.person, g.item, g.points])).toEqual([
    ['1001', 'essay-1', 42],
    ['1001', 'quiz-a', 15],
    ['1001', 'midterm', 57],
    ['1002', 'midterm', 91],
  ]);
});

test('what a screen shows of a cell is what was taken of it, whatever the sheet holds', () => {
  const cell = fc.oneof(
    fc.constantFrom(
      '',
      '40',
      '12,5',
      '9.5',
      '85%',
      '15/20',
      'EX',
      'missing',
      'A-',
      '#N/A',
      'P',
      '2026-10-02',
      '5 days',
      'x',
    ),
    fc.string({ maxLength: 12 }).map((s) => s.replace(/[\n\r",]/g, ' ')),
  );
  const headers = ['Essay 1', 'Tide quiz', 'Log', 'Chart table 1', 'Last access', 'Essay 1 submitted', 'Boat', 'Total'];
  fc.assert(
    fc.property(fc.array(fc.tuple(...headers.map(() => cell)), { minLength: 3, maxLength: 3 }), (rows) => {
      const names = ['Asta Lind', 'Béla Kovács', 'Imani Okoro'];
      const text = [['Name', ...headers], ...rows.map((r, i) => [names[i]!, ...r])]
        .map((r) => r.map((c) => `"${c}"`).join(','))
        .join('\n');
      const { report, json } = bring(text);
      for (const [i, { cells }] of report.sample.entries()) {
        const lines = report.refused.filter((r) => r.line === i + 2);
        // A cell is marked as refused exactly where it is refused.
        const marked = cells.flatMap((c, n) => (c.refused ? [['Name', ...headers][n]] : []));
        expect(new Set(marked)).toEqual(new Set(lines.map((r) => r.column)));
        // A grade that is shown is the grade that is there.
        const shown = cells[1]!.read;
        const grade = json.grades!.find((g) => g.person === `p${i + 1}` && g.item === 'e1');
        if (!cells[1]!.refused && shown.includes(' of '))
          expect(shown.startsWith(String(grade?.points).slice(0, 1))).toBe(true);
        if (!cells[1]!.refused && shown === '') expect(grade).toBeUndefined();
      }
      // The same sheet again changes nothing.
      const again = bring(text, {}, json).report;
      expect([again.new, again.changed]).toEqual([0, 0]);
    }),
    { numRuns: 150 },
  );
});
