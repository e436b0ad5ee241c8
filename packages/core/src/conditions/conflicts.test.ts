import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { at, courseOf, item } from '../testing/build.ts';
import { boundsOf } from './bounds.ts';
import { testOf } from './compare.ts';
import { parseCondition, type Condition, type Leaf } from './condition.ts';
import { conflictsIn } from './conflicts.ts';

const read = (draft: unknown): Condition => {
  const parsed = parseCondition(draft);
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
  return parsed.value;
};
const days = (is: string, value: number) => ({ measure: 'daysSinceVisit', is, value });
const score = (is: string, value?: number) => ({
  measure: 'score',
  item: 'q1',
  is,
  ...(value === undefined ? {} : { value }),
});
const conflicts = (draft: unknown) =>
  conflictsIn(read(draft), { mastery: 80 }).map((c) => `${c.kind} ${c.of} ${c.more}`);

describe('conditions that work against each other', () => {
  test.each([
    ['a gap that is long and short', { all: [days('>=', 5), days('<', 3)] }, ['contradiction 0 1']],
    ['over 5 and under 6 whole days', { all: [days('>', 5), days('<', 6)] }, ['contradiction 0 1']],
    ['over 5 and under 6 per cent', { all: [score('>', 5), score('<', 6)] }, []],
    ['graded and not graded', { all: [score('<=', 50), score('empty')] }, ['contradiction 0 1']],
    [
      'a mark against a number',
      { all: [{ ...score('>='), value: { mark: 'mastery' } }, score('<', 80)] },
      ['contradiction 0 1'],
    ],
    ['what stands under none of', { all: [days('>=', 5), { none: [days('>=', 3)] }] }, ['contradiction 0 1']],
    ['the weaker of two', { all: [days('>=', 3), days('>=', 5)] }, ['needless 1 0']],
    ['the narrower of two choices', { any: [days('>=', 3), days('>=', 5)] }, ['needless 0 1']],
    ['one of two always holds', { any: [days('>=', 5), days('<', 5)] }, ['always 0 1']],
    ['choices do not contradict', { any: [days('>=', 5), days('<', 3)] }, []],
    ['different items are different measures', { all: [score('<', 5), { ...score('>', 90), item: 'q2' }] }, []],
    [
      'nested in one of several choices',
      { any: [days('>=', 9), { all: [score('<', 50), score('>', 60)] }] },
      ['contradiction 1 2'],
    ],
  ])('%s', (_name, draft, expected) => {
    expect(conflicts(draft)).toEqual(expected);
  });

  test('two whole-number conditions are called a contradiction exactly when no value up to 40 meets both', () => {
    const comparators = ['>=', '<=', '>', '<', 'equals', 'differs'] as const;
    const leaf = fc.record({ is: fc.constantFrom(...comparators), value: fc.integer({ min: 0, max: 12 }) });
    fc.assert(
      fc.property(leaf, leaf, (a, b) => {
        const leaves = [a, b].map((l) => read(days(l.is, l.value)) as Leaf);
        const possible = Array.from({ length: 41 }, (_, v) => v).some((v) =>
          leaves.every((l) => testOf(l, {})(v) === true),
        );
        const found = conflictsIn({ all: leaves }, {}).some((c) => c.kind === 'contradiction');
        expect(found).toBe(!possible);
      }),
    );
  });
});

describe('when a condition can hold at all', () => {
  const course = courseOf({
    items: [
      item('q1', { opensAt: at('2026-09-07T00:00'), dueAt: at('2026-09-13T23:59'), group: 'Quizzes' }),
      item('q2', { dueAt: at('2026-09-27T23:59'), group: 'Quizzes' }),
    ],
  });
  const bounds = (draft: unknown) => boundsOf(read(draft), course);

  test.each([
    ['five days away', days('>=', 5), '2026-09-05T00:00'],
    ['over five days away', days('>', 5), '2026-09-06T00:00'],
    ['a second missing item', { measure: 'missing', is: '>=', value: 2 }, '2026-09-27T23:59'],
    ['a score', score('<=', 50), '2026-09-07T00:00'],
    ['two weeks enrolled', { measure: 'daysEnrolled', is: '>=', value: 14 }, '2026-09-14T00:00'],
    ['two days before it is due', { measure: 'hoursUntilDue', item: 'q1', is: '<=', value: 48 }, '2026-09-11T23:59'],
    ['both of two', { all: [days('>=', 5), score('<=', 50)] }, '2026-09-07T00:00'],
    ['one of two', { any: [days('>=', 5), score('<=', 50)] }, '2026-09-05T00:00'],
    ['no absence at all', days('<', 5), '2026-08-31T00:00'],
  ])('%s: not before %s', (_name, draft, earliest) => {
    expect(bounds(draft).earliest).toBe(at(earliest));
  });

  test('hours left end at the due instant, the latest extension included', () => {
    const left = { measure: 'hoursUntilDue', item: 'q1', is: '>', value: 0 };
    expect(bounds(left).latest).toBe(at('2026-09-13T23:59'));
    expect(bounds({ all: [left, days('>=', 5)] }).latest).toBe(at('2026-09-13T23:59'));
    expect(bounds({ any: [left, days('>=', 5)] }).latest).toBe(Infinity);
  });
});
