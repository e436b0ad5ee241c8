import { describe, expect, test } from '@jest/globals';
import { DAY, HOUR } from '@zest-bell/core/time';
import type { TrayLine } from '@zest-bell/core/exchange';
import { namesOf, passesWords, toOrAbout, trayEntries } from './trayWords.ts';

test('a message goes to a student, or is about one where only others read it', () => {
  expect(toOrAbout({ name: 'Chidi Aldana', toStudent: true })).toBe('to Chidi Aldana');
  expect(toOrAbout({ name: 'Chidi Aldana', toStudent: false })).toBe('about Chidi Aldana');
});

test('how long somebody still matches is said in hours, and from two days on in days', () => {
  expect([HOUR - 1, HOUR, 2 * DAY - 1, 2 * DAY, 9 * DAY].map((left) => passesWords(left, 0))).toEqual([
    'matches for less than an hour',
    'matches for 1 more hour',
    'matches for 48 more hours',
    'matches for 2 more days',
    'matches for 9 more days',
  ]);
});

describe('the list', () => {
  const line = (nudge: number, together: string | null = null): TrayLine =>
    ({ nudge, together, name: `Student ${nudge}` }) as TrayLine;
  const lines = [line(1), line(2, 'list'), line(3), line(4, 'list'), line(5, 'alone')];
  const seen = (opened: readonly string[] = []) =>
    trayEntries(lines, new Set(opened)).map((e) => `${e.inside ? '- ' : ''}${e.lines.map((l) => l.nudge).join('+')}`);

  test('students of one message are one line, at the place of the first of them', () => {
    expect(seen()).toEqual(['1', '2+4', '3', '5']);
  });

  test('opened, they stand below it one by one', () => {
    expect(seen(['list'])).toEqual(['1', '2+4', '- 2', '- 4', '3', '5']);
  });

  test('a long list of names says how many more there are', () => {
    expect(namesOf(lines)).toBe('Student 1, Student 2 and 3 more students');
    expect(namesOf(lines.slice(0, 2))).toBe('Student 1 and Student 2');
  });
});
