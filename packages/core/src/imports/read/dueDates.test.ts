import { expect, test } from '@jest/globals';
import { formatInstant } from '../../time/instant.ts';
import { at, courseOf, item } from '../../testing/build.ts';
import { proposedDueDates } from './dueDates.ts';

// The course of these tests runs from Mon Aug 31 to Fri Dec 18, 2026: sixteen weeks.
function proposed(...titles: readonly (string | readonly [title: string, due: string])[]) {
  const items = titles.map((t, i) =>
    typeof t === 'string' ? item(`i${i}`, { title: t }) : item(`i${i}`, { title: t[0], dueAt: at(t[1]) }),
  );
  const course = courseOf({ items });
  const found = proposedDueDates(course, (i) => i.dueAt === null);
  return items.map(({ id }) => {
    const of = found.get(id);
    return of ? `${formatInstant(of.due, course.timeZone).slice(5, 16)} ${of.from}` : null;
  });
}

test('a date in a title is the due date, whichever way it is written', () => {
  expect(proposed('Essay 1 (10/14)', 'Field notes, Oct 21', 'Report due on 11/4', 'Map (14 Sep 2026)')).toEqual([
    '10-14T23:59 date',
    '10-21T23:59 date',
    '11-04T23:59 date',
    '09-14T23:59 date',
  ]);
});

test('a date that could be read in two orders, or lies outside the course, proposes nothing by itself', () => {
  expect(proposed('Essay (9/10)')).toEqual([null]);
  expect(proposed('Essay (9/10)', 'Map (10/14)')[0]).toBe('09-10T23:59 date');
  expect(proposed('Essay (Jan 5, 2025)')).toEqual([null]);
});

test.each([
  ['Week 1 quiz', '09-06T23:59 week'],
  ['Watch log, wk 3', '09-20T23:59 week'],
  ['Week 16 log', '12-18T23:59 week'],
])('the week that %s names ends on its due date', (title, due) => {
  expect(proposed(title)).toEqual([due]);
});

test.each(['Week 0', 'Week 40', 'Weekly log', 'Midweek 3'])('%s names no week', (title) => {
  expect(proposed(title)).toEqual([null]);
});

test('a weekly series has one a week, and a shorter one is spread over the term', () => {
  const quizzes = Array.from({ length: 12 }, (_, i) => `Quiz ${i + 1}: tides`);
  expect(proposed(...quizzes).slice(0, 3)).toEqual(['09-06T23:59 number', '09-13T23:59 number', '09-20T23:59 number']);
  expect(proposed('Essay 1', 'Essay 2')).toEqual(['10-25T23:59 number', '12-18T23:59 number']);
});

test('what is left lies between its neighbors', () => {
  expect(proposed('Map', ['Chart', '2026-09-20T23:59'], 'Log', 'Final paper')).toEqual([
    '09-10T23:59 order',
    null,
    '11-04T23:59 order',
    '12-18T23:59 order',
  ]);
});

test('an item whose date is out of order moves none of the others', () => {
  expect(proposed(['Chart', '2026-11-01T23:59'], 'Log', ['Map', '2026-09-20T23:59'], 'Paper')).toEqual([
    null,
    '11-25T23:59 order',
    null,
    '12-18T23:59 order',
  ]);
});

test('every item that is asked about gets one, within the course', () => {
  const titles = ['Essay 1', 'x'.repeat(3000), '12', 'Quiz 999', 'Quiz 1', '(', ',', 'Week 3 (2/30)', 'due due due'];
  const found = proposed(...titles);
  expect(found).not.toContain(null);
  for (const of of found) expect(of! >= '08-31' && of! <= '12-18T23:59 z').toBe(true);
});
