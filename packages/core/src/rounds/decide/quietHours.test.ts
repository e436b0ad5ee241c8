import { describe, expect, test } from '@jest/globals';
import { at, courseOf } from '../../testing/build.ts';
import { MINUTE } from '../../time/instant.ts';
import { firstOpen, isQuiet } from './quietHours.ts';

const course = courseOf();
const night = { from: '21:00', to: '07:00', days: [] };
const noon = { from: '12:00', to: '13:30', days: [] };

describe('[R8] quiet hours', () => {
  test.each([
    // 2026-09-07 is a Monday.
    ['over midnight, before', night, '2026-09-07T20:59', '2026-09-07T20:59'],
    ['over midnight, their first minute', night, '2026-09-07T21:00', '2026-09-08T07:00'],
    ['over midnight, midnight', night, '2026-09-08T00:00', '2026-09-08T07:00'],
    ['over midnight, their last minute', night, '2026-09-08T06:59', '2026-09-08T07:00'],
    ['over midnight, their end', night, '2026-09-08T07:00', '2026-09-08T07:00'],
    ['within a day, before', noon, '2026-09-07T11:59', '2026-09-07T11:59'],
    ['within a day, their first minute', noon, '2026-09-07T12:00', '2026-09-07T13:30'],
    ['within a day, their end', noon, '2026-09-07T13:30', '2026-09-07T13:30'],
    ['of no length', { from: '12:00', to: '12:00', days: [] }, '2026-09-07T12:00', '2026-09-07T12:00'],
    ['with one end only', { from: '12:00', days: [] }, '2026-09-07T12:00', '2026-09-07T12:00'],
    ['with the other end only', { to: '12:00', days: [] }, '2026-09-07T00:30', '2026-09-07T00:30'],
    ['of whole days', { days: ['SA', 'SU'] }, '2026-09-05T12:00', '2026-09-07T00:00'],
    ['of whole days, their first minute', { days: ['SA', 'SU'] }, '2026-09-05T00:00', '2026-09-07T00:00'],
    ['of whole days, the minute before', { days: ['SA', 'SU'] }, '2026-09-04T23:59', '2026-09-04T23:59'],
    ['of days and nights', { ...night, days: ['SA', 'SU'] }, '2026-09-04T22:00', '2026-09-07T07:00'],
    ['of days and an hour at noon', { ...noon, days: ['TU'] }, '2026-09-08T09:00', '2026-09-09T00:00'],
    [
      'of all days but one',
      { ...night, days: ['MO', 'TU', 'WE', 'TH', 'FR', 'SA'] },
      '2026-09-07T12:00',
      '2026-09-13T07:00',
    ],
    [
      'of all days but this one',
      { ...night, days: ['MO', 'TU', 'WE', 'TH', 'FR', 'SA'] },
      '2026-09-13T21:00',
      '2026-09-20T07:00',
    ],
    ['none', null, '2026-09-07T23:00', '2026-09-07T23:00'],
  ])('%s', (_name, quiet, t, open) => {
    expect(firstOpen(at(t), quiet, course)).toBe(at(open));
    if (quiet) expect(isQuiet(at(t), quiet, course)).toBe(t !== open);
  });

  test('the first open moment is the first, minute by minute over a week', () => {
    const quiet = { from: '22:15', to: '06:45', days: ['WE', 'SA'] };
    let open = at('2026-09-14T12:00');
    for (let t = at('2026-09-14T12:00'); t >= at('2026-09-07T00:00'); t -= MINUTE) {
      if (!isQuiet(t, quiet, course)) open = t;
      if (firstOpen(t, quiet, course) !== open) throw new Error(`${new Date(t).toISOString()}`);
    }
  });

  test('that end in the hour that a clock change repeats end at its second pass, once the first is over', () => {
    // New York, Nov 1, 2026: 1:10 AM comes at 05:10Z and again at 06:10Z (IANA time zone database).
    const quiet = { from: '22:00', to: '01:30', days: [] };
    const open = (t: string) => new Date(firstOpen(Date.parse(t), quiet, course)).toISOString();
    expect(open('2026-11-01T05:10:00Z')).toBe('2026-11-01T05:30:00.000Z');
    expect(open('2026-11-01T06:10:00Z')).toBe('2026-11-01T06:30:00.000Z');
    // Between the two passes it is quiet again from 1:00 to 1:30.
    expect(open('2026-11-01T05:40:00Z')).toBe('2026-11-01T05:40:00.000Z');
    expect(open('2026-11-01T06:00:00Z')).toBe('2026-11-01T06:30:00.000Z');
  });

  test('that never end are named', () => {
    const all = { days: ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'] };
    expect(() => firstOpen(at('2026-09-07T12:00'), all, course)).toThrow('no open moment');
  });
});
