/** A header that somebody chose ([F21]), what makes one doubtful ([F22]), and points that are asked for ([F24]). */
import { describe, expect, test } from '@jest/globals';
import { NEW_YORK } from '../../testing/build.ts';
import { runWhole } from '../../time/inParts.ts';
import type { ScenarioJson } from './draft.ts';
import { draftOf, importFileInParts } from './importFiles.ts';
import type { ImportOptions } from './report.ts';

const EMPTY: ScenarioJson = {
  people: [],
  items: [],
  course: { code: 'HYD 210', title: 'Rivers', timeZone: NEW_YORK, start: '2026-08-31', end: '2026-12-18' },
};

function bring(text: string, options: Partial<ImportOptions> = {}, to = EMPTY) {
  const draft = draftOf(to);
  const file = { name: 'sheet.csv', content: { bytes: new TextEncoder().encode(text) } };
  const how = { asOf: Date.UTC(2026, 9, 26, 12), add: { people: true, items: true }, ...options };
  const report = runWhole(importFileInParts(file, draft, how));
  return { report, json: draft.toScenario() };
}

describe('[F21] the row of the header', () => {
  // The first row could be a header; what names the students is below it in words of their own.
  const OWN_WORDS = `Name of the course,Rivers and Weirs
,,Essays,Essays
Who is it,Reach them at,Essay 1 (20),Essay 2 (20)
"Thorne, Abel",abel@river.example,18,19
"Moss, Una",una@river.example,15,
`;

  test('is told with the rows around it, each with its line', () => {
    const { report } = bring('HYD 210\n\nStudent,,Quizzes\nName,Email,Quiz 1\nA B,a@x.example,7\n');
    expect(report).toMatchObject({ headerLine: 4, groupsLine: 3 });
    expect(report.firstRows.map((r) => [r.line, r.cells])).toEqual([
      [1, ['HYD 210']],
      [3, ['Student', '', 'Quizzes']],
      [4, ['Name', 'Email', 'Quiz 1']],
      [5, ['A B', 'a@x.example', '7']],
    ]);
  });

  test('can be chosen, and the row above it has the groups', () => {
    const told = { 'Who is it': 'name', 'Reach them at': 'email' };
    const { report, json } = bring(OWN_WORDS, { header: 3, told });
    expect(report).toMatchObject({ headerLine: 3, groupsLine: 2, refused: [] });
    expect(json.people.map((p) => p.email)).toEqual(['abel@river.example', 'una@river.example']);
    expect(json.items).toMatchObject([
      { title: 'Essay 1', group: 'Essays', points: 20 },
      { title: 'Essay 2', group: 'Essays', points: 20 },
    ]);
    expect(report.meanings.map((m) => m.group)).toEqual([null, null, 'Essays', 'Essays']);
  });

  test('is found as before where the chosen line has no row', () => {
    expect(bring('Name,Email\nA B,a@x.example\n', { header: 40 }).report.headerLine).toBe(1);
  });
});

describe('[F22] a doubtful header', () => {
  const doubts = (text: string, options: Partial<ImportOptions> = {}) => bring(text, options).report.doubts;

  test('more than a third of the filled columns have no name', () => {
    const of = (named: number) =>
      `Name,${Array.from({ length: 5 }, (_, i) => (i < named ? `Quiz ${i + 1}` : '')).join(',')}\nA B,1,2,3,4,5\n`;
    expect(doubts(of(3))).toEqual([]);
    expect(doubts(of(2))).toEqual(['header']);
  });

  test('columns behind the last name in the header count as well', () => {
    const { report } = bring('Name,Quiz 1\nA B,1,2,3,4\n');
    expect(report.doubts).toEqual(['header']);
    expect(report.meanings.map((m) => m.leftOut)).toEqual([null, null, 'noHeader', 'noHeader', 'noHeader']);
  });

  test('addresses stand in a column that is kept as it is, and nothing else names a person surely', () => {
    expect(doubts('Name,Reach them at,Team\nA B,a@x.example,red\nC D,c@x.example,blue\n')).toEqual(['header']);
    expect(doubts('Name,ID,Reach them at\nA B,s1,a@x.example\nC D,s2,c@x.example\n')).toEqual([]);
    expect(doubts('Name,Reach them at,Team\nA B,a@x.example,red\nC D,,blue\nE F,phone,\nG H,desk,\n')).toEqual([]);
  });

  test('a first column of names needs no header, and tables of one row a fact raise no doubts', () => {
    expect(doubts(',Quiz 1,Quiz 2\n"Lind, Asta",7,8\n"Moss, Una",8,9\n')).toEqual([]);
    expect(doubts('person,kind,at\np1,visit,2026-09-14\n')).toEqual([]);
  });

  test('what was read is taken all the same: only a screen asks first', () => {
    const { report, json } = bring('Name,Quiz 1,,\nA B,7,8,9\n');
    expect(report.doubts).toEqual(['header']);
    expect(json.people).toHaveLength(1);
  });
});

describe('[F24] points that nothing says', () => {
  const SHEET = 'Name,Map quiz,Essay 1 (20)\nAbel Thorne,7,18\nUna Moss,9,\n';

  test('are asked for once an item, and percents are unknown until then', () => {
    const { report, json } = bring(SHEET);
    expect(report.meanings.map((m) => m.asksPoints)).toEqual([false, true, false]);
    expect(json.items!.map((i) => [i.title, i.points])).toEqual([
      ['Map quiz', undefined],
      ['Essay 1', 20],
    ]);
  });

  test('an answer gives them to the item, new or known, and is a change of it', () => {
    const made = bring(SHEET, { outOf: { 'Map quiz': 10 } });
    expect(made.report.meanings.map((m) => m.asksPoints)).toEqual([false, false, false]);
    expect(made.json.items![0]).toMatchObject({ title: 'Map quiz', points: 10 });
    const known = bring(SHEET, { outOf: { 'Map quiz': 10 } }, bring(SHEET).json);
    expect(known.json.items![0]).toMatchObject({ title: 'Map quiz', points: 10 });
    expect(known.report).toMatchObject({ new: 1, changed: 0, refused: [] });
  });

  test('percents beside plain points wait for them', () => {
    const mixed = 'Name,Map quiz\nAbel Thorne,7\nUna Moss,90%\n';
    const before = bring(mixed).report;
    expect(before.refused.map((r) => r.code)).toEqual(['noPoints']);
    expect(before.meanings[1]!.asksPoints).toBe(true);
    const { report, json } = bring(mixed, { outOf: { 'Map quiz': 10 } });
    expect(report.refused).toEqual([]);
    expect(json.grades!.map((g) => g.points)).toEqual([7, 9]);
  });

  test('taking a sheet back asks for nothing', () => {
    const { report } = bring(SHEET, { isCorrection: true, kind: 'gradebook' }, bring(SHEET).json);
    expect(report.meanings.map((m) => m.asksPoints)).toEqual([false, false, false]);
  });

  test('a column of attendance, or one without a score, asks for nothing', () => {
    const { report } = bring('Name,9/14,Essay 2\nAbel Thorne,P,\nUna Moss,A,missing\n');
    expect(report.meanings.map((m) => m.asksPoints)).toEqual([false, false, false]);
  });
});
