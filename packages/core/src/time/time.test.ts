import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { at, courseOf, NEW_YORK } from '../testing/build.ts';
import { DAY, HOUR, formatInstant, parseInstant } from './instant.ts';
import { durationSchema } from './duration.ts';
import { courseCalendar } from './calendar.ts';
import { zoneOf } from './zone.ts';
import { leavesWindow } from './window.ts';
import { complement, contains, intersection, stretchAt, union, type Stretches } from './stretches.ts';
import { runs } from '../testing/runs.ts';

describe('instants and durations', () => {
  test('[T1] an instant is read with its offset and written in the course’s zone', () => {
    const t = parseInstant('2026-09-21T13:30:00Z');
    expect(formatInstant(t, NEW_YORK)).toBe('2026-09-21T09:30:00-04:00');
    expect(() => parseInstant('2026-09-21T13:30:00')).toThrow(RangeError);
  });

  test('[T2] weeks are 7 days, minutes sixtieths of an hour, and days keep the wall-clock time', () => {
    expect(durationSchema.parse({ weeks: 1, days: 2, minutes: 30 })).toEqual({ days: 9, hours: 0.5 });
    const { calendar } = courseOf();
    // Across the end of summer time on 2026-11-01 a calendar day has 25 hours, an hour stays one.
    expect(calendar.add(at('2026-10-31T12:00'), { days: 1, hours: 0 })).toBe(at('2026-11-01T12:00'));
    expect(calendar.add(at('2026-10-31T12:00'), { days: 0, hours: 24 })).toBe(at('2026-11-01T11:00'));
  });

  test('[T3] a course runs from 00:00 of its first day to the end of its last', () => {
    const { calendar } = courseOf();
    expect(calendar.start).toBe(at('2026-08-31T00:00'));
    expect(calendar.end).toBe(at('2026-12-19T00:00'));
  });

  test('[T4] course days leave breaks out', () => {
    const { calendar } = courseOf({ breaks: [{ from: '2026-11-23', to: '2026-11-29' }] });
    const friday = at('2026-11-20T10:00');
    expect(calendar.addCourseDays(friday, 2)).toBe(at('2026-11-22T10:00'));
    expect(calendar.addCourseDays(friday, 3)).toBe(at('2026-11-30T10:00'));
    expect(calendar.courseDaysBetween(friday, at('2026-11-30T09:59'))).toBe(2);
    expect(calendar.courseDaysBetween(friday, at('2026-11-30T10:00'))).toBe(3);
  });

  test('[T5] something lies within the last n days until exactly n days later', () => {
    const { calendar } = courseOf();
    const x = at('2026-09-01T14:03');
    expect(leavesWindow(x, { last: { days: 7 } }, calendar)).toBe(at('2026-09-08T14:03'));
  });

  test('[M4] this week is from Monday 00:00; since is from 00:00 of its date', () => {
    const { calendar } = courseOf();
    expect(leavesWindow(at('2026-09-02T10:00'), { this: 'week' }, calendar)).toBe(at('2026-09-07T00:00'));
    expect(leavesWindow(at('2026-09-07T00:00'), { this: 'week' }, calendar)).toBe(at('2026-09-14T00:00'));
    expect(leavesWindow(at('2026-09-06T23:59'), { since: '2026-09-07' }, calendar)).toBeNull();
    expect(leavesWindow(at('2026-09-07T00:00'), { since: '2026-09-07' }, calendar)).toBe(Infinity);
  });
});

describe('zones', () => {
  // Reference: Temporal itself, which follows RFC 9557 and the IANA data of the platform.
  test('wall-clock arithmetic agrees with Temporal in zones of both hemispheres and of half hours', () => {
    const zones = ['America/New_York', 'Europe/Berlin', 'Australia/Lord_Howe', 'Asia/Kolkata', 'America/St_Johns'];
    const minute = fc.integer({ min: Date.UTC(2025, 0) / 60_000, max: Date.UTC(2028, 0) / 60_000 });
    fc.assert(
      fc.property(fc.constantFrom(...zones), minute, (id, m) => {
        const zone = zoneOf(id);
        const t = m * 60_000;
        const there = Temporal.Instant.fromEpochMilliseconds(t).toZonedDateTimeISO(id);
        expect(zone.toWall(t)).toBe(Date.parse(`${there.toPlainDateTime().toString({ smallestUnit: 'second' })}Z`));
        const plain = Temporal.PlainDateTime.from(new Date(t).toISOString().slice(0, 19));
        expect(zone.toInstant(t)).toBe(plain.toZonedDateTime(id, { disambiguation: 'compatible' }).epochMilliseconds);
      }),
      runs(7, 1000),
    );
  });

  test('course days agree with counting dates one by one', () => {
    const calendar = courseCalendar({
      timeZone: NEW_YORK,
      start: '2026-08-31',
      end: '2026-12-18',
      breaks: [{ from: '2026-10-31', to: '2026-11-03' }],
    });
    const instant = fc.integer({ min: at('2026-10-20T00:00') / 60_000, max: at('2026-11-15T00:00') / 60_000 });
    fc.assert(
      fc.property(instant, fc.integer({ min: 0, max: 20 * 24 * 60 }), (m, later) => {
        const x = m * 60_000;
        const t = x + later * 60_000;
        let n = 0;
        while (calendar.addCourseDays(x, n + 1) <= t) n++;
        expect(calendar.courseDaysBetween(x, t)).toBe(n);
      }),
      runs(7, 300),
    );
  });
});

describe('stretches', () => {
  const small = fc
    .uniqueArray(fc.integer({ min: 0, max: 40 }), { maxLength: 12 })
    .map((xs): Stretches => xs.sort((a, b) => a - b).slice(0, xs.length - (xs.length % 2)));
  const points = Array.from({ length: 43 }, (_, i) => i - 1);

  test('[C4] union, intersection and complement hold point by point and stay sorted and disjoint', () => {
    fc.assert(
      fc.property(small, small, (a, b) => {
        for (const t of points) {
          expect(contains(union(a, b), t)).toBe(contains(a, t) || contains(b, t));
          expect(contains(intersection(a, b), t)).toBe(contains(a, t) && contains(b, t));
          expect(contains(complement(a), t)).toBe(!contains(a, t));
        }
        for (const s of [union(a, b), intersection(a, b), complement(a)]) {
          for (let i = 1; i < s.length; i++) expect(s[i]!).toBeGreaterThan(s[i - 1]!);
        }
      }),
      { seed: 7 },
    );
  });

  test('[C6] touching stretches are one spell', () => {
    expect(union([0, 5], [5, 9])).toEqual([0, 9]);
    expect(stretchAt([0, 9], 5)).toEqual({ start: 0, end: 9 });
    expect(stretchAt([0, 9], 9)).toBeNull();
  });
});

test('the constants are what they say', () => {
  expect(DAY).toBe(24 * HOUR);
});
