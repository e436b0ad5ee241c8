/** Headers in two rows ([F21]) and scores in words ([F23]). Conventions of sheets: common practice, no source. */
import { describe, expect, test } from '@jest/globals';
import { NEW_YORK } from '../../testing/build.ts';
import { plainScore } from '../read/numbers.ts';
import { tableOf, type TableLine, type MergedCells } from '../read/table.ts';
import { plainTitle, titleParts } from '../read/titles.ts';
import type { ScenarioJson } from './draft.ts';
import { draftOf, importFile } from './importFiles.ts';

const EMPTY: ScenarioJson = {
  people: [],
  items: [],
  course: { code: 'HYD 210', title: 'Rivers', timeZone: NEW_YORK, start: '2026-08-31', end: '2026-12-18' },
};

function bring(text: string) {
  const draft = draftOf(EMPTY);
  const file = { name: 'sheet.csv', content: { bytes: new TextEncoder().encode(text) } };
  const asOf = Date.UTC(2026, 9, 26, 12);
  const report = importFile(file, draft, { asOf, add: { people: true, items: true } });
  return { report, json: draft.toScenario() };
}

/** A sheet of a workbook; merges as “A1:A2”, by places from 0 and lines from 1. */
function sheet(rows: readonly (readonly string[])[], merges: readonly MergedCells[] = []) {
  const lines = rows.map((cells, i): TableLine => ({ line: i + 1, cells }));
  const { headers, groups, titles, rows: read } = tableOf(() => lines, null, merges);
  return { headers, groups, titles, rows: [...read].map((r) => r.cells) };
}

describe('[F21] a row of groups above the header', () => {
  const WORST = `HYD 210 Rivers and Weirs
exported by D. Marsh
Student,,,,Quizzes,,Labs,Attendance
First,Last,Email,Section,Quiz 1,Quiz 2,Lab 1,Attended
Abel,Thorne,abel@river.example,A,85%,14/20,18,7 of 8
Average,,,,85%,14/20,18,
`;

  test('is known as one whatever stands in it, gives its items their groups, and is no title', () => {
    const { report, json } = bring(WORST);
    expect(report.refused).toEqual([]);
    expect(json.people).toMatchObject([{ firstName: 'Abel', lastName: 'Thorne', email: 'abel@river.example' }]);
    expect(json.items!.map((i) => [i.title, i.group, i.points])).toEqual([
      ['Quiz 1', 'Quizzes', 100],
      ['Quiz 2', 'Quizzes', 20],
      ['Lab 1', 'Labs', undefined],
      ['Attended', 'Attendance', 8],
    ]);
    expect(json.grades!.map((g) => g.points)).toEqual([85, 14, 18, 7]);
    const rows = WORST.trim()
      .split('\n')
      .map((line) => line.split(','));
    expect(sheet(rows).titles).toEqual(['HYD 210 Rivers and Weirs', 'exported by D. Marsh']);
  });

  test('may have empty rows below it, and several such rows give way one after the other', () => {
    const { headers, groups } = sheet([
      ['Student', '', 'Work', 'Fall'],
      ['Name', 'Role', 'Essays', 'Essays'],
      ['', '', '', ''],
      ['First', 'Last', 'Essay 1', 'Email'],
      ['Asta', 'Lind', '4', 'a@x.example'],
    ]);
    expect(headers).toEqual(['First', 'Last', 'Essay 1', 'Email']);
    expect(groups[2]).toBe('Essays');
  });

  test('a text that is merged over both rows is a header; one merged over columns is the group of each', () => {
    const { headers, groups, rows } = sheet(
      [
        ['Student', 'Essays', '', 'Notes'],
        ['', 'Essay 1', 'Essay 2', ''],
        ['Asta Lind', '4', '5', ''],
      ],
      [
        { line: 1, lastLine: 2, from: 0, to: 0 },
        { line: 1, lastLine: 1, from: 1, to: 2 },
        { line: 1, lastLine: 2, from: 3, to: 3 },
      ],
    );
    expect(headers).toEqual(['Student', 'Essay 1', 'Essay 2', 'Notes']);
    expect(groups.slice(1, 3)).toEqual(['Essays', 'Essays']);
    expect(rows).toEqual([['Asta Lind', '4', '5', '']]);
  });

  test.each<[string, string[][]]>([
    [
      'a role',
      [
        ['Name', 'Email', 'Role'],
        ['Asta Lind', 'a@x.example', 'Student'],
      ],
    ],
    [
      'an attempt',
      [
        ['Name', 'Email', 'Attempt'],
        ['Asta Lind', 'a@x.example', 'First'],
      ],
    ],
    [
      'the header again',
      [
        ['Name', 'Essay 1'],
        ['Name', 'Essay 1'],
        ['Asta Lind', '4'],
      ],
    ],
  ])('data that hold a header’s word are data: %s', (_case, rows) => {
    expect(sheet(rows).headers).toEqual(rows[0]);
  });
});

