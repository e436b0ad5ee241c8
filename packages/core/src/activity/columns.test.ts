import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { HistoryFacts } from '../measures/facts/facts.ts';
import type { MeasureCall } from '../measures/values/measure.ts';
import { valueAt } from '../measures/values/timeline.ts';
import { at, courseOf, item, person } from '../testing/build.ts';
import { runs } from '../testing/runs.ts';
import { fromColumns, packColumns, toColumns, unpackColumns } from './columns.ts';
import { kindMask } from './event.ts';
import { History } from './history.ts';

const people = [person('p1'), person('p2'), person('p3')];
const items = [item('a'), item('b'), item('c')];
const course = courseOf({ people, items });
const history = new History(course);
for (const [who, what, when] of [
  ['p1', 'a', '2026-09-02T10:00'],
  ['p3', 'c', '2026-09-03T10:00'],
  ['p1', 'b', '2026-09-01T10:00'],
  ['p1', null, '2026-09-04T10:00'],
] as const) {
  history.addEvent({ person: who, kind: what ? 'open' : 'visit', item: what, at: at(when) });
}
history.addGrade({ person: 'p1', item: 'b', criterion: null, points: 7, at: at('2026-09-05T10:00') });
history.addGrade({ person: 'p1', item: 'b', criterion: 'Plot', points: 2, at: at('2026-09-05T10:00') });

const opened = (h: History, who: number, what: number) => h.people[who]!.instants(kindMask('open'), what);

test('columns hold a history whole, packed and read back from any address', () => {
  const packed = packColumns(toColumns(history));
  for (const shift of [0, 1, 5]) {
    const moved = new Uint8Array(packed.length + shift).subarray(shift);
    moved.set(packed);
    const again = fromColumns(unpackColumns(moved)!);
    expect(toColumns(again)).toEqual(toColumns(history));
    expect([...again.criteria]).toEqual(['Plot']);
  }
});

describe('a roster in another order, items in another order and one that is gone', () => {
  const other = courseOf({ people: [people[2]!, people[0]!], items: [items[1]!, items[0]!] });
  const facts = new HistoryFacts(other, fromColumns(toColumns(history)));
  const value = (who: number, call: MeasureCall) => valueAt(facts.timeline(who, call), at('2026-09-06T10:00'));

  test('are followed: each sees what is theirs', () => {
    expect(value(1, { measure: 'opens', item: 'a' })).toBe(1);
    expect(value(1, { measure: 'opens', item: 'b' })).toBe(1);
    expect(value(1, { measure: 'points', item: 'b' })).toBe(7);
    expect(value(0, { measure: 'visits' })).toBe(1);
  });

  test('lose nothing: somebody or something that comes back has it all again', () => {
    const back = new HistoryFacts(course, facts.history);
    const opens = { measure: 'opens', item: 'c' } as const;
    expect(valueAt(back.timeline(2, opens), at('2026-09-06T10:00'))).toBe(1);
    expect(facts.timeline(0, opens)).toEqual({ kind: 'none' });
  });
});

test('many events at once, in any order, are the same history as one after the other', () => {
  const event = fc.record({
    person: fc.constantFrom('p1', 'p2', 'new'),
    kind: fc.constantFrom('visit' as const, 'open' as const),
    item: fc.constantFrom('a', 'z'),
    at: fc.integer({ min: 0, max: 20 }),
  });
  fc.assert(
    fc.property(fc.array(event), fc.array(event), (first, second) => {
      const [one, many] = [new History(course), new History(course)];
      for (const e of [...first, ...second]) one.addEvent(e);
      for (const part of [first, second]) {
        many.addEvents({
          people: part.map((e) => e.person),
          kinds: part.map((e) => e.kind),
          items: part.map((e) => e.item),
          times: part.map((e) => e.at),
        });
      }
      expect(toColumns(many)).toEqual(toColumns(one));
      expect(many.version).toBe(one.version);
    }),
    runs(5, 60),
  );
});

test('events that come later are appended and slotted in as ever', () => {
  const again = fromColumns(toColumns(history));
  again.addEvent({ person: 'p1', kind: 'open', item: 'a', at: at('2026-09-01T12:00') });
  expect(opened(again, 0, 0)).toEqual([at('2026-09-01T12:00'), at('2026-09-02T10:00')]);
});

test('bytes that are no columns are refused', () => {
  const packed = packColumns(toColumns(history));
  expect(unpackColumns(new Uint8Array(3))).toBeNull();
  expect(unpackColumns(new TextEncoder().encode('something else entirely'))).toBeNull();
  expect(unpackColumns(packed.slice(0, packed.length - 4))).toBeNull();
  const broken = packed.slice();
  broken[9] = 0;
  expect(unpackColumns(broken)).toBeNull();
});
