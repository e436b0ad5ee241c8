import { expect, test } from '@jest/globals';
import { at, courseOf, item, person } from '../testing/build.ts';
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

const opened = (h: History, who: number, what: number) => h.people[who]!.instants(kindMask('open'), what);

test('columns hold a history whole, packed and read back from any address', () => {
  const packed = packColumns(toColumns(course, history));
  for (const shift of [0, 1, 5]) {
    const moved = new Uint8Array(packed.length + shift).subarray(shift);
    moved.set(packed);
    const again = fromColumns(course, unpackColumns(moved)!);
    expect(toColumns(course, again)).toEqual(toColumns(course, history));
  }
});

test('a roster in another order, items in another order and one that is gone are followed', () => {
  const other = courseOf({ people: [people[2]!, people[0]!], items: [items[1]!, items[0]!] });
  const moved = fromColumns(other, toColumns(course, history));
  expect(opened(moved, 1, 0)).toEqual([at('2026-09-01T10:00')]);
  expect(opened(moved, 1, 1)).toEqual([at('2026-09-02T10:00')]);
  expect(moved.people[1]!.grades).toMatchObject([{ item: 0, points: 7 }]);
  // Item c is gone, and with it the only thing that p3 did.
  expect(moved.people[0]!.length).toBe(0);
  expect(moved.people[1]!.length).toBe(3);
});

test('events that come later are appended and slotted in as ever', () => {
  const again = fromColumns(course, toColumns(course, history));
  again.addEvent({ person: 'p1', kind: 'open', item: 'a', at: at('2026-09-01T12:00') });
  expect(opened(again, 0, 0)).toEqual([at('2026-09-01T12:00'), at('2026-09-02T10:00')]);
});

test('bytes that are no columns are refused', () => {
  const packed = packColumns(toColumns(course, history));
  expect(unpackColumns(new Uint8Array(3))).toBeNull();
  expect(unpackColumns(new TextEncoder().encode('something else entirely'))).toBeNull();
  expect(unpackColumns(packed.slice(0, packed.length - 4))).toBeNull();
  const broken = packed.slice();
  broken[9] = 0;
  expect(unpackColumns(broken)).toBeNull();
});
