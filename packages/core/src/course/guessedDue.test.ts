import { expect, test } from '@jest/globals';
import { at, courseOf } from '../testing/build.ts';
import { guessedDue } from './guessedDue.ts';

// The course of these tests runs from Mon Aug 31 to Fri Dec 18, 2026.
test.each([
  ['Week 1 quiz', '2026-09-06T23:59'],
  ['Watch log, wk 3', '2026-09-20T23:59'],
  ['Week 16 log', '2026-12-18T23:59'],
])('%s may be due on %s', (title, due) => {
  expect(guessedDue(title, courseOf({}))).toBe(at(due));
});

test.each(['Quiz 3', 'Week 0', 'Week 40', 'Weekly log', 'Midweek 3'])('%s names no week', (title) => {
  expect(guessedDue(title, courseOf({}))).toBeNull();
});
