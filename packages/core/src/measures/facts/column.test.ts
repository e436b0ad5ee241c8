import { describe, expect, test } from '@jest/globals';
import { at, factsOf, item, person } from '../../testing/build.ts';
import { measureColumn, momentColumn, packColumn, timelineIn, unpackColumn } from './column.ts';
import type { MeasureCall } from '../values/measure.ts';
import { valueSaidAt } from '../values/timeline.ts';

const facts = factsOf({
  people: [
    person('p1', { fields: { group: 'Tide', attendance: '0' } }),
    person('p2', { fields: { group: 'Tide' } }),
    person('p3', { enrolledAt: at('2026-09-20T00:00'), fields: { group: '' } }),
  ],
  items: [
    item('q1', { dueAt: at('2026-09-13T23:59') }),
    item('q2', { excused: ['p2'], dueAt: at('2026-09-30T12:00') }),
  ],
  events: [
    ['p1', 'visit', '2026-09-02T10:00'],
    ['p1', 'submit', '2026-09-12T10:00', 'q1'],
    ['p2', 'visit', '2026-09-09T10:00'],
  ],
  grades: [['p1', 'q1', 9, '2026-09-15T08:00']],
});
const now = at('2026-09-21T09:30');
const CALLS: readonly MeasureCall[] = [
  { measure: 'daysSinceVisit' },
  { measure: 'submitted', item: 'q1' },
  { measure: 'score', item: 'q1' },
  { measure: 'hoursUntilDue', item: 'q2' },
  { measure: 'submitted', item: 'q2' },
  { measure: 'field', name: 'group' },
  { measure: 'field', name: 'attendance' },
];

describe('a column of a measure', () => {
  test.each(CALLS)('%j says of everybody what the history says, also after it was sent', (call) => {
    const column = measureColumn(call, facts, now);
    const sent = unpackColumn(packColumn(column));
    expect(sent).not.toBeNull();
    facts.course.people.forEach((_, i) => {
      expect(timelineIn(sent!, i)).toEqual(facts.timeline(i, call));
      expect(sent!.facts[i]).toEqual(JSON.parse(JSON.stringify(facts.fact(i, call, now))));
    });
  });

  test.each(CALLS)('%j at one instant alone has the same values, whatever the instant, and no facts', (call) => {
    for (const t of [now, at('2026-09-10T12:00'), at('2026-09-19T12:00'), at('2026-08-01T12:00')]) {
      const sent = unpackColumn(packColumn(momentColumn(call, facts, t)))!;
      expect(sent.facts).toEqual([]);
      facts.course.people.forEach((_, i) =>
        expect(valueSaidAt(timelineIn(sent, i), t)).toEqual(valueSaidAt(facts.timeline(i, call), t)),
      );
    }
  });

  test('keeps a text once, however many have it', () => {
    expect(measureColumn({ measure: 'field', name: 'group' }, facts, now).texts).toEqual(['Tide']);
  });

  test('of other bytes is none', () => {
    expect(unpackColumn(new Uint8Array(40))).toBeNull();
    expect(unpackColumn(packColumn(measureColumn(CALLS[0]!, facts, now)).slice(0, -8))).toBeNull();
  });
});
