import { expect, test } from '@jest/globals';
import { offWords } from './decisionWords.ts';
import { setWords } from './sets.ts';

test('of courses that the reader cannot see, nothing is said but that they are there', () => {
  expect(setWords({ courses: 5, hidden: 0, differ: 0 })).toBe('in 5 courses, all the same');
  expect(setWords({ courses: 5, hidden: 0, differ: 1 })).toBe('in 5 courses, 1 differs');
  expect(setWords({ courses: 2, hidden: 1, differ: 0 })).toBe('in 2 courses; 1 that you cannot see');
  expect(setWords({ courses: 3, hidden: 1, differ: 1 })).toBe('in 3 courses, 1 differs; 1 that you cannot see');
});

test('only a rule that was on is paused', () => {
  expect([offWords('draft', false), offWords('paused', false), offWords('paused', true)]).toEqual([
    'draft',
    'off',
    'paused',
  ]);
});