describe('[F23] dates as headers', () => {
  const sessions = (text: string) =>
    bring(text).json.items!.map((i) => [i.title, i.kind, String(i.opensAt ?? i.dueAt).slice(0, 10), i.group]);

  test('two numbers without a year are a day, alone and below a group', () => {
    expect(sessions('Name,Email,9/14,9/21\nAsta Lind,asta@x.example,P,A\nBo Quist,bo@x.example,A,P\n')).toEqual([
      ['9/14', 'session', '2026-09-14', undefined],
      ['9/21', 'session', '2026-09-21', undefined],
    ]);
    expect(
      sessions('Student,,Presence,\nName,Email,14.9.,21.9.\nAsta Lind,asta@x.example,P,A\nBo Quist,bo@x.example,A,P\n'),
    ).toEqual([
      ['14.9.', 'session', '2026-09-14', 'Presence'],
      ['21.9.', 'session', '2026-09-21', 'Presence'],
    ]);
  });

  test('stand beside grades, whose cells stay fractions', () => {
    const { json } = bring(
      'Name,Email,9/14,9/21,Quiz 1\nAsta Lind,asta@x.example,P,A,9/14\nBo Quist,bo@x.example,A,P,7/14\n',
    );
    expect(json.items!.map((i) => [i.title, i.kind, i.points])).toEqual([
      ['9/14', 'session', undefined],
      ['9/21', 'session', undefined],
      ['Quiz 1', 'quiz', 14],
    ]);
    expect(json.grades!.map((g) => g.points)).toEqual([9, 7]);
  });

  test('whose order nothing proves have no points either, and marks below them are of a session', () => {
    const { json } = bring('Name,Email,9/4,9/11\nAsta Lind,asta@x.example,P,A\nBo Quist,bo@x.example,A,P\n');
    expect(json.items!.map((i) => [i.title, i.kind, i.points])).toEqual([
      ['9/4', 'session', undefined],
      ['9/11', 'session', undefined],
    ]);
  });
});

describe('[F23] scores and titles', () => {
  test.each([
    ['7 of 8', '7/8'],
    ['7 out of 8', '7/8'],
    ['7/8 pts', '7/8'],
    ['7 / 8 points', '7 / 8'],
    ['18 pts.', '18'],
    ['18marks', '18'],
    ['85 % points', '85 %'],
    ['7,5 of 10', '7,5/10'],
    ['two of 8', 'two of 8'],
    ['best of luck', 'best of luck'],
    ['pts', 'pts'],
    ['3 points of order', '3 points of order'],
    ['1/2/3 pts', '1/2/3'],
  ])('“%s” is “%s”', (cell, score) => expect(plainScore(cell)).toBe(score));

  test('a colon, comma or dash at the end of a title is dropped, also when titles are compared', () => {
    expect(titleParts('Quiz 1, (20 marks)')).toEqual({ title: 'Quiz 1', points: 20 });
    expect(titleParts('Essay 1:')).toEqual({ title: 'Essay 1', points: null });
    expect(titleParts('Lab 2 - / 10 pts')).toEqual({ title: 'Lab 2', points: 10 });
    expect(titleParts('—')).toEqual({ title: '—', points: null });
    expect(plainTitle('Essay 1:')).toBe(plainTitle('essay 1'));
  });
});
