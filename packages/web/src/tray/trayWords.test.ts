import { expect, test } from '@jest/globals';
import { DAY, HOUR } from '@zest-bell/core';
import { passesWords, toOrAbout } from './trayWords.ts';

test('a message goes to a student, or is about one where only others read it', () => {
  const to = (...kinds: ('student' | 'contact')[]) =>
    kinds.map((kind) => ({ kind, name: '', address: `${kind}@saltmarsh.example` }));
  expect(toOrAbout({ name: 'Chidi Aldana', to: to('contact', 'student') })).toBe('to Chidi Aldana');
  expect(toOrAbout({ name: 'Chidi Aldana', to: to('contact') })).toBe('about Chidi Aldana');
});

test('how soon something passes is said in hours, and from two days on in days', () => {
  expect([HOUR - 1, HOUR, 2 * DAY - 1, 2 * DAY, 9 * DAY].map((left) => passesWords(left, 0))).toEqual([
    'passes within the hour',
    'passes in 1 hour',
    'passes in 48 hours',
    'passes in 2 days',
    'passes in 9 days',
  ]);
});
