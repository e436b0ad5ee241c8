/** A calendar, read by a library that did not write it. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import ICAL from 'ical.js';
import { runs } from '../testing/runs.ts';
import { calendarText, folded } from './calendar.ts';

describe('a calendar (RFC 5545)', () => {
  const stamp = Date.UTC(2026, 9, 1);
  const events = [
    {
      uid: 'due-q1@c1',
      sequence: 2,
      stamp,
      summary: 'Tides; quiz, “1”\nlate',
      when: { at: Date.UTC(2026, 9, 5, 3, 59) },
    },
    {
      uid: 'break-1@c1',
      sequence: 0,
      stamp,
      summary: 'Harvest break',
      when: { from: '2026-11-23', until: '2026-11-29' },
    },
  ];

  test('is read by another library as it was meant, whatever the zone of the server', () => {
    const [due, rest] = new ICAL.Component(ICAL.parse(calendarText('NAV 120', events)) as never)
      .getAllSubcomponents('vevent')
      .map((e) => new ICAL.Event(e));
    expect(due!.summary).toBe('Tides; quiz, “1”\nlate');
    expect(due!.startDate.toJSDate().getTime()).toBe(Date.UTC(2026, 9, 5, 3, 59));
    expect([due!.uid, due!.sequence]).toEqual(['due-q1@c1', 2]);
    expect(due!.duration.toSeconds()).toBe(0);
    expect([rest!.startDate.isDate, rest!.startDate.toString(), rest!.endDate.toString()]).toEqual([
      true,
      '2026-11-23',
      '2026-11-30',
    ]);
  });

  test('[§3.1] no line has more than 75 octets, none cuts a character, and unfolding gives the line back', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: 'grapheme', maxLength: 300 }).filter((s) => !/[\r\n]/.test(s)),
        (line) => {
          const lines = folded(line).split('\r\n');
          for (const one of lines) expect(Buffer.byteLength(one)).toBeLessThanOrEqual(75);
          expect(lines.map((l, i) => (i === 0 ? l : l.slice(1))).join('')).toBe(line);
          expect(lines.join('').includes('\uFFFD')).toBe(line.includes('\uFFFD'));
        },
      ),
      runs(255, 200),
    );
  });

  test('any text is read again as it was', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: fc.constantFrom('a', ',', ';', '\\', '\n', 'é', ':', '"'), maxLength: 90 }),
        (summary) => {
          const text = calendarText('x', [{ ...events[0]!, summary: `a${summary}a` }]);
          const event = new ICAL.Component(ICAL.parse(text) as never).getFirstSubcomponent('vevent')!;
          expect(new ICAL.Event(event).summary).toBe(`a${summary}a`);
        },
      ),
      runs(256, 100),
    );
  });
});
