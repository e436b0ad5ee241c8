import { describe, expect, test } from '@jest/globals';
import { at, courseOf, NEW_YORK } from '../testing/build.ts';
import { courseCalendar } from './calendar.ts';
import { formatInstant } from './instant.ts';
import { nextRound, rhythmSchema, roundInstants, rruleProblem, type Rhythm } from './rhythm.ts';

/** Rounds in a course of the years 1997–2007, the years of the RFC's examples; dates as `MM-DD` of the first ones. */
function rfc(rrule: string, count: number, start = '1997-09-02T09:00', until: string | null = null): string[] {
  const calendar = courseCalendar({ timeZone: NEW_YORK, start: '1997-01-01', end: '2007-12-31' });
  const rhythm: Rhythm = { start, rrule, until, skipBreaks: false };
  return roundInstants(rhythm, calendar)
    .slice(0, count)
    .map((t) => formatInstant(t, NEW_YORK).slice(0, 16));
}

const nineAm = (...dates: string[]) => dates.map((d) => `${d}T09:00`);

describe('recurrences of RFC 5545 §3.8.5.3, DTSTART;TZID=America/New_York:19970902T090000', () => {
  // The examples' UNTIL and COUNT are given here as the last date or by taking as many.
  test('[R1] daily until December 24, 1997 goes on across the change to standard time', () => {
    const all = rfc('FREQ=DAILY', 1000, '1997-09-02T09:00', '1997-12-23');
    expect(all).toHaveLength(113);
    expect(all.at(-1)).toBe('1997-12-23T09:00');
  });

  test('every other day', () => {
    expect(rfc('FREQ=DAILY;INTERVAL=2', 4)).toEqual(nineAm('1997-09-02', '1997-09-04', '1997-09-06', '1997-09-08'));
  });

  test('every 10 days, 5 occurrences', () => {
    expect(rfc('FREQ=DAILY;INTERVAL=10', 5)).toEqual(
      nineAm('1997-09-02', '1997-09-12', '1997-09-22', '1997-10-02', '1997-10-12'),
    );
  });

  test('every day in January', () => {
    const all = rfc('FREQ=DAILY;BYMONTH=1', 1000, '1998-01-01T09:00', '2000-01-31');
    expect(all).toHaveLength(93);
    expect(all[31]).toBe('1999-01-01T09:00');
  });

  test('weekly for 10 occurrences', () => {
    expect(rfc('FREQ=WEEKLY', 10)).toEqual(
      nineAm(
        '1997-09-02',
        '1997-09-09',
        '1997-09-16',
        '1997-09-23',
        '1997-09-30',
        '1997-10-07',
        '1997-10-14',
        '1997-10-21',
        '1997-10-28',
        '1997-11-04',
      ),
    );
  });

  test('every other week on Monday, Wednesday and Friday, starting on Monday, September 1, 1997', () => {
    expect(rfc('FREQ=WEEKLY;INTERVAL=2;WKST=SU;BYDAY=MO,WE,FR', 7, '1997-09-01T09:00')).toEqual(
      nineAm('1997-09-01', '1997-09-03', '1997-09-05', '1997-09-15', '1997-09-17', '1997-09-19', '1997-09-29'),
    );
  });

  test('weekly on Tuesday and Thursday for five weeks', () => {
    expect(rfc('FREQ=WEEKLY;WKST=SU;BYDAY=TU,TH', 10)).toEqual(
      nineAm(
        '1997-09-02',
        '1997-09-04',
        '1997-09-09',
        '1997-09-11',
        '1997-09-16',
        '1997-09-18',
        '1997-09-23',
        '1997-09-25',
        '1997-09-30',
        '1997-10-02',
      ),
    );
  });

  test('monthly on the first Friday', () => {
    expect(rfc('FREQ=MONTHLY;BYDAY=1FR', 4, '1997-09-05T09:00')).toEqual(
      nineAm('1997-09-05', '1997-10-03', '1997-11-07', '1997-12-05'),
    );
  });

  test('every Friday the 13th', () => {
    expect(rfc('FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13', 5)).toEqual(
      nineAm('1998-02-13', '1998-03-13', '1998-11-13', '1999-08-13', '2000-10-13'),
    );
  });

  test('every 3 hours from 9 AM to 5 PM on a day', () => {
    expect(rfc('FREQ=HOURLY;INTERVAL=3', 3)).toEqual(['1997-09-02T09:00', '1997-09-02T12:00', '1997-09-02T15:00']);
  });

  test('the week’s start matters', () => {
    const weeks = (wkst: string) => rfc(`FREQ=WEEKLY;INTERVAL=2;BYDAY=TU,SU;WKST=${wkst}`, 4, '1997-08-05T09:00');
    expect(weeks('MO')).toEqual(nineAm('1997-08-05', '1997-08-10', '1997-08-19', '1997-08-24'));
    expect(weeks('SU')).toEqual(nineAm('1997-08-05', '1997-08-17', '1997-08-19', '1997-08-31'));
  });
});

