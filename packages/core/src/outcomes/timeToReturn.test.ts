import { describe, expect, test } from '@jest/globals';
import { replay } from '../rounds/whatIf/replay.ts';
import { at, factsOf, person, ruleOf, type StorySpec } from '../testing/build.ts';
import { ruleOutcomes } from './timeToReturn.ts';

const PEOPLE = ['p1', 'p2', 'p3'].map((id) => person(id));
const visit = (id: string, when: string) => [id, 'visit', when] as const;
const rule = ruleOf({ rhythm: { start: '2026-09-05T09:30', rrule: 'FREQ=DAILY', until: '2026-09-20' } });
const outcomes = (story: StorySpec, asOf: string, rules = [rule]) => {
  const facts = factsOf({ people: PEOPLE, ...story });
  return ruleOutcomes(rules, facts, replay(rules, facts), at(asOf));
};

describe('[O1] [O2] time to return', () => {
  // Nobody came before Sep 5, 9:30: all three are nudged then. p1 is back after 2 days, p2 after 4, p3 stays away.
  const story: StorySpec = { events: [visit('p1', '2026-09-07T09:30'), visit('p2', '2026-09-09T09:30')] };

  test('is counted in days of 24 hours from the hand-over, and censored at the instant that is asked about', () => {
    const [o] = outcomes(story, '2026-09-11T09:30');
    expect(o).toMatchObject({ rule: 'away', nudges: 3, returned: 2, open: 1 });
    expect(o!.curve.map((p) => [p.days, p.atRisk, p.acts])).toEqual([
      [2, 3, 1],
      [4, 2, 1],
    ]);
    expect(o!.curve.at(-1)!.survival).toBeCloseTo(1 / 3, 12);
    // Known of at 0, 1, 2, 4, 7 … days: all three up to the second, then two, and from the seventh nobody.
    expect(o!.atRisk).toEqual([3, 3, 3, 2, 0, 0, 0, 0, 0]);
  });

  test('[R13] an act after two weeks is no return, and still an act; then nothing is open any more', () => {
    const late = { events: [...story.events!, visit('p3', '2026-09-20T09:30')] };
    const [o] = outcomes(late, '2026-12-01T00:00', [
      ruleOf({ rhythm: { start: '2026-09-05T09:30', rrule: 'FREQ=DAILY', until: '2026-09-05' } }),
    ]);
    expect(o).toMatchObject({ nudges: 3, returned: 2, open: 0 });
    expect(o!.curve.at(-1)).toMatchObject({ days: 15, atRisk: 1, acts: 1, survival: 0 });
  });

  test('what is not yet known as of an instant does not count: later nudges, later acts', () => {
    const [o] = outcomes(story, '2026-09-08T00:00');
    expect(o).toMatchObject({ nudges: 3, returned: 1, open: 2 });
    expect(outcomes(story, '2026-09-05T00:00')[0]).toMatchObject({ nudges: 0, returned: 0, open: 0, curve: [] });
  });

  test('the next clock of the student, of any rule, ends what is known of the one before', () => {
    const other = ruleOf({
      id: 'other',
      when: { measure: 'daysSinceVisit', is: '>=', value: 6 },
      rhythm: { start: '2026-09-06T09:30', rrule: 'FREQ=DAILY', until: '2026-09-06' },
    });
    const [first, second] = outcomes(story, '2026-09-30T00:00', [rule, other]);
    // All three get another message a day later: every first clock is censored there.
    expect(first!.curve).toEqual([]);
    expect(second!.curve.map((p) => [p.days, p.atRisk])).toEqual([
      [1, 3],
      [3, 2],
    ]);
  });

  test('a rule that no act can turn has no clocks', () => {
    const praise = ruleOf({ id: 'praise', when: { measure: 'daysSinceVisit', is: '<', value: 3 } });
    expect(outcomes(story, '2026-09-30T00:00', [praise])[0]).toMatchObject({
      nudges: 0,
      curve: [],
      comparison: { spells: 0 },
    });
  });

  test('across a clock change a day has 24 hours', () => {
    const fall = ruleOf({ rhythm: { start: '2026-10-31T09:30', rrule: 'FREQ=DAILY', until: '2026-10-31' } });
    const [o] = outcomes({ people: [PEOPLE[0]!], events: [visit('p1', '2026-11-02T09:30')] }, '2026-11-30T00:00', [
      fall,
    ]);
    expect(o!.curve[0]!.days).toBeCloseTo(2 + 1 / 24, 9);
  });
});

describe('[O3] comparison spells', () => {
  // A budget of one nudge in 7 days: “first” nudges on Sep 5; “away” is held back from Sep 6 on, until Sep 12.
  const first = ruleOf({
    id: 'first',
    when: { measure: 'daysSinceVisit', is: '>=', value: 4 },
    rhythm: { start: '2026-09-05T09:00', rrule: 'FREQ=DAILY', until: '2026-09-05' },
  });
  const held = ruleOf({ rhythm: { start: '2026-09-06T09:30', rrule: 'FREQ=DAILY', until: '2026-09-20' } });
  const budget = { settings: { budget: { count: 1, days: 7 } } };

  test('begin at the decision that held back, say why, and are left out once the rule nudged before the act', () => {
    const story = { ...budget, events: [visit('p1', '2026-09-08T09:30'), visit('p2', '2026-09-14T09:30')] };
    const [, o] = outcomes(story, '2026-09-30T09:30', [first, held]);
    // In later spells p1 and p2 are nudged as well. For the spells of Sep 6: p1 came back after 2 days without a message; p2 was nudged on
    // Sep 12 and came back later, so it is left out; p3 was nudged on Sep 12, so it is censored.
    expect(o!.comparison).toMatchObject({ spells: 2, reasons: { budget: 2 } });
    expect(o!.comparison.curve.map((p) => [p.days, p.atRisk, p.acts])).toEqual([[2, 2, 1]]);
    expect(o).toMatchObject({ nudges: 4, returned: 1 });
  });
});
