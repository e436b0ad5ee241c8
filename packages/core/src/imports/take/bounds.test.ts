/** Engine §6: the bounds of a course are the same at every door: here a sheet, a dialog and a scenario file. */
import { describe, expect, test } from '@jest/globals';
import { BOUNDS } from '../../course/bounds.ts';
import { itemEditSchema, personEditSchema } from '../../course/edit.ts';
import { parseScenario } from '../../scenario/format.ts';
import { NEW_YORK } from '../../testing/build.ts';
import type { ScenarioJson } from './draft.ts';
import { draftOf, importFile } from './importFiles.ts';

const course: ScenarioJson = {
  format: 'zest-bell/scenario@1',
  course: { code: 'NAV 120', title: 'Coastal Navigation', timeZone: NEW_YORK, start: '2026-08-31', end: '2026-12-18' },
  people: [{ id: 'p1', firstName: 'Asta', lastName: 'Lind', role: 'student', enrolledAt: '2026-08-31T00:00:00-04:00' }],
  items: [{ id: 'q1', title: 'Tide quiz', kind: 'quiz', points: 20 }],
};
const take = (text: string, kind?: 'roster' | 'columns') => {
  const draft = draftOf(course);
  const options = { asOf: Date.UTC(2026, 9, 26), add: { people: true, items: true }, kind };
  const report = importFile({ name: 'a.csv', content: { bytes: new TextEncoder().encode(text) } }, draft, options);
  return { draft, refused: report.refused.map((r) => [r.row, r.column, r.code]) };
};
const long = 'x'.repeat(BOUNDS.line + 1);

describe('a sheet', () => {
  test('adds nobody whose name is too long, and changes nobody to one', () => {
    const { draft, refused } = take(
      `id,First name,Last name\np1,${long},Lind\np2,Nils,${long}\np3,Ida,Berg\n`,
      'roster',
    );
    expect(refused).toEqual([
      [2, 'First name', 'bounds'],
      [3, 'Last name', 'bounds'],
    ]);
    expect(draft.json.people.map((p) => p.firstName)).toEqual(['Asta', 'Ida']);
  });

  test('makes no item of a header that is too long', () => {
    const { draft, refused } = take(`id,Essay ${long} (50)\np1,40\n`);
    expect(refused).toHaveLength(1);
    expect(draft.json.items).toHaveLength(1);
  });

  test('keeps no more own columns than a person has', () => {
    const names = Array.from({ length: BOUNDS.fields + 1 }, (_, i) => `Note ${i}`);
    const { draft, refused } = take(`id,${names.join(',')}\np1,${names.map(() => 'a b').join(',')}\n`, 'columns');
    expect(refused).toEqual([[2, `Note ${BOUNDS.fields}`, 'tooMany']]);
    expect(Object.keys(draft.json.people[0]!.fields!)).toHaveLength(BOUNDS.fields);
  });

  test('refuses items past their number, and points that are none', () => {
    const { refused } = take(`id,title,kind,points\na,A,quiz,-1\nb,${long},quiz,3\nc,C,quiz,3\n`);
    expect(refused).toEqual([
      [2, 'points', 'bounds'],
      [3, 'title', 'bounds'],
    ]);
  });
});

test('the same name, title and address are refused in a dialog and in a scenario file', () => {
  const name = personEditSchema.partial().safeParse({ firstName: long, email: 'a@x.example, b@x.example' });
  expect(name.error!.issues.map((i) => i.path.join('.'))).toEqual(['firstName', 'email']);
  expect(itemEditSchema.partial().safeParse({ title: long }).success).toBe(false);
  const [person] = course.people;
  const bad = { ...person!, firstName: long, email: 'a@x.example, b@x.example' };
  const parsed = parseScenario({ ...course, people: [bad], items: [{ ...course.items![0]!, title: long }] });
  expect(parsed.ok ? [] : parsed.problems.map((p) => p.path)).toEqual([
    'people[0].firstName',
    'people[0].email',
    'items[0].title',
  ]);
});

test('an address has single dots within its parts', () => {
  const isTaken = (email: string) => personEditSchema.partial().safeParse({ email }).success;
  expect(['a@x.example', 'a.b@mail.x.example', 'ä+1@bücher.example'].map(isTaken)).toEqual([true, true, true]);
  expect(['a..b@x.example', '.a@x.example', 'a@x..example', 'a@x.example.', 'a@x'].map(isTaken)).not.toContain(true);
});
