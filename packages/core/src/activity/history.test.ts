/** What a log says, against the plain list of what it took in: filtered, sorted and counted one by one. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { HOUR } from '../time/instant.ts';
import { runs } from '../testing/runs.ts';
import { actCode } from './actCode.ts';
import { EVENT_KINDS, kindMask, type EventKind } from './event.ts';
import { History, type PersonLog } from './history.ts';

const ITEMS = ['a', 'b', 'c'];
const history = () => new History({ people: [], items: [] });

interface TestAct {
  readonly kind: EventKind;
  /** By place in `ITEMS`; −1 for none. */
  readonly item: number;
  readonly at: number;
}
interface TestGrade {
  readonly item: number;
  readonly criterion: string | null;
  readonly points: number;
  readonly at: number;
}

const act = fc.record({
  kind: fc.constantFrom(...EVENT_KINDS),
  item: fc.integer({ min: -1, max: ITEMS.length - 1 }),
  at: fc.integer({ min: 0, max: 20 }),
});
const grade = fc.record({
  item: fc.integer({ min: 0, max: ITEMS.length - 1 }),
  criterion: fc.constantFrom(null, 'style'),
  points: fc.integer({ min: 0, max: 2 }),
  at: fc.integer({ min: 0, max: 20 }),
});

function logOf(acts: readonly TestAct[], grades: readonly TestGrade[]): PersonLog {
  const all = history();
  // Every item has its key before anybody acts.
  for (const item of ITEMS) all.itemKeys.of(item);
  for (const { kind, item, at } of acts) all.addEvent({ person: 'p', kind, item: ITEMS[item] ?? null, at });
  for (const { item, ...g } of grades) all.addGrade({ person: 'p', item: ITEMS[item]!, ...g });
  return all.logOf('p');
}
const earliest = (instants: readonly number[]) => Math.min(Infinity, ...instants);
const creditsOf = (grades: readonly TestGrade[], item: number) =>
  grades.filter((g) => g.item === item && g.criterion === null && g.points > 0).map((g) => g.at);

describe('a log', () => {
  test('has the instants of any kinds, of one item or of all, in order, and the first of them', () => {
    fc.assert(
      fc.property(
        fc.array(act, { maxLength: 40 }),
        fc.subarray([...EVENT_KINDS]),
        fc.integer({ min: -1, max: 4 }),
        (acts, kinds, item) => {
          const log = logOf(acts, []);
          const mask = kindMask(...kinds);
          const of = (one: number) => acts.filter((a) => kinds.includes(a.kind) && a.item === one).map((a) => a.at);
          const expected = item < 0 ? acts.filter((a) => kinds.includes(a.kind)).map((a) => a.at) : of(item);
          expect(log.instants(mask, item)).toEqual(expected.toSorted((a, b) => a - b));
          expect(log.first(mask, item)).toBe(earliest(of(item)));
        },
      ),
      runs(31, 200),
    );
  });

  test('says from when on each item is done, by its kind of act or by credit, and says so anew once something came in', () => {
    const items = Int32Array.from([2, 0, 1, 7]);
    fc.assert(
      fc.property(
        fc.array(act, { maxLength: 30 }),
        fc.array(grade, { maxLength: 8 }),
        fc.array(fc.constantFrom(...EVENT_KINDS), { minLength: 4, maxLength: 4 }),
        act,
        (acts, grades, doing, later) => {
          const log = logOf(acts, grades);
          const kinds = Uint8Array.from(doing, (k) => EVENT_KINDS.indexOf(k));
          const done = (all: readonly TestAct[]) =>
            [...items].map((item, i) =>
              earliest([
                ...all.filter((a) => a.item === item && a.kind === doing[i]).map((a) => a.at),
                ...creditsOf(grades, item),
              ]),
            );
          const first = log.firstDone(items, kinds);
          expect(first).toEqual(done(acts));
          expect(log.firstDone(items, kinds)).toBe(first);
          for (const item of [0, 1, 2]) expect(log.firstCredit(item)).toBe(earliest(creditsOf(grades, item)));
          log.add(later.at, actCode(later.kind, later.item));
          expect(log.firstDone(items, kinds)).toEqual(done([...acts, later]));
          // Another course, with another kind of item under each key.
          const others = Uint8Array.from(kinds, (k) => (k + 1) % EVENT_KINDS.length);
          const other = log.firstDone(items, others);
          expect(other).toEqual(logOf([...acts, later], grades).firstDone(items, others));
        },
      ),
      runs(32, 200),
    );
  });

  test('keeps the gaps of 23 hours and more between visits, from before the first', () => {
    const log = logOf([], []);
    for (const at of [5, 5 + 23 * HOUR - 1, 5 + 50 * HOUR]) log.add(at, actCode('visit', -1));
    expect(log.gaps('visits')).toMatchObject({
      list: [-Infinity, 5, 5 + 23 * HOUR - 1, 5 + 50 * HOUR],
      last: 5 + 50 * HOUR,
    });
    expect(log.gaps('participation')).toMatchObject({ list: [], last: -Infinity });
  });
});
