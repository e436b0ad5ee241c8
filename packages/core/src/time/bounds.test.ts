/** Times at their bounds: against Temporal, against days counted one by one, and against hours walked one by one. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { NEW_YORK } from '../testing/build.ts';
import { runs } from '../testing/runs.ts';
import { courseCalendar, dateOf, dayNumberOf, weekdayIndex } from './calendar.ts';
import { difference, durationHours, durationSchema } from './duration.ts';
import { DAY, HOUR, MINUTE, parseInstant } from './instant.ts';
import { isLocalDate } from './localDate.ts';
import { nextRound, rhythmSchema, roundInstants, rruleProblem, type Rhythm } from './rhythm.ts';
import { leavesWindow, windowSchema, windowWords } from './window.ts';
import { isZone, zoneOf } from './zone.ts';

describe('a calendar', () => {
  const breaks = [
    { from: '2026-10-10', to: '2026-10-12' },
    { from: '2026-11-20', to: '2026-11-20' },
    // Begins long before the course and ends long after it: only what lies around the course is looked at.
    { from: '2027-03-01', to: '2027-03-09' },
  ];
  const dates = { timeZone: 'UTC', start: '2026-09-01', end: '2026-12-18', breaks };
  const calendar = courseCalendar(dates);
  const isOpen = (day: number) => !breaks.some((b) => day >= dayNumberOf(b.from) && day <= dayNumberOf(b.to));

  test('course days are days of no break, counted one by one, also far before and after the course', () => {
    const day = fc.integer({ min: dayNumberOf('2024-06-01'), max: dayNumberOf('2029-06-01') });
    fc.assert(
      fc.property(day, fc.integer({ min: 0, max: 900 }), fc.integer({ min: 0, max: DAY - 1 }), (from, n, time) => {
        let to = from;
        for (let left = n; left > 0;) if (isOpen(++to)) left--;
        expect(calendar.addCourseDays(from * DAY + time, n)).toBe(to * DAY + time);
        expect(calendar.isBreakDay(from)).toBe(!isOpen(from));
        if (n === 0 || !isOpen(from)) return;
        expect(calendar.courseDaysBetween(from * DAY + time, to * DAY + time)).toBe(n);
        expect(calendar.courseDaysBetween(from * DAY + time, to * DAY + time - 1)).toBe(n - 1);
      }),
      runs(11, 1000),
    );
  });

  test('at the edges of what is laid out, the first and the last day are days like all others', () => {
    for (const edge of [dayNumberOf(dates.start) - 400, dayNumberOf(dates.end) + 400]) {
      for (let day = edge - 3; day <= edge + 3; day++) {
        expect(calendar.isBreakDay(day)).toBe(false);
        for (const n of [1, 2, 5]) expect(calendar.addCourseDays(day * DAY, n)).toBe((day + n) * DAY);
        expect(calendar.courseDaysBetween(day * DAY, (day + 2) * DAY)).toBe(2);
      }
    }
  });

  test('a break that lies outside what is laid out, or ends there, does no harm', () => {
    const far = courseCalendar({
      ...dates,
      breaks: [
        { from: '2020-01-01', to: '2020-02-01' },
        { from: '2020-01-01', to: '2025-08-01' },
        { from: '2028-01-10', to: '2035-01-01' },
        { from: '2040-01-01', to: '2041-01-01' },
      ],
    });
    const first = dayNumberOf(dates.start) - 400;
    expect(far.isBreakDay(first)).toBe(true);
    expect(far.isBreakDay(first - 1)).toBe(false);
    expect(far.isBreakDay(dayNumberOf('2025-08-01'))).toBe(true);
    expect(far.isBreakDay(dayNumberOf('2025-08-02'))).toBe(false);
    expect(far.isBreakDay(dayNumberOf(dates.end) + 400)).toBe(true);
    expect(far.isBreakDay(dayNumberOf(dates.end) + 401)).toBe(false);
  });

  test('days of no breaks at all are calendar days; hours are added to them', () => {
    const { breaks: _none, ...plain } = dates;
    const without = courseCalendar(plain);
    expect(without.addCourseDays(0, 3)).toBe(3 * DAY);
    const x = Date.UTC(2026, 9, 9, 8);
    expect(calendar.addCourse(x, { days: 1, hours: 2.5 })).toBe(Date.UTC(2026, 9, 13, 10, 30));
    expect(calendar.addCourse(x, { days: 0, hours: 0 })).toBe(x);
    expect(calendar.add(x, { days: 1, hours: 2.5 })).toBe(Date.UTC(2026, 9, 10, 10, 30));
  });

  test('zero course days from a skipped local time are that very instant', () => {
    const there = courseCalendar({ timeZone: NEW_YORK, start: '2026-03-01', end: '2026-05-01' });
    const repeated = parseInstant('2026-11-01T01:30:00-05:00');
    expect(there.addCourseDays(repeated, 0)).toBe(repeated);
  });

  test('a day starts at its own midnight, and weekdays follow Temporal', () => {
    const there = courseCalendar({ timeZone: NEW_YORK, start: '2026-03-01', end: '2026-05-01' });
    expect(there.dayStart(parseInstant('2026-03-08T23:00:00-04:00'))).toBe(parseInstant('2026-03-08T00:00:00-05:00'));
    for (let day = -9; day < 30; day++)
      expect(weekdayIndex(day)).toBe(Temporal.PlainDate.from(dateOf(day)).dayOfWeek - 1);
  });
});

describe('a zone', () => {
  // Reference: Temporal, which follows RFC 9557 and the IANA data of the platform.
  test('agrees with Temporal within a millisecond of each of its changes, in whatever order one asks', () => {
    for (const id of [
      'America/New_York',
      'Australia/Lord_Howe',
      'Africa/Casablanca',
      'Asia/Kolkata',
      'Europe/Dublin',
    ]) {
      const zone = zoneOf(id);
      const points = [Date.UTC(1990, 0, 1), Date.UTC(2059, 11, 31), Date.UTC(2000, 1, 29, 12)];
      let cursor = Temporal.Instant.fromEpochMilliseconds(Date.UTC(2024, 0, 1)).toZonedDateTimeISO(id);
      for (let k = 0; k < 6; k++) {
        const next = cursor.getTimeZoneTransition('next');
        if (!next) break;
        for (const off of [-HOUR, -1, 0, 1, HOUR - 1, HOUR]) points.push(next.epochMilliseconds + off);
        cursor = next;
      }
      for (const t of [...points, ...points.toReversed()]) {
        const there = Temporal.Instant.fromEpochMilliseconds(t).toZonedDateTimeISO(id);
        const wall = Date.parse(`${there.toPlainDateTime().toString({ smallestUnit: 'millisecond' })}Z`);
        expect(zone.toWall(t)).toBe(wall);
        for (const w of [wall, wall - HOUR, wall + HOUR, wall - HOUR / 2, wall + HOUR / 2]) {
          const plain = Temporal.PlainDateTime.from(new Date(w).toISOString().slice(0, 23));
          const expected = plain.toZonedDateTime(id, { disambiguation: 'compatible' }).epochMilliseconds;
          expect(zone.toInstant(w)).toBe(expected);
        }
      }
    }
  });

  test('is known or not, and is the same one when asked for again', () => {
    expect(isZone('America/New_York')).toBe(true);
    expect(isZone('Mars/Olympus_Mons')).toBe(false);
    expect(zoneOf('Europe/Berlin')).toBe(zoneOf('Europe/Berlin'));
  });
});

describe('durations', () => {
  test('are at most ten years in each part', () => {
    const fits = (d: object) => durationSchema.safeParse(d).success;
    expect(fits({ weeks: 522 })).toBe(true);
    expect(fits({ weeks: 523 })).toBe(false);
    expect(fits({ days: 3660 })).toBe(true);
    expect(fits({ days: 3661 })).toBe(false);
    expect(fits({ hours: 3660 * 24 })).toBe(true);
    expect(fits({ hours: 3660 * 24 + 1 })).toBe(false);
    expect(fits({ minutes: 3660 * 24 * 60 })).toBe(true);
    expect(fits({ minutes: 3660 * 24 * 60 + 1 })).toBe(false);
    expect(fits({ days: 1.5 })).toBe(false);
    expect(fits({ days: 1, moons: 1 })).toBe(false);
  });

  test('are taken from one another part by part, and come to hours', () => {
    expect(difference({ days: 5, hours: 3 }, { days: 2, hours: 4 })).toEqual({ days: 3, hours: -1 });
    expect(durationHours({ days: 2, hours: 3 })).toBe(51);
  });
});

describe('windows', () => {
  test('are this week, the last days, or since a date, and nothing else', () => {
    const fits = (w: unknown) => windowSchema.safeParse(w).success;
    expect([{ this: 'week' }, { last: { days: 3660 } }, { since: '2026-09-01' }].every(fits)).toBe(true);
    for (const bad of [{}, { this: 'month' }, { last: {} }, { last: { days: 0 } }, { last: { days: 3661 } }])
      expect(fits(bad)).toBe(false);
    for (const bad of [{ since: '2026-02-30' }, { this: 'week', more: 1 }, { last: { days: 1, hours: 1 } }])
      expect(fits(bad)).toBe(false);
  });

  test('nothing ever leaves where there is none; they are said in words', () => {
    const calendar = courseCalendar({ timeZone: 'UTC', start: '2026-09-01', end: '2026-12-18' });
    expect(leavesWindow(0, undefined, calendar)).toBe(Infinity);
    const say = (date: string) => `<${date}>`;
    expect(windowWords(undefined, say)).toBe('');
    expect(windowWords({ last: { days: 7 } }, say)).toBe(' in the last 7 days');
    expect(windowWords({ since: '2026-09-01' }, say)).toBe(' since <2026-09-01>');
    expect(windowWords({ this: 'week' }, say)).toBe(' this week');
  });
});

describe('local dates and instants', () => {
  test('are whole, and instants carry their offset at the end', () => {
    for (const bad of ['2026-09-1', '12026-09-01', '2026-09-011', 'on 2026-09-01', '2026-02-30', ''])
      expect(isLocalDate(bad)).toBe(false);
    expect(isLocalDate('2028-02-29')).toBe(true);
    for (const bad of ['2026-09-01T10:00', '2026-09-01Z10:00', '2026-09-01T10:00:00+5']) {
      expect(() => parseInstant(bad)).toThrow(RangeError);
    }
    expect(parseInstant('2026-09-01T10:00:00z')).toBe(Date.UTC(2026, 8, 1, 10));
    expect(parseInstant('2026-09-01T10:00:00+0200')).toBe(Date.UTC(2026, 8, 1, 8));
  });
});

describe('rhythms', () => {
  const rhythm = (more: Partial<Rhythm>): Rhythm => ({
    start: '2026-10-30T20:15',
    rrule: 'FREQ=DAILY',
    until: null,
    skipBreaks: false,
    ...more,
  });

  test('of hours are hours walked one by one: exact across a change, days read off the local clock, clipped at both ends', () => {
    const DAYS = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'];
    const cases = [
      { start: '2026-10-30', end: '2026-11-03', from: '2026-10-30T20:15' },
      { start: '2026-03-06', end: '2026-03-11', from: '2026-03-06T05:45' },
      // Begins before the course does.
      { start: '2026-10-31', end: '2026-11-02', from: '2026-10-29T23:00' },
    ];
    for (const { start, end, from } of cases) {
      const calendar = courseCalendar({ timeZone: NEW_YORK, start, end });
      const { zone } = calendar;
      const first = zone.toInstant(Date.parse(`${from}:00Z`));
      for (const interval of [1, 2, 5, 10, 12, 23]) {
        for (const days of [null, ['SU'], ['SA', 'MO']]) {
          for (const until of [null, end, start]) {
            const rrule = `FREQ=HOURLY;INTERVAL=${interval}${days ? `;BYDAY=${days.join()}` : ''}`;
            const expected: number[] = [];
            for (let t = first; t < calendar.end; t += interval * HOUR) {
              const day = calendar.dayNumber(t);
              if (t < calendar.start || (days && !days.includes(DAYS[weekdayIndex(day)]!))) continue;
              if (until === null || day <= dayNumberOf(until)) expected.push(t);
            }
            expect(roundInstants(rhythm({ start: from, rrule, until }), calendar)).toEqual(expected);
          }
        }
      }
    }
  });

  test('of hours without an interval are every hour; a rule may be written in small letters, with its name before it', () => {
    const calendar = courseCalendar({ timeZone: 'UTC', start: '2026-11-01', end: '2026-11-01' });
    const of = (rrule: string) => roundInstants(rhythm({ start: '2026-11-01T00:30', rrule }), calendar);
    expect(of('FREQ=HOURLY')).toHaveLength(24);
    expect(of('rrule:freq=hourly;interval=12')).toEqual(of('FREQ=HOURLY;INTERVAL=12'));
    expect(of('RRULE:FREQ=DAILY')).toEqual([Date.UTC(2026, 10, 1, 0, 30)]);
  });

  test('of days go from the start of the course or of the rhythm to the last minute of the last day', () => {
    const calendar = courseCalendar({ timeZone: NEW_YORK, start: '2026-10-30', end: '2026-11-02' });
    const minutes = (start: string, until: string | null = null) =>
      roundInstants(rhythm({ start, until }), calendar).map((t) => calendar.zone.toWall(t) / MINUTE);
    const at = (local: string) => Date.parse(`${local}:00Z`) / MINUTE;
    expect(minutes('2026-10-01T00:00')).toEqual(
      ['30', '31'].map((d) => at(`2026-10-${d}T00:00`)).concat(['01', '02'].map((d) => at(`2026-11-${d}T00:00`))),
    );
    expect(minutes('2026-11-01T23:59').at(-1)).toBe(at('2026-11-02T23:59'));
    expect(minutes('2026-10-01T23:59', '2026-10-31')).toEqual([at('2026-10-30T23:59'), at('2026-10-31T23:59')]);
    expect(minutes('2026-12-01T10:00')).toEqual([]);
  });

  test('are asked for from one instant to another, both included, and for the next one after', () => {
    const calendar = courseCalendar({ timeZone: 'UTC', start: '2026-11-01', end: '2026-11-30' });
    const daily = rhythm({ start: '2026-11-01T10:00' });
    const all = roundInstants(daily, calendar);
    expect(all).toHaveLength(30);
    expect(roundInstants(daily, calendar, all[3], all[5])).toEqual([all[3], all[4], all[5]]);
    expect(roundInstants(daily, calendar, all[3]! + 1, all[5]! - 1)).toEqual([all[4]]);
    expect(nextRound(daily, calendar, all[3]!)).toBe(all[4]);
    expect(nextRound(daily, calendar, all[3]! - 1)).toBe(all[3]);
    expect(nextRound(daily, calendar, all[29]!)).toBeNull();
    // What is handed out may be changed: the next one who asks gets them all again.
    all.length = 0;
    expect(roundInstants(daily, calendar)).toHaveLength(30);
    expect(roundInstants({ ...daily, until: '2026-11-02' }, calendar)).toHaveLength(2);
  });

  test('leave out breaks only where they are told to', () => {
    const breaks = [{ from: '2026-11-10', to: '2026-11-12' }];
    const calendar = courseCalendar({ timeZone: 'UTC', start: '2026-11-09', end: '2026-11-13', breaks });
    const daily = rhythm({ start: '2026-11-09T10:00' });
    expect(roundInstants(daily, calendar)).toHaveLength(5);
    expect(roundInstants({ ...daily, skipBreaks: true }, calendar)).toHaveLength(2);
    expect(rhythmSchema.parse({ start: '2026-11-09T10:00', rrule: 'FREQ=DAILY' }).skipBreaks).toBe(false);
  });

  test('name what is wrong with a rule, and only then', () => {
    expect(rruleProblem('FREQ=DAILY')).toBeNull();
    expect(rruleProblem('FREQ=HOURLY;BYMINUTE=30')).toBeNull();
    const at = (length: number) => `FREQ=DAILY;BYMONTH=${'1,'.repeat(1000)}`.slice(0, length);
    expect(rruleProblem(at(5000))).toBe('This recurrence rule is too long');
    for (const key of ['UNTIL=20261201', 'COUNT=3', 'DTSTART=20261201'])
      expect(rruleProblem(`FREQ=DAILY;${key}`)).toMatch(/is not used here/);
    expect(rruleProblem('INTERVAL=2')).toBe('A recurrence rule begins with FREQ=');
    for (const freq of ['SECONDLY', 'MINUTELY']) expect(rruleProblem(`FREQ=${freq}`)).toMatch(/at most every hour/);
    expect(rruleProblem('FREQ=FORTNIGHTLY')).toBe('“FORTNIGHTLY” is no frequency');
    expect(rruleProblem('FREQ=DAILY;BYMINUTE=0,30')).toMatch(/at most every hour/);
    expect(rruleProblem('FREQ=DAILY;BYSECOND=30')).toMatch(/at most every hour/);
    expect(rruleProblem('FREQ=DAILY;BYDAY=XX')).toMatch(/cannot be read/);
  });

  test('are read with a start that exists, and a rule that can be read', () => {
    const fits = (more: object) => rhythmSchema.safeParse({ start: '2026-09-01T10:00', rrule: 'FREQ=DAILY', ...more });
    expect(fits({}).success).toBe(true);
    for (const start of [
      '2026-02-30T10:00',
      '2026-13-01T10:00',
      '2026-09-01T24:00',
      '2026-09-01T10:60',
      '2026-09-01',
      '26-09-01T10:00',
      '2026-00-10T10:00',
      '2026-10-00T10:00',
      '2026-10-32T10:00',
      'on 2026-09-01T10:00',
      '2026-09-01T10:00:30',
      '2026-10-1xT10:00',
    ])
      expect(fits({ start }).success).toBe(false);
    for (const start of ['2026-10-31T23:59', '2026-12-09T00:00', '2026-01-20T19:05'])
      expect(fits({ start }).success).toBe(true);
    const broken = fits({ rrule: 'FREQ=NEVER' });
    expect(broken.success).toBe(false);
    expect(broken.error!.issues).toMatchObject([{ path: ['rrule'], message: '“NEVER” is no frequency' }]);
  });
});

describe('days written one after the other', () => {
  test('are the n-th course days up to an instant, from the place that was asked for', () => {
    const calendar = courseCalendar({
      timeZone: NEW_YORK,
      start: '2026-08-31',
      end: '2026-12-18',
      breaks: [
        { from: '2026-10-10', to: '2026-10-14' },
        { from: '2026-10-31', to: '2026-11-02' },
      ],
    });
    const from = fc.integer({ min: calendar.start / MINUTE, max: calendar.end / MINUTE }).map((m) => m * MINUTE);
    fc.assert(
      fc.property(
        from,
        fc.integer({ min: -2, max: 40 }),
        fc.integer({ min: -2, max: 2 }),
        fc.nat(5),
        (x, days, ms, place) => {
          const until = calendar.addCourseDays(x, Math.max(0, days)) + ms;
          const wanted: number[] = [];
          for (let n = 1; calendar.addCourseDays(x, n) < until; n++) wanted.push(calendar.addCourseDays(x, n), n);
          const before = Array.from({ length: place }, (_, i) => -i);
          const into = [...before];
          expect(calendar.courseDaysInto(into, place, x, until)).toBe(place + wanted.length);
          expect(into).toEqual([...before, ...wanted]);
        },
      ),
      runs(100, 1000),
    );
  });
});
