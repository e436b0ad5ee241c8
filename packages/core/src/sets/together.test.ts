import { describe, expect, test } from '@jest/globals';
import type { Rule } from '../rules/rule.ts';
import { ruleOf } from '../testing/build.ts';
import { mergeDraft } from './together.ts';

const base = ruleOf();

describe('two people change one rule', () => {
  test('what does not collide is merged, whoever saved first', () => {
    const mine: Rule = { ...base, name: 'Gone quiet', repeat: { ...base.repeat, perTerm: 3 } };
    const theirs: Rule = { ...base, note: 'As agreed', audience: { ...base.audience, sections: ['A'] } };
    const together = mergeDraft(base, mine, theirs);
    expect(together.rule).toEqual({ ...mine, note: 'As agreed', audience: theirs.audience });
    expect([together.own, together.theirs, together.both]).toEqual([['name', 'repeat'], ['note', 'audience'], []]);
    expect(mergeDraft(base, theirs, mine).rule).toEqual(together.rule);
  });

  test('what collides is named with both sides, and the draft stays as it is', () => {
    const mine: Rule = { ...base, name: 'Gone quiet' };
    const theirs: Rule = { ...base, name: 'Not seen', weight: 'strong' };
    const { rule, both, theirs: taken } = mergeDraft(base, mine, theirs);
    expect([rule.name, rule.weight, taken]).toEqual(['Gone quiet', 'strong', ['weight']]);
    expect(both).toMatchObject([{ part: 'name', here: 'Gone quiet', there: 'Not seen' }]);
  });

  test('who changed nothing takes all, and the same change twice is none', () => {
    const theirs: Rule = { ...base, name: 'Not seen', status: 'paused' };
    expect(mergeDraft(base, base, theirs).rule).toEqual(theirs);
    expect(mergeDraft(base, { ...base, name: 'Not seen' }, theirs)).toMatchObject({ own: [], theirs: [], both: [] });
  });
});
