/** Dates as people read them. What the words are is the project's own choice; the days of the week are the calendar's. */
import { describe, expect, test } from '@jest/globals';
import { at, NEW_YORK } from '../testing/build.ts';
import { formatInstant, parseInstant } from './instant.ts';
import { isLocalDate, localDateSchema } from './localDate.ts';
import {
  clockWords,
  dateWords,
  dayWords,
  durationWords,
  instantWords,
  listWords,
  longDayWords,
  numberWords,
  oneDecimal,
  percentWords,
  plural,
  timeWords,
  weekdayDateWords,
} from './words.ts';

describe('dates and times in words', () => {
  // 2026-10-20 is a Tuesday (ISO 8601 week date 2026-W43-2).
  const evening = at('2026-10-20T21:14');

  test('are those of the course’s zone, with plain spaces', () => {
    expect(dayWords(evening, NEW_YORK)).toBe('Tue Oct 20');
    expect(timeWords(evening, NEW_YORK)).toBe('9:14 PM');
    expect(instantWords(evening, NEW_YORK)).toBe('Tue Oct 20, 9:14 PM');
    expect(longDayWords(evening, NEW_YORK)).toBe('Tuesday, October 20');
    expect(instantWords(evening, 'UTC')).toBe('Wed Oct 21, 1:14 AM');
    // A second reading comes from the same formats.
    expect(instantWords(at('2026-11-02T09:05'), NEW_YORK)).toBe('Mon Nov 2, 9:05 AM');
  });

  test('of a date or a time of day that belongs to no zone', () => {
    expect(dateWords('2026-09-08')).toBe('Sep 8');
    expect(dateWords('2026-12-31')).toBe('Dec 31');
    expect(['09:30', '16:00', '00:00', '12:05'].map(clockWords)).toEqual(['9:30 AM', '4 PM', '12 AM', '12:05 PM']);
  });
});

describe('numbers, spans and lists in words', () => {
  test('one is one, and anything else is many', () => {
    expect([0, 1, 2, 1.5].map((n) => plural(n, 'day'))).toEqual(['0 days', '1 day', '2 days', '1.5 days']);
    expect([1, 3].map((n) => plural(n, 'is', 'are'))).toEqual(['1 is', '3 are']);
  });

  test('[M1] at most two decimals are shown', () => {
    expect([66.666, 65.005, 70, 0.1].map(numberWords)).toEqual(['66.67', '65.01', '70', '0.1']);
    expect([999.99, 999.996, 1000, 2000.456, 1234567].map(numberWords)).toEqual([
      '999.99',
      '1,000',
      '1,000',
      '2,000.46',
      '1,234,567',
    ]);
    expect([-999, -1000, 0, -0.001].map(numberWords)).toEqual(['-999', '-1,000', '0', '0']);
  });

  test('a span is days and hours, and none is at once', () => {
    const spans = [
      { days: 0, hours: 0 },
      { days: 1, hours: 0 },
      { days: 0, hours: 12 },
      { days: 2, hours: 1 },
    ];
    expect(spans.map(durationWords)).toEqual(['at once', '1 day', '12 hours', '2 days and 1 hour']);
  });

  test('a list ends with its joiner', () => {
    expect([[], ['a'], ['a', 'b'], ['a', 'b', 'c']].map((words) => listWords(words))).toEqual([
      '',
      'a',
      'a and b',
      'a, b and c',
    ]);
    expect(listWords(['a', 'b'], 'or')).toBe('a or b');
  });
});

describe('dates and instants as they are written', () => {
  test('a date is ten characters, and there is such a day (ISO 8601, leap years of the Gregorian calendar)', () => {
    const dates = ['2026-09-08', '2028-02-29', '2000-02-29', '2026-12-31'];
    expect(dates.filter(isLocalDate)).toEqual(dates);
    const none = [
      '2026-02-29',
      '2100-02-29',
      '2026-13-01',
      '2026-00-10',
      '2026-04-31',
      '2026-9-8',
      'x2026-09-08',
      '2026-09-08T',
      '',
    ];
    expect(none.filter(isLocalDate)).toEqual([]);
    expect(localDateSchema.safeParse('2026-02-30').error?.issues[0]?.message).toBe('Write a date as 2026-09-08');
  });

  test('[T1] an instant has an offset in any of the forms of RFC 3339 and ISO 8601', () => {
    const same = [
      '2026-09-21T13:30:00Z',
      '2026-09-21T13:30:00z',
      '2026-09-21T09:30:00-04:00',
      '2026-09-21T19:00:00+05:30',
    ];
    for (const text of [...same, '2026-09-21T09:30-04']) expect(parseInstant(text)).toBe(Date.UTC(2026, 8, 21, 13, 30));
    for (const text of ['2026-09-21', '2026-09-21T13:30', '2026-09-21T13:30Z!', 'Z'])
      expect(() => parseInstant(text)).toThrow(RangeError);
    expect(() => parseInstant('2026-09-21T13:30')).toThrow('An instant needs an offset');
  });

  test('[T1] parts of a second are written where there are any', () => {
    const t = Date.UTC(2026, 8, 21, 13, 30);
    expect(formatInstant(t + 250, NEW_YORK)).toBe('2026-09-21T09:30:00.250-04:00');
    expect(formatInstant(t + 5000, 'UTC')).toBe('2026-09-21T13:30:05+00:00');
  });
});

describe('numbers and lists in words', () => {
  test('a percent has one decimal, and three where one would read as the threshold beside it', () => {
    expect(percentWords(64.94)).toBe('64.9%');
    expect(percentWords(64.98)).toBe('65%');
    expect(percentWords(64.98, 65)).toBe('64.98%');
    expect(percentWords(65, 65)).toBe('65%');
    expect(percentWords(64.9, 65)).toBe('64.9%');
    expect(percentWords(65.04, 65)).toBe('65.04%');
    expect(percentWords(0)).toBe('0%');
  });

  test('decimals end where they say nothing', () => {
    expect(oneDecimal(2)).toBe('2');
    expect(oneDecimal(2.04)).toBe('2');
    expect(oneDecimal(2.26)).toBe('2.3');
    expect(weekdayDateWords('2026-10-20')).toBe('Tue Oct 20');
  });

  test('where something has a comma of its own, the others are parted by semicolons', () => {
    expect(listWords(['Watch log, week 1', 'Chart lab'])).toBe('Watch log, week 1; and Chart lab');
    expect(listWords(['a', 'b, c', 'd'], 'or')).toBe('a; b, c; or d');
    expect(listWords(['a', 'b', 'c'])).toBe('a, b and c');
  });
});
