import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
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
const handedIn = (value: boolean) => ({ measure: 'submitted', item: 'q1', is: 'equals', value });
const tutor = (is: string, value?: string) => ({
  measure: 'field',
  name: 'tutor',
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
    ['over and under one number at once', { all: [score('>', 5), score('<', 5)] }, ['contradiction 0 1']],
    ['the same asked twice', { all: [days('>=', 5), days('>=', 5)] }, ['needless 0 1']],
    ['a stretch that two leave open', { all: [score('>=', 5), score('<=', 6)] }, []],
    ['a number just above another, whole', { all: [days('>=', 5), days('>', 4)] }, ['needless 0 1']],
    [
      'a count that cannot be below nothing',
      {
        all: [
          { measure: 'missing', is: '<', value: 0 },
          { measure: 'missing', is: '<=', value: 3 },
        ],
      },
      ['contradiction 0 1'],
    ],
    [
      'counts with one number between',
      {
        all: [
          { measure: 'missing', is: '>', value: 1 },
          { measure: 'missing', is: '<', value: 3 },
        ],
      },
      [],
    ],
    [
      'counts with none between',
      {
        all: [
          { measure: 'missing', is: '>', value: 1 },
          { measure: 'missing', is: '<', value: 2 },
        ],
      },
      ['contradiction 0 1'],
    ],
    ['far numbers with room between', { all: [days('>', 2), days('<', 9)] }, []],
    ['submitted and not', { all: [handedIn(true), handedIn(false)] }, ['contradiction 0 1']],
    ['submitted or not', { any: [handedIn(true), handedIn(false)] }, ['always 0 1']],
    ['submitted, and not under none of', { all: [handedIn(true), { none: [handedIn(false)] }] }, ['needless 0 1']],
    ['two names of one tutor', { all: [tutor('equals', 'Ada'), tutor('equals', 'Bo')] }, ['contradiction 0 1']],
    [
      'a tutor and a part of the name',
      { all: [tutor('equals', 'Ada Lind'), tutor('contains', 'lind')] },
      ['needless 0 1'],
    ],
    [
      'a part of the name and the tutor',
      { all: [tutor('contains', 'lind'), tutor('equals', 'Ada Lind')] },
      ['needless 1 0'],
    ],
    ['two parts of a name', { all: [tutor('contains', 'ada'), tutor('contains', 'lind')] }, []],
    ['either part of a name', { any: [tutor('contains', 'ada'), tutor('contains', 'lind')] }, []],
    ['a tutor, and anybody but another', { all: [tutor('equals', 'Ada'), tutor('differs', 'Bo')] }, ['needless 0 1']],
    ['no tutor, or somebody', { any: [tutor('empty'), tutor('filled')] }, ['always 0 1']],
    ['a tutor or anybody but that one', { any: [tutor('equals', 'Ada'), tutor('differs', 'Ada')] }, ['always 0 1']],
    ['a tutor or anybody else', { any: [tutor('equals', 'Ada'), tutor('differs', 'Bo')] }, ['needless 1 0']],
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
