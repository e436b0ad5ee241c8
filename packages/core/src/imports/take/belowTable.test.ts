/** What is below the table of a sheet: notes, other tables, and students after all. Common practice, no source. */
import { describe, expect, test } from '@jest/globals';
import { NEW_YORK } from '../../testing/build.ts';
import type { DraftPerson, ScenarioJson } from './draft.ts';
import { draftOf, importFile } from './importFiles.ts';

function bring(text: string, people: DraftPerson[] = []) {
  const course = { code: 'HYD 210', title: 'Rivers', timeZone: NEW_YORK, start: '2026-08-31', end: '2026-12-18' };
  const draft = draftOf({ course, people, items: [] } satisfies ScenarioJson);
  const file = { name: 'sheet.csv', content: { bytes: new TextEncoder().encode(text) } };
  const report = importFile(file, draft, { asOf: Date.UTC(2026, 9, 26), add: { people: true, items: true } });
  return { report, names: draft.toScenario().people.map((p) => `${p.firstName} ${p.lastName}`) };
}

const TABLE = 'Name,Email,Quiz 1 (10)\nAbel Thorne,abel@river.example,7\nUna Moss,una@river.example,9\n';

describe('below a table with addresses', () => {
  test.each([
    ['a note behind an empty row', '\nLate work loses a point a day,,\n', 1],
    ['another table', '\nLetter,From,To\nA,93,100\nB,85,92\n', 3],
    ['a sentence right below it', 'Scores count once all of them are graded.,,\n', 1],
    ['a note in two cells', '\nQuestions to,D. Marsh,\n', 1],
  ])('%s is left out', (_, below, leftOut) => {
    const { report, names } = bring(TABLE + below);
    expect(names).toEqual(['Abel Thorne', 'Una Moss']);
    expect(report).toMatchObject({ leftOut, refused: [] });
  });

  test('students of another section behind an empty row and its title are students', () => {
    const { report, names } = bring(`${TABLE}\nSection B,,\nNed Fry,ned@river.example,4\nIda Wren,,6\n`);
    expect(names).toEqual(['Abel Thorne', 'Una Moss', 'Ned Fry', 'Ida Wren']);
    expect(report.leftOut).toBe(1);
  });

  test('whom the course knows is a student without an address too', () => {
    const ida = {
      id: 'i',
      firstName: 'Ida',
      lastName: 'Wren',
      role: 'student',
      enrolledAt: '2026-08-31T00:00:00-04:00',
    };
    const { report } = bring(`${TABLE}\nIda Wren,,6\n`, [ida]);
    expect(report).toMatchObject({ refused: [] });
    expect(report.leftOut).toBeUndefined();
  });
});

describe('below a table without addresses', () => {
  const NAMES = 'Name,Quiz 1 (10)\nAbel Thorne,7\nUna Moss,9\n';

  test('a sentence is left out, and a second block of names without scores is not', () => {
    const { report, names } = bring(`${NAMES}\nNed Fry,\nIda Wren,\n\nLate work loses a point a day,\n`);
    expect(names).toEqual(['Abel Thorne', 'Una Moss', 'Ned Fry', 'Ida Wren']);
    expect(report.leftOut).toBe(1);
  });

  test.each(['Ned Fry', '"Fry, Ned Jr."', 'Maria del Carmen de la Vega'])(
    '%s, without a score right below the others, is a student',
    (name) => {
      expect(bring(`${NAMES}${name},\n`).names).toHaveLength(3);
    },
  );
});

test('a list of names alone has nothing below it', () => {
  const { names } = bring('Name\nAbel Thorne\n\nUna Moss\n');
  expect(names).toEqual(['Abel Thorne', 'Una Moss']);
});
