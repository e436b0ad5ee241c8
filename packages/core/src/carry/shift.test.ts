import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { makeCourse } from '../course/course.ts';
import { courseOf } from '../testing/build.ts';
import { runs } from '../testing/runs.ts';
import type { Rhythm } from '../time/rhythm.ts';
import { shiftBetween, shiftRhythm } from './shift.ts';

const run = (start: string, end: string, timeZone = 'America/New_York') =>
  makeCourse({ ...courseOf(), start, end, timeZone });
/** The fall of the demo, Monday to Friday, and a spring that begins on a Tuesday. */
const fall = run('2026-08-31', '2026-12-18');
const spring = run('2027-01-12', '2027-05-07');
const rhythm = (more: Partial<Rhythm> = {}): Rhythm => ({
  start: '2026-09-08T09:30',
  rrule: 'FREQ=WEEKLY;BYDAY=TU',
  skipBreaks: false,
  ...more,
});
const shifted = (more: Partial<Rhythm>, target = spring) =>
  shiftRhythm(rhythm(more), shiftBetween(fall, target), target);

describe('[K1] dates move by whole weeks', () => {
  test('from the Monday of the one first week to that of the other', () => {
    const shift = shiftBetween(fall, spring);
    expect(shift.days).toBe(133);
    expect(shift.date('2026-09-14')).toBe('2027-01-25');
    // A start on a Sunday belongs to the week that it ends.
    expect(shiftBetween(run('2026-09-06', '2026-12-18'), spring).days).toBe(133);
    expect(shiftBetween(spring, fall).days).toBe(-133);
  });

  test('weekdays and wall clocks stay, by the calendar of a library that the computation does not use here', () => {
    const day = fc.integer({ min: 0, max: 1500 }).map((n) => Temporal.PlainDate.from('2025-01-01').add({ days: n }));
    const zones = fc.constantFrom('America/New_York', 'Europe/Berlin', 'Asia/Kathmandu', 'UTC');
    fc.assert(
      fc.property(day, day, fc.integer({ min: 0, max: 100 * 24 * 60 }), zones, zones, (a, b, minutes, from, to) => {
        const shift = shiftBetween(
          run(String(a), String(a.add({ days: 110 })), from),
          run(String(b), String(b.add({ days: 110 })), to),
        );
        const monday = (d: Temporal.PlainDate) => d.subtract({ days: d.dayOfWeek - 1 });
        expect(shift.days).toBe(monday(a).until(monday(b), { largestUnit: 'days' }).days);
        const before = a.toZonedDateTime(from).add({ minutes });
        // “compatible”, the default, reads skipped and repeated times as RFC 5545 does.
        const after = before.toPlainDateTime().add({ days: shift.days }).toZonedDateTime(to);
        expect(shift.instant(before.epochMilliseconds)).toBe(after.epochMilliseconds);
      }),
      runs(0x51f7, 200),
    );
  });

  test('a time that the other term’s clock change skips is taken with the offset before, one that occurs twice is the first', () => {
    const at = (text: string, zone: string) => Temporal.ZonedDateTime.from(`${text}[${zone}]`).epochMilliseconds;
    const NY = 'America/New_York';
    // 2027-03-14, 02:30 does not exist in New York; 2026-11-01, 01:30 is there twice.
    const ahead = shiftBetween(run('2027-01-04', '2027-04-30', 'UTC'), run('2027-01-11', '2027-05-07'));
    expect(ahead.instant(at('2027-03-07T02:30', 'UTC'))).toBe(at('2027-03-14T03:30', NY));
    const back = shiftBetween(run('2026-08-24', '2026-12-11', 'UTC'), fall);
    expect(back.instant(at('2026-10-25T01:30', 'UTC'))).toBe(
      Temporal.Instant.from('2026-11-01T01:30-04:00').epochMilliseconds,
    );
  });
});

describe('[K2] a rhythm', () => {
  test('moves; its time stays', () => {
    expect(shifted({}).rhythm.start).toBe('2027-01-19T09:30');
    expect(shifted({ until: '2026-11-02' }).rhythm.until).toBe('2027-03-15');
    expect(shifted({}).rhythm).not.toHaveProperty('until');
  });

  test('that began with the course begins with the other one, and not before it', () => {
    expect(shifted({ start: '2026-08-31T07:00' }).rhythm.start).toBe('2027-01-12T07:00');
    expect(shifted({ start: '2026-08-20T07:00' }).rhythm.start).toBe('2027-01-12T07:00');
    // A Monday of the first week, moved, is the day before the other course begins.
    expect(shifted({ start: '2026-08-31T07:00' }, run('2027-01-13', '2027-05-07')).rhythm.start).toBe(
      '2027-01-13T07:00',
    );
    expect(shifted({ start: '2026-09-01T07:00' }, run('2027-01-13', '2027-05-07')).rhythm.start).toBe(
      '2027-01-13T07:00',
    );
  });

  test('that ended with the course ends with the other one, and not after it', () => {
    expect(shifted({ until: '2026-12-18' }).rhythm.until).toBe('2027-05-07');
    expect(shifted({ until: '2026-12-31' }).rhythm.until).toBe('2027-05-07');
    expect(shifted({ until: '2026-12-14' }, run('2027-01-12', '2027-03-05')).rhythm.until).toBe('2027-03-05');
  });

  test('by weeks without a weekday keeps the weekday it had, before its start is clipped', () => {
    expect(shifted({ start: '2026-08-31T07:00', rrule: 'FREQ=WEEKLY;INTERVAL=2' }).rhythm).toMatchObject({
      start: '2027-01-12T07:00',
      rrule: 'FREQ=WEEKLY;INTERVAL=2;BYDAY=MO',
    });
    expect(shifted({ rrule: 'FREQ=DAILY' }).rhythm.rrule).toBe('FREQ=DAILY');
    expect(shifted({ rrule: 'BYDAY=FR;FREQ=WEEKLY' }).rhythm.rrule).toBe('BYDAY=FR;FREQ=WEEKLY');
  });

  test('says which of its dates somebody has to look at', () => {
    expect(shifted({ until: '2026-09-01', start: '2026-09-08T09:30' })).toMatchObject({
      problems: [{ path: 'until', name: '2027-01-12' }],
    });
    expect(shifted({ until: '2026-09-01' }).rhythm).not.toHaveProperty('until');
    expect(shifted({ start: '2026-12-14T09:30' }, run('2027-01-12', '2027-02-05')).problems).toEqual([
      { path: 'start', name: '2027-04-26' },
    ]);
    for (const rrule of ['FREQ=MONTHLY;BYMONTHDAY=1', 'FREQ=YEARLY;BYMONTH=9;BYDAY=1MO', 'freq=daily;bymonth=9'])
      expect(shifted({ rrule }).problems).toEqual([{ path: 'rrule', name: rrule }]);
    expect(shifted({ rrule: 'FREQ=MONTHLY;BYDAY=1MO' }).problems).toEqual([]);
  });
});
