/** Sentences that were not so once. */
import { expect, test } from '@jest/globals';
import { clearWords } from '../places/today/Waiting.tsx';
import { storyWords } from '../places/rules/parts/ExampleStrip.tsx';
import { offWords } from './decisionWords.ts';
import { setWords } from './sets.ts';

test('course data is current only where some has come in and somebody watches it', () => {
  expect(clearWords({ hasHeard: false, staleHours: 48 })).toMatch(/No course data has come in yet\.$/);
  expect(clearWords({ hasHeard: true, staleHours: null })).not.toMatch(/current/);
  expect(clearWords({ hasHeard: true, staleHours: 48 })).toMatch(/course data is current/);
});

test('of courses that the reader cannot see, nothing is said but that they are there', () => {
  expect(setWords({ courses: 5, hidden: 0, differ: 0 })).toBe('in 5 courses, all the same');
  expect(setWords({ courses: 5, hidden: 0, differ: 1 })).toBe('in 5 courses, 1 differs');
  expect(setWords({ courses: 2, hidden: 1, differ: 0 })).toBe('in 2 courses; 1 that you cannot see');
  expect(setWords({ courses: 3, hidden: 1, differ: 1 })).toBe('in 3 courses, 1 differs; 1 that you cannot see');
});

test('only a rule that has run is paused', () => {
  expect([offWords('draft', false), offWords('paused', false), offWords('paused', true)]).toEqual([
    'draft',
    'off',
    'paused',
  ]);
});

test('what ends the example is said only where it happens while the rule runs', () => {
  const day = (date: string) => Date.parse(`${date}T16:00:00Z`);
  const line = { lastSeen: null, from: 0, until: 0, rounds: [], marks: [], isOver: true };
  const one = [[day('2026-10-27'), day('2026-11-01')]] as const;
  const words = (story: 'notDone' | 'missing' | 'away', more: object = {}) =>
    storyWords({ ...line, story, spells: one, ...more }, 'America/New_York');
  expect(words('notDone')).toBe('A student matches from Tue Oct 27 and does it on Sun Nov 1.');
  expect(words('notDone', { isOver: false })).toBe('A student matches from Tue Oct 27 and does not do it.');
  expect(words('missing')).toBe('A student matches from Tue Oct 27 and catches up on Sun Nov 1.');
  expect(words('away', { isOver: false, lastSeen: day('2026-10-22') })).toBe(
    'A student was last here on Thu Oct 22, so matches from Tue Oct 27, and does not come back.',
  );
});
