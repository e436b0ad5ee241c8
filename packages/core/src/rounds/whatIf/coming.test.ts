import { describe, expect, test } from '@jest/globals';
import { at, factsOf, person, ruleOf } from '../../testing/build.ts';
import { comingNudges, rulesBefore, nudgeInTheWay, type RuleTurn } from './coming.ts';
import { decide } from '../decide/decide.ts';
import { NOTHING_LOGGED, NudgeLog } from '../decide/log.ts';

const story = {
  people: [person('p1'), person('p2')],
  events: [
    ['p1', 'visit', '2026-09-01T14:00'],
    ['p2', 'visit', '2026-09-05T14:00'],
    ['p2', 'visit', '2026-09-08T14:00'],
  ] as const,
  settings: { budget: { count: 1, days: 14 } },
};
const facts = factsOf({ ...story, events: [...story.events] });
const first = ruleOf({ id: 'first' });
const second = ruleOf({ id: 'second' });
const turn = (more: Partial<RuleTurn> = {}): RuleTurn => ({
  rules: [first, second],
  rule: 'second',
  now: at('2026-09-07T08:00'),
  at: at('2026-09-07T09:30'),
  ...more,
});

describe('[R2] what comes before a rule has its turn', () => {
  test('is what rules in front of it decide at the same round', () => {
    expect(comingNudges(turn(), facts, NOTHING_LOGGED)).toMatchObject([
      { rule: 'first', student: 'p1', round: at('2026-09-07T09:30'), state: 'queued', toStudent: true, coming: true },
    ]);
    // The other way round, the second comes after.
    expect(comingNudges(turn({ rule: 'first' }), facts, NOTHING_LOGGED)).toEqual([]);
    expect(comingNudges(turn({ rule: 'new' }), facts, NOTHING_LOGGED).map((n) => n.rule)).toContain('first');
  });

  test('is what any of them decide at rounds in between', () => {
    const later = turn({ rule: 'first', at: at('2026-09-08T09:30') });
    expect(comingNudges(later, facts, NOTHING_LOGGED).map((n) => [n.rule, n.round])).toEqual([
      ['second', at('2026-09-07T09:30')],
    ]);
  });

  test('is nothing without a budget, at this very moment, and of rules that write to no student', () => {
    expect(rulesBefore(turn(), factsOf({ ...story, events: [...story.events], settings: {} }))).toEqual([]);
    expect(rulesBefore(turn({ at: at('2026-09-07T08:00') }), facts)).toEqual([]);
    const alert = ruleOf({ id: 'first', steps: [{ deliver: 'send', to: ['address:a@b.example'], wording: 'w' }] });
    expect(rulesBefore(turn({ rules: [alert, second] }), facts)).toEqual([]);
  });

  test('and names the rule that takes a student first', () => {
    const log = new NudgeLog(comingNudges(turn(), facts, NOTHING_LOGGED));
    const r = at('2026-09-07T09:30');
    expect(decide([second], facts, log, r)[0]).toMatchObject({ student: 'p1', outcome: 'withheld', reason: 'budget' });
    expect(nudgeInTheWay(second, 'p1', facts, log, r)).toMatchObject({ rule: 'first', round: r, coming: true });
    expect(nudgeInTheWay(second, 'p2', facts, log, r)).toBeNull();
  });
});
