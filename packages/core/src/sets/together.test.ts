import { describe, expect, test } from '@jest/globals';
import type { Rule } from '../rules/rule.ts';
import { ruleOf } from '../testing/build.ts';
import { mergeLimits, mergeRules, mergeSenders, mergeWordings } from './together.ts';

const base = ruleOf();

describe('two people change one rule', () => {
  test('what does not collide is merged, whoever saved first', () => {
    const mine: Rule = { ...base, name: 'Gone quiet', repeat: { ...base.repeat, perTerm: 3 } };
    const theirs: Rule = { ...base, note: 'As agreed', audience: { ...base.audience, sections: ['A'] } };
    const together = mergeRules(base, mine, theirs);
    expect(together.merged).toEqual({ ...mine, note: 'As agreed', audience: theirs.audience });
    expect([together.own, together.theirs, together.both]).toEqual([['name', 'repeat'], ['note', 'audience'], []]);
    expect(mergeRules(base, theirs, mine).merged).toEqual(together.merged);
  });

  test('what collides is named with both sides, and the draft stays as it is', () => {
    const mine: Rule = { ...base, name: 'Gone quiet' };
    const theirs: Rule = { ...base, name: 'Not seen', weight: 'strong' };
    const { merged: rule, both, theirs: taken } = mergeRules(base, mine, theirs);
    expect([rule.name, rule.weight, taken]).toEqual(['Gone quiet', 'strong', ['weight']]);
    expect(both).toMatchObject([{ part: 'name', here: 'Gone quiet', there: 'Not seen' }]);
  });

  test('who changed nothing takes all, and the same change twice is none', () => {
    const theirs: Rule = { ...base, name: 'Not seen', status: 'paused' };
    expect(mergeRules(base, base, theirs).merged).toEqual(theirs);
    expect(mergeRules(base, { ...base, name: 'Not seen' }, theirs)).toMatchObject({ own: [], theirs: [], both: [] });
  });
});

describe('two people change', () => {
  test('a wording: its subject and one more text go together', () => {
    const wording = { id: 'w', name: 'W', purpose: 'support', subject: 'A', text: 'B' } as const;
    const more = [{ subject: 'A', text: 'C' }];
    const { merged, theirs, own } = mergeWordings(
      wording,
      { ...wording, variants: more },
      { ...wording, subject: 'S' },
    );
    expect([theirs, own]).toEqual([['subject'], ['variants[0]']]);
    expect(merged).toEqual({ ...wording, subject: 'S', variants: more, copies: [], files: [], letter: null });
  });

  test('limits: quiet hours here and a break there go together, and two budgets collide', () => {
    const base = {
      settings: { quietHours: null, budget: null },
      guards: { askAbove: 0.5, staleHours: null },
      breaks: [],
      marks: { mastery: 80 },
    };
    const budget = (count: number) => ({ count, days: 14, strict: false });
    const draft = { ...base, settings: { quietHours: { days: ['SA'] as const }, budget: budget(1) } };
    const saved = {
      ...base,
      settings: { ...base.settings, budget: budget(2) },
      breaks: [{ from: '2026-11-23', to: '2026-11-27' }],
    };
    const { merged, theirs, own, both } = mergeLimits(base, draft, saved);
    expect([theirs, own, both.map((l) => l.part)]).toEqual([['breaks'], ['quietHours'], ['budget']]);
    expect(merged).toEqual({ ...draft, breaks: saved.breaks });
  });

  test('a sender', () => {
    const base = { name: 'A', address: 'a@x.example', replyTo: 'a@x.example', signature: 'A', officeHours: '' };
    const { merged, theirs } = mergeSenders(base, { ...base, signature: 'Ada' }, { ...base, officeHours: 'Mondays' });
    expect([merged, theirs]).toEqual([{ ...base, signature: 'Ada', officeHours: 'Mondays' }, ['officeHours']]);
  });
});
