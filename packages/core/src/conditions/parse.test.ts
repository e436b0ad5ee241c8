import { describe, expect, test } from '@jest/globals';
import { parseCondition } from './condition.ts';

const leaf = { measure: 'missing', is: '>=', value: 1 };
/** A leaf within so many groups. */
const within = (groups: number): unknown => (groups === 0 ? leaf : { all: [within(groups - 1)] });
const problems = (draft: unknown) => {
  const parsed = parseCondition(draft, 'when');
  return parsed.ok ? [] : parsed.problems.map((p) => `${p.path}: ${p.code}: ${p.message}`);
};

describe('reading a condition', () => {
  test.each([
    ['nothing', null],
    ['a list', [leaf]],
    ['a text', 'missing >= 1'],
    ['a number', 7],
    ['what was left out', undefined],
  ])('%s is no condition, and says so at its place', (_name, draft) => {
    expect(problems(draft)).toEqual(['when: invalidType: A condition is expected here']);
    expect(problems({ any: [leaf, draft] })).toEqual(['when.any[1]: invalidType: A condition is expected here']);
  });

  test('a group holds a list and nothing else', () => {
    expect(problems({ all: leaf })).toEqual(['when.all: invalidType: A list of conditions is expected here']);
    expect(problems({ all: [leaf], any: [leaf] })).toEqual(['when.any: unknownKey: “any” is not known beside “all”']);
    expect(problems({ all: [leaf], note: 'x' })).toEqual(['when.note: unknownKey: “note” is not known beside “all”']);
    expect(problems({ none: [] })).toEqual(['when.none: emptyGroup: A group needs at least one condition']);
  });

  test('one bad condition among good ones is named, and the whole is not taken', () => {
    expect(problems({ all: [leaf, { measure: 'mood' }, leaf] })).toEqual([
      'when.all[1].measure: unknownMeasure: There is no measure “mood”',
    ]);
  });

  test('twenty groups may stand within each other, and no more', () => {
    expect(problems(within(20))).toEqual([]);
    expect(problems(within(21))).toEqual([`when${'.all[0]'.repeat(21)}: tooDeep: The groups are nested too deeply`]);
  });

  test('a rule has two hundred conditions at most', () => {
    const many = (n: number) => ({ any: Array.from({ length: n }, () => leaf) });
    expect(problems(many(200))).toEqual([]);
    expect(problems(many(201))).toEqual(['when: tooMany: A rule has at most 200 conditions']);
  });

  test('a text to compare with is read without its outer blanks', () => {
    const parsed = parseCondition({ measure: 'field', name: 'tutor', is: 'contains', value: '  Lind ' });
    expect(parsed).toEqual({ ok: true, value: { measure: 'field', name: 'tutor', is: 'contains', value: 'Lind' } });
  });
});
