import { describe, expect, test } from '@jest/globals';
import { courseOf, person } from '../testing/build.ts';
import { byGroup, mayGroupBy, type GroupBy } from './byGroup.ts';
import type { Hindsight, HindsightStudent } from './hindsight.ts';
import { differenceOf, wilson } from './proportion.ts';

/** So many of each: found, missed, needlessly found, left alone. */
const cells = (prefix: string, [found, missed, needless, leftAlone]: readonly number[]): HindsightStudent[] =>
  [...Array<number>(found! + missed! + needless! + leftAlone!).keys()].map((i) => ({
    student: `${prefix}${i}`,
    outcome: i < found! + missed!,
    found: i < found! || (i >= found! + missed! && i < found! + missed! + needless!) ? 1 : null,
    leadDays: null,
  }));
function read(groups: Readonly<Record<string, readonly number[]>>, by: GroupBy = { of: 'section' }, together = false) {
  const names = Object.keys(groups);
  const students = names.flatMap((name, n) => cells(`g${n}-`, groups[name]!));
  const people = students.map(({ student }) => {
    const name = names[Number(/^g(\d+)-/.exec(student)![1])]!;
    return person(student, by.of === 'section' ? { section: name.trim() || null } : { fields: { [by.name]: name } });
  });
  return byGroup({ students } as unknown as Hindsight, courseOf({ people }), by, together);
}

describe('[S8] hindsight by group', () => {
  test('counts and shares within each, texts without regard to case, blank last', () => {
    const { groups } = read({ b: [1, 1, 0, 2], '': [1, 0, 0, 0], A: [2, 0, 1, 1], '02': [0, 0, 0, 3] });
    expect(groups.map((g) => g.group)).toEqual(['02', 'A', 'b', null]);
    expect(groups[1]).toMatchObject({ counts: { found: 2, missed: 0, needless: 1, leftAlone: 1 } });
    expect(groups[1]!.shareFound).toMatchObject({ count: 2, of: 2 });
    expect(groups[1]!.shareNeedless).toMatchObject({ count: 1, of: 2 });
    expect(groups[0]!.shareFound).toBeNull();
  });

  test('two differ where Newcombe’s interval of the difference leaves out nothing', () => {
    // 56/70 against 48/80: 0.0524 to 0.3339 at 95%, method 10 of Newcombe (1998), table II, from memory.
    const { low, high } = differenceOf(wilson(56, 70), wilson(48, 80));
    expect([low, high].map((x) => Math.round(x * 10_000))).toEqual([524, 3339]);
    expect(read({ a: [56, 14, 0, 5], b: [48, 32, 0, 5] }).differ).toEqual([{ between: [0, 1], share: 'found' }]);
    expect(read({ a: [5, 5, 56, 14], b: [5, 5, 48, 32] }).differ).toEqual([{ between: [0, 1], share: 'needless' }]);
    expect(read({ a: [9, 1, 0, 5], b: [8, 2, 0, 5] }).differ).toEqual([]);
  });

  test('of many pairs each needs more: what is no chance of two groups may be one of many', () => {
    const two = { a: [30, 10, 0, 5], b: [20, 20, 0, 5] };
    expect(read(two).differ).toHaveLength(1);
    expect(read({ ...two, c: [25, 15, 0, 5], d: [25, 15, 0, 5], e: [25, 15, 0, 5] }).differ).toEqual([]);
  });

  test('groups of fewer than five stand together on screen alone', () => {
    const small = { a: [3, 3, 1, 1], b: [1, 0, 0, 1], c: [1, 1, 0, 0] };
    expect(read(small).groups).toHaveLength(3);
    const { groups } = read(small, { of: 'section' }, true);
    expect(groups.map((g) => [g.group, g.isSmaller])).toEqual([
      ['a', false],
      [null, true],
    ]);
    expect(groups[1]!.counts).toEqual({ found: 2, missed: 1, needless: 0, leftAlone: 1 });
  });

  test('a column that more than twelve values fill, or nobody has, makes no groups', () => {
    const people = (many: number) =>
      [...Array(many).keys()].map((i) => person(`p${i}`, { fields: { tutor: `t${i}` } }));
    const may = (many: number, name = 'tutor') => mayGroupBy(courseOf({ people: people(many) }), { of: 'field', name });
    expect([may(12), may(13), may(3, 'hall')]).toEqual([true, false, false]);
    expect(mayGroupBy(courseOf({ people: people(20) }), { of: 'section' })).toBe(true);
  });
});
