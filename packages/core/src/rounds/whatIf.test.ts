import { describe, expect, test } from '@jest/globals';
import { makeCourse } from '../course/course.ts';
import { HistoryFacts } from '../measures/facts.ts';
import { at, courseOf, factsOf, person, ruleOf } from '../testing/build.ts';
import { formatInstant } from '../time/instant.ts';
import { compareRounds } from './compare.ts';
import { decide } from './decide.ts';
import { exampleLine } from './example.ts';
import { limitsEffect } from './limitsEffect.ts';
import { NOTHING_LOGGED, NudgeLog } from './log.ts';

const day = (t: number) => formatInstant(t, 'America/New_York').slice(5, 16);

describe('the example of a repeat limit', () => {
  const marks = (draft: Record<string, unknown>) =>
    exampleLine(ruleOf(draft), courseOf(), at('2026-09-07T00:00'))!.marks.map((m) =>
      [m.kind, m.step + 1, day(m.at), m.reason].filter(Boolean).join(' '),
    );
  const heard = (draft: Record<string, unknown>) => marks(draft).filter((m) => !m.startsWith('withheld'));

  test('[R6] once a spell: heard at the first round of each of the two spells', () => {
    // By hand: spells begin 3 hours before a round, on Sep 7 and, 9 + 3 days later, on Sep 19.
    expect(heard({ repeat: { perSpell: 1 } })).toEqual(['heard 1 09-07T09:30', 'heard 1 09-19T09:30']);
    expect(marks({ repeat: { perSpell: 1 } })[1]).toBe('withheld 1 09-08T09:30 perSpell');
  });

  test('once a term, at most every 7 days, and every round', () => {
    expect(heard({ repeat: { perTerm: 1 } })).toEqual(['heard 1 09-07T09:30']);
    expect(heard({ repeat: { gap: { days: 7 } } })).toEqual([
      'heard 1 09-07T09:30',
      'heard 1 09-14T09:30',
      'heard 1 09-21T09:30',
    ]);
    expect(marks({ repeat: {} }).slice(0, 3)).toEqual([
      'heard 1 09-07T09:30',
      'heard 1 09-08T09:30',
      'heard 1 09-09T09:30',
    ]);
  });

  test('[R4] a held second step comes after its distance', () => {
    const step = { deliver: 'send', to: ['student'], wording: 'w' };
    const steps = [step, { ...step, after: { days: 5 }, deliver: 'hold' }];
    expect(heard({ repeat: { perSpell: 1 }, steps }).slice(0, 2)).toEqual([
      'heard 1 09-07T09:30',
      'held 2 09-12T09:30',
    ]);
  });

  test('one round is no example', () => {
    const rhythm = { start: '2026-09-07T09:30', rrule: 'FREQ=DAILY', until: '2026-09-07' };
    expect(exampleLine(ruleOf({ rhythm }), courseOf(), at('2026-09-01T00:00'))).toBeNull();
  });
});

const people = [person('p1'), person('p2')];
const facts = factsOf({ people, events: [['p2', 'visit', '2026-09-03T08:00']] });

describe('two versions of a rule at one round', () => {
  test('who would newly hear, who no more, and who is withheld for another reason', () => {
    const round = at('2026-09-07T09:30');
    const run = (draft: Record<string, unknown>, log: ConstructorParameters<typeof NudgeLog>[0] = []) =>
      decide([ruleOf(draft)], facts, new NudgeLog(log), round);
    const three = { when: { measure: 'daysSinceVisit', is: '>=', value: 3 } };
    const kinds = (...args: Parameters<typeof compareRounds>) =>
      compareRounds(...args).map((c) => `${c.student} ${c.kind}`);
    expect(kinds(run({}), run(three))).toEqual(['p2 hears']);
    expect(kinds(run(three), run({}))).toEqual(['p2 hearsNoMore']);
    expect(kinds(run({}), run({}))).toEqual([]);
    const held = { steps: [{ deliver: 'hold', to: ['student'], wording: 'w' }] };
    expect(kinds(run({}), run(held))).toEqual(['p1 hearsOtherwise']);
    const nudged = [
      { rule: 'away', student: 'p1', round: at('2026-09-06T09:30'), step: 0, state: 'sent', toStudent: true } as const,
    ];
    expect(kinds(run({}, nudged), run({ repeat: { gap: { days: 7 } } }, nudged))).toEqual(['p1 withheldOtherwise']);
  });
});

describe('what other limits of the course would have changed', () => {
  const rules = [ruleOf({ repeat: {} })];
  const span = { from: at('2026-09-05T00:00'), until: at('2026-09-09T00:00') };
  const under = (settings: object) =>
    new HistoryFacts(
      makeCourse({ ...facts.course, settings: { quietHours: null, budget: null, ...settings } }),
      facts.history,
    );

  test('a budget withholds what was sent; nothing of the same stands in the list', () => {
    const effect = limitsEffect(rules, facts, under({ budget: { count: 1, days: 14 } }), NOTHING_LOGGED, span);
    // p1 is heard of on Sep 5, 6, 7 and 8, p2 from Sep 8 on.
    expect(effect.before).toMatchObject({ sent: 5, overBudget: 0 });
    expect(effect.after).toMatchObject({ sent: 2, overBudget: 3 });
    expect(effect.changes.map((c) => [c.student, day(c.round), c.after?.reason])).toEqual([
      ['p1', '09-06T09:30', 'budget'],
      ['p1', '09-07T09:30', 'budget'],
      ['p1', '09-08T09:30', 'budget'],
    ]);
  });

  test('quiet hours move what was sent at once', () => {
    const effect = limitsEffect(
      rules,
      facts,
      under({ quietHours: { from: '09:00', to: '12:00' } }),
      NOTHING_LOGGED,
      span,
    );
    expect(effect.after).toMatchObject({ sent: 0, delayed: 5 });
    expect(day(effect.changes[0]!.after!.sendAt!)).toBe('09-05T12:00');
  });

  test('what was sent before the span counts', () => {
    const earlier = [
      { rule: 'other', student: 'p1', round: at('2026-09-01T09:30'), step: 0, state: 'sent', toStudent: true } as const,
    ];
    const effect = limitsEffect(
      rules,
      facts,
      under({ budget: { count: 1, days: 14 } }),
      { nudges: earlier, replies: [] },
      span,
    );
    expect(effect.after).toMatchObject({ sent: 1, overBudget: 4 });
  });
});
