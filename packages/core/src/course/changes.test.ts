import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { at, courseOf, item, person } from '../testing/build.ts';
import {
  changeLines,
  changeSummary,
  diffCourses,
  isNothing,
  isSame,
  ownColumn,
  undoneCourse,
  withKept,
} from './changes.ts';
import type { CourseParts } from './course.ts';

const before = courseOf({
  people: [person('p1', { firstName: 'Imani', lastName: 'Okoro' }), person('p2')],
  items: [item('q1', { title: 'Tide tables quiz', dueAt: at('2026-09-13T23:59') }), item('lab')],
});
const withPeople = (course: CourseParts, id: string, set: object): CourseParts => ({
  ...course,
  people: course.people.map((p) => (p.id === id ? { ...p, ...set } : p)),
});
const withItems = (course: CourseParts, id: string, set: object): CourseParts => ({
  ...course,
  items: course.items.map((i) => (i.id === id ? { ...i, ...set } : i)),
});

test('values are the same by content, whatever the order of their fields', () => {
  expect(isSame({ a: 1, b: [1, { c: null }] }, { b: [1, {}], a: 1 })).toBe(true);
  expect(isSame([1, 2], [2, 1])).toBe(false);
  expect(isSame({ a: 0 }, { a: null })).toBe(false);
  expect(isSame([], {})).toBe(false);
  expect(
    isNothing(
      diffCourses(before, structuredClone({ ...before, personIndex: null, itemIndex: null, calendar: null }) as never),
    ),
  ).toBe(true);
});

test('a change says field by field from what to what, in words', () => {
  let after = withPeople(before, 'p1', { lastName: 'Adeyemi', active: false });
  after = withItems(after, 'q1', {
    dueAt: at('2026-09-20T23:59'),
    excused: ['p2'],
    extensions: [{ section: '02', dueAt: at('2026-09-21T12:00') }],
  });
  after = { ...after, title: 'Navigation', items: [...after.items.slice(0, 1), item('essay', { title: 'Essay' })] };
  const changes = diffCourses(before, after);
  expect(changeSummary(changes)).toBe(
    'course details changed, 1 person changed, 1 item added, 1 item changed, 1 item removed',
  );
  expect(changeLines(changes, before).map((l) => [l.name, l.change, l.field, l.from, l.to])).toEqual([
    ['Navigation', 'field', 'title', 'Coastal Navigation', 'Navigation'],
    ['Imani Adeyemi', 'field', 'last name', 'Okoro', 'Adeyemi'],
    ['Imani Adeyemi', 'field', 'active', 'yes', 'no'],
    ['Tide tables quiz', 'field', 'due', 'Sun Sep 13, 11:59 PM', 'Sun Sep 20, 11:59 PM'],
    ['Tide tables quiz', 'field', 'excused people', 'nothing', 'P2 Test'],
    ['Tide tables quiz', 'field', 'extensions', 'nothing', 'section 02: Mon Sep 21, 12:00 PM'],
    ['Essay', 'new', null, '', ''],
    ['lab', 'gone', null, '', ''],
  ]);
});

test('items in another order are one change, and adding one is none', () => {
  const [q1, lab] = before.items;
  expect(diffCourses(before, { ...before, items: [lab!, q1!] }).order).toEqual({
    before: ['q1', 'lab'],
    after: ['lab', 'q1'],
  });
  expect(diffCourses(before, { ...before, items: [item('x'), q1!, lab!] }).order).toBeNull();
});

describe('undoing a change', () => {
  const undo = (now: CourseParts, from: CourseParts, to: CourseParts) => undoneCourse(now, diffCourses(from, to));

  test('puts back what it changed and leaves later changes of other fields', () => {
    const one = withPeople(before, 'p1', { section: '07' });
    const two = withPeople(one, 'p1', { firstName: 'Nia' });
    const { course, against } = undo(two, before, one);
    expect(against).toEqual([]);
    expect(course.people[0]).toMatchObject({ firstName: 'Nia', section: null });
  });

  test('leaves what a later file says as well, and hands it to that file', () => {
    const one = withPeople(before, 'p1', { section: '07', fields: { Team: 'A', Advisor: 'B' } });
    const changes = diffCourses(before, one);
    const said = { people: new Map([['p1', new Set(['section', ownColumn('Advisor')])]]), items: new Map() };
    const { course, kept } = undoneCourse(one, changes, said);
    expect(course.people[0]).toMatchObject({ section: '07', fields: { Advisor: 'B' } });
    expect(kept.people).toEqual([
      { id: 'p1', before: { ...course.people[0], section: null, fields: {} }, after: course.people[0] },
    ]);
    // Undone as well, the later file takes it back.
    const later = withKept({ ...changes, people: [] }, kept);
    expect(undoneCourse(course, later).course.people).toEqual(before.people);
  });

  test('leaves an entry that a later file names, whatever that says of it', () => {
    const one = { ...before, items: [...before.items, item('x')] };
    const said = { people: new Map(), items: new Map([['x', new Set<string>()]]) };
    const { course, kept } = undoneCourse(one, diffCourses(before, one), said);
    expect(course.items).toEqual(one.items);
    expect(kept.items).toEqual([{ id: 'x', before: null, after: item('x') }]);
  });

  test('brings a removed item back to its place', () => {
    const after = { ...before, items: before.items.slice(1) };
    expect(undo(after, before, after).course.items.map((i) => i.id)).toEqual(['q1', 'lab']);
  });

  test.each<[string, CourseParts, CourseParts, RegExp]>([
    [
      'the same field changed later',
      withPeople(before, 'p1', { section: '07' }),
      withPeople(before, 'p1', { section: '08' }),
      /section changed since/,
    ],
    [
      'a new entry changed later',
      { ...before, items: [...before.items, item('x')] },
      { ...before, items: [...before.items, item('x', { points: 1 })] },
      /has been changed since/,
    ],
    [
      'an entry is gone',
      withItems(before, 'q1', { points: 1 }),
      { ...before, items: before.items.slice(1) },
      /has been removed since/,
    ],
    ['a removed one is back', { ...before, items: before.items.slice(1) }, before, /has been added again since/],
    [
      'the details changed later',
      { ...before, end: '2026-12-20' },
      { ...before, end: '2026-12-21' },
      /last day changed since/,
    ],
  ])('says what is in its way: %s', (_what, after, now, said) => {
    expect(undo(now, before, after).against.join()).toMatch(said);
  });

  test('is exact for any change of people and items', () => {
    const entry = fc.record({
      id: fc.constantFrom('p1', 'p2', 'p3', 'p4'),
      section: fc.constantFrom(null, '01', '02'),
      active: fc.boolean(),
    });
    const roster = fc
      .uniqueArray(entry, { selector: (e) => e.id })
      .map((list) => courseOf({ people: list.map(({ id, ...more }) => person(id, more)), items: before.items }));
    fc.assert(
      fc.property(roster, roster, (from, to) => {
        const { course, against } = undo(to, from, to);
        expect(against).toEqual([]);
        const byId = (c: CourseParts) => new Map(c.people.map((p) => [p.id, p]));
        expect(byId(course)).toEqual(byId(from));
      }),
    );
  });
});