describe('a rhythm in a course', () => {
  const rounds = (rhythm: Partial<Rhythm>, story = {}) =>
    roundInstants(
      { start: '2026-09-08T09:30', rrule: 'FREQ=DAILY', until: null, skipBreaks: false, ...rhythm },
      courseOf(story).calendar,
    );

  // RFC 5545 §3.3.5: a local time that does not occur is taken with the offset before the gap; one that occurs twice is
  // the first. New York, 2007: March 11 02:30 does not occur, November 4 01:30 occurs twice.
  test('[R1] a skipped local time is taken with the offset before, a repeated one is its first', () => {
    const calendar = courseCalendar({ timeZone: NEW_YORK, start: '2007-03-10', end: '2007-11-05' });
    const daily = (start: string) =>
      roundInstants({ start, rrule: 'FREQ=DAILY', until: null, skipBreaks: false }, calendar).map((t) =>
        formatInstant(t, NEW_YORK),
      );
    expect(daily('2007-03-10T02:30').slice(0, 3)).toEqual([
      '2007-03-10T02:30:00-05:00',
      '2007-03-11T03:30:00-04:00',
      '2007-03-12T02:30:00-04:00',
    ]);
    expect(daily('2007-11-03T01:30')).toEqual([
      '2007-11-03T01:30:00-04:00',
      '2007-11-04T01:30:00-04:00',
      '2007-11-05T01:30:00-05:00',
    ]);
  });

  test('[R1] hours are exact across a clock change, and their weekdays are local', () => {
    const calendar = courseCalendar({ timeZone: NEW_YORK, start: '2026-10-30', end: '2026-11-05' });
    const every6 = roundInstants(
      { start: '2026-10-31T20:00', rrule: 'FREQ=HOURLY;INTERVAL=6;BYDAY=SU', until: null, skipBreaks: false },
      calendar,
    );
    expect(every6.map((t) => formatInstant(t, NEW_YORK))).toEqual([
      '2026-11-01T01:00:00-05:00',
      '2026-11-01T07:00:00-05:00',
      '2026-11-01T13:00:00-05:00',
      '2026-11-01T19:00:00-05:00',
    ]);
  });

  test('[R1] rounds are clipped to the course, its end or the last date included', () => {
    expect(rounds({}).at(-1)).toBe(at('2026-12-18T09:30'));
    expect(rounds({ until: '2026-09-10' })).toEqual([
      at('2026-09-08T09:30'),
      at('2026-09-09T09:30'),
      at('2026-09-10T09:30'),
    ]);
    expect(rounds({ start: '2026-08-01T09:30' })[0]).toBe(at('2026-08-31T09:30'));
  });

  test('[R1] break dates are skipped where the rule says so', () => {
    const breaks = [{ from: '2026-11-23', to: '2026-11-29' }];
    const from = { start: '2026-11-22T09:30', until: '2026-11-30' };
    expect(rounds({ ...from, skipBreaks: true }, { breaks })).toEqual([at('2026-11-22T09:30'), at('2026-11-30T09:30')]);
    expect(rounds({ ...from }, { breaks })).toHaveLength(9);
  });

  test('the next round is found over a long break, and there is none after the end', () => {
    const calendar = courseOf({ breaks: [{ from: '2026-09-10', to: '2026-11-20' }] }).calendar;
    const rhythm: Rhythm = { start: '2026-09-08T09:30', rrule: 'FREQ=DAILY', until: null, skipBreaks: true };
    expect(nextRound(rhythm, calendar, at('2026-09-09T09:30'))).toBe(at('2026-11-21T09:30'));
    expect(nextRound(rhythm, calendar, at('2026-12-18T09:30'))).toBeNull();
  });

  test('[R1] UNTIL, COUNT and frequencies under an hour are refused in words', () => {
    expect(rruleProblem('FREQ=DAILY;COUNT=3')).toMatch(/COUNT/);
    expect(rruleProblem('FREQ=DAILY;UNTIL=20261101T000000Z')).toMatch(/UNTIL/);
    expect(rruleProblem('FREQ=MINUTELY')).toMatch(/every hour/);
    expect(rruleProblem('BYDAY=MO')).toMatch(/FREQ/);
    expect(rruleProblem('FREQ=WEEKLY;BYDAY=XX')).not.toBeNull();
    expect(rruleProblem('FREQ=WEEKLY;BYDAY=MO')).toBeNull();
    expect(rhythmSchema.safeParse({ start: '2026-02-31T09:30', rrule: 'FREQ=DAILY' }).success).toBe(false);
  });
});

describe('[R1] at the edges of a run', () => {
  const fall = courseCalendar({ timeZone: 'America/New_York', start: '2026-10-30', end: '2026-11-03', breaks: [] });
  const spring = courseCalendar({ timeZone: 'America/New_York', start: '2027-03-12', end: '2027-03-16', breaks: [] });
  const local = (t: number) => new Date(fall.zone.toWall(t)).toISOString().slice(5, 16);
  const looks = (calendar: typeof fall, start: string, rrule: string, until?: string) =>
    roundInstants({ start, rrule, until, skipBreaks: false }, calendar).map(local);

  // In New York clocks go back on 2026-11-01 and forward on 2027-03-14 (IANA time zone database).
  test('hours that are named are read off the clock, before and after it changes', () => {
    expect(looks(fall, '2026-10-30T00:00', 'FREQ=HOURLY;BYHOUR=9')).toEqual(
      ['10-30', '10-31', '11-01', '11-02', '11-03'].map((d) => `${d}T09:00`),
    );
    expect(looks(spring, '2027-03-12T00:00', 'FREQ=HOURLY;BYHOUR=9,21')).toEqual(
      ['03-12', '03-13', '03-14', '03-15', '03-16'].flatMap((d) => [`${d}T09:00`, `${d}T21:00`]),
    );
    expect(looks(fall, '2026-10-30T00:30', 'FREQ=HOURLY;BYDAY=SU;BYHOUR=0,1,2,3')).toEqual([
      '11-01T00:30',
      '11-01T01:30',
      // The hour that comes twice.
      '11-01T01:30',
      '11-01T02:30',
      '11-01T03:30',
    ]);
  });

  test('steps of hours are exact across a change, from the first look on', () => {
    const steps = roundInstants(
      { start: '2026-10-31T20:00', rrule: 'FREQ=HOURLY;INTERVAL=5', skipBreaks: false },
      fall,
    );
    expect(steps.slice(0, 4).map(local)).toEqual(['10-31T20:00', '11-01T01:00', '11-01T05:00', '11-01T10:00']);
    for (let i = 1; i < steps.length; i++) expect(steps[i]! - steps[i - 1]!).toBe(5 * 3_600_000);
    // Begun before the course, the steps keep their place.
    const earlier = roundInstants(
      { start: '2026-10-28T01:00', rrule: 'FREQ=HOURLY;INTERVAL=7', skipBreaks: false },
      fall,
    );
    expect(local(earlier[0]!)).toBe('10-30T02:00');
    expect(
      earlier.every((t) => (t - fall.zone.toInstant(Date.parse('2026-10-28T01:00Z'))) % (7 * 3_600_000) === 0),
    ).toBe(true);
  });

  test('the first and last minute of the course belong to it, and of a last day of its own too', () => {
    const midnight = looks(fall, '2026-10-29T00:00', 'FREQ=DAILY');
    expect([midnight[0], midnight.at(-1), midnight.length]).toEqual(['10-30T00:00', '11-03T00:00', 5]);
    expect(looks(fall, '2026-10-29T23:59', 'FREQ=DAILY').at(-1)).toBe('11-03T23:59');
    expect(looks(fall, '2026-10-29T23:59', 'FREQ=DAILY', '2026-11-01').at(-1)).toBe('11-01T23:59');
    expect(looks(fall, '2026-10-29T00:00', 'FREQ=DAILY', '2026-11-01').at(-1)).toBe('11-01T00:00');
    expect(looks(fall, '2026-11-05T09:00', 'FREQ=DAILY')).toEqual([]);
    expect(looks(fall, '2026-10-29T09:00', 'FREQ=DAILY', '2026-10-29')).toEqual([]);
  });

  test('a rule may be as long as every part with every value, and no longer', () => {
    const rule = (length: number) => `FREQ=DAILY;BYHOUR=9${',9'.repeat((length - 19) / 2)}`.padEnd(length, ';');
    expect(rruleProblem(rule(601))).toBe('This recurrence rule is too long');
    expect(rruleProblem(rule(599))).not.toBe('This recurrence rule is too long');
    expect(rruleProblem('x'.repeat(600))).toBe('A recurrence rule begins with FREQ=');
    expect(rruleProblem('FREQ=DAILY;BYMINUTE=30')).toBeNull();
    expect(rruleProblem('FREQ=DAILY;BYMINUTE=0,30')).toBe('A rule looks at most every hour');
    expect(rruleProblem('RRULE:FREQ=DAILY')).not.toBeNull();
  });
});
