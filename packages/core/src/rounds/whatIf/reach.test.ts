import { expect, test } from '@jest/globals';
import { at, factsOf, item, person, ruleOf } from '../../testing/build.ts';
import { leavesOf, type Condition, type Leaf } from '../../conditions/condition.ts';
import { HistoryFacts } from '../../measures/facts/facts.ts';
import { NOTHING_LOGGED, NudgeLog } from '../decide/log.ts';
import type { Rule } from '../../rules/rule.ts';
import { decide } from '../decide/decide.ts';
import { explained } from '../decide/decision.ts';
import { measureColumn, packColumn, unpackColumn } from '../../measures/facts/column.ts';
import { lookNearby, reach, receivedReach, SentFacts } from './reach.ts';

const people = ['p1', 'p2', 'p3', 'p4'].map((id) => person(id));
const facts = factsOf({
  people,
  items: [item('q1')],
  events: [
    ['p1', 'visit', '2026-09-01T14:03'],
    ['p2', 'visit', '2026-09-18T08:00'],
    ['p3', 'visit', '2026-09-10T08:00'],
    ['p4', 'visit', '2026-09-14T09:30'],
  ],
  grades: [
    ['p1', 'q1', 9, '2026-09-15T08:00'],
    ['p3', 'q1', 18, '2026-09-15T08:00'],
  ],
});
const rule = ruleOf({
  when: {
    all: [
      { measure: 'daysSinceVisit', is: '>=', value: 5 },
      { measure: 'score', item: 'q1', is: '<=', value: 50 },
    ],
  },
});
const now = at('2026-09-20T09:30');
const sent = () =>
  new SentFacts(
    facts.course,
    leavesOf(rule.when).map((call) => unpackColumn(packColumn(measureColumn(call, facts, now)))!),
  );

const inBrowser = (of: Rule) => reach(of, sent(), NOTHING_LOGGED, now).decisions;
const onServer = (of: Rule) => decide([of], facts, new NudgeLog(), now).map((d) => explained(d, of, facts));

test('what the browser computes from values alone is what the server decides from the history', () => {
  for (const value of [1, 3, 5, 6, 10, 19, 20]) {
    const dragged = ruleOf({ when: { measure: 'daysSinceVisit', is: '>=', value } });
    expect(inBrowser(dragged)).toEqual(onServer(dragged));
  }
  expect(inBrowser(rule)).toEqual(onServer(rule));
  expect(onServer(rule)).toMatchObject([{ student: 'p1', to: [{ address: 'p1@saltmarsh.example' }] }]);
});

test('[C5] each student is a dot that says whether all conditions are met, this one only, or nobody can say', () => {
  const { dots, matching, audience } = receivedReach(reach(rule, sent(), NOTHING_LOGGED, now), facts.course);
  expect([audience, matching]).toEqual([4, 1]);
  expect(dots[0]!.map((d) => [d.student, d.value, d.meets])).toEqual([
    ['p1', 18, 'all'],
    ['p2', 2, 'no'],
    ['p3', 10, 'this'],
    ['p4', 6, 'this'],
  ]);
  expect(dots[1]!.map((d) => d.meets)).toEqual(['all', 'unknown', 'no', 'unknown']);
});

test('[R4] who matches before the first step is due waits without a decision', () => {
  const patient = ruleOf({ steps: [{ after: { days: 30 }, deliver: 'send', to: ['student'], wording: 'w' }] });
  const r = reach(patient, sent(), NOTHING_LOGGED, now);
  expect(r.decisions).toEqual([]);
  expect(r.waiting.map((w) => w.student)).toEqual(['p1', 'p3', 'p4']);
  // p1 is away since Sep 6, p3 since Sep 15 and p4 since Sep 19: of p1 alone the first step is due after ten days.
  const tenDays = ruleOf({ steps: [{ after: { days: 10 }, deliver: 'send', to: ['student'], wording: 'w' }] });
  const some = reach(tenDays, sent(), NOTHING_LOGGED, now);
  expect(some.decisions.map((d) => d.student)).toEqual(['p1']);
  expect(some.waiting.map((w) => [w.student, w.evidence.length])).toEqual([
    ['p3', 1],
    ['p4', 1],
  ]);
  expect([some.counts.sent, some.counts.waiting]).toEqual([1, 2]);
  // p2 was away for 18 days before the visit of Sep 18.
  expect([r.matching, r.everMatched]).toEqual([3, 4]);
});

test('is sent by outcome, with the reasons of the first alone until all are asked for', () => {
  const held = ruleOf({ when: { measure: 'daysSinceVisit', is: '>=', value: 2 }, repeat: { perSpell: 1 } });
  const logged = [
    { rule: 'away', student: 'p1', round: at('2026-09-10T09:30'), step: 0, state: 'sent', toStudent: true },
  ] as const;
  const of = (most: number) => reach(held, sent(), { nudges: logged, replies: [] }, now, now, most);
  const whole = of(Infinity);
  const short = receivedReach(structuredClone(of(2)), facts.course);
  expect(short.dots).toEqual(receivedReach(whole, facts.course).dots);
  expect(short.decisions.map((d) => [d.student, d.outcome, d.evidence.length])).toEqual([
    ['p2', 'sent', 1],
    ['p3', 'sent', 1],
  ]);
  expect(short.counts).toEqual({ sent: 3, held: 0, withheld: 1, withdrawn: 0, waiting: 0, sentByStep: [3] });
  const everyone = whole.decisions;
  expect(everyone.map((d) => d.student)).toEqual(['p2', 'p3', 'p4', 'p1']);
  expect(everyone.every((d) => d.evidence.length === 1)).toBe(true);
  const patient = ruleOf({ steps: [{ after: { days: 30 }, deliver: 'send', to: ['student'], wording: 'w' }] });
  const waiting = reach(patient, sent(), NOTHING_LOGGED, now, now, 1);
  expect([waiting.counts.waiting, waiting.waiting.map((w) => w.evidence.length)]).toEqual([3, [1]]);
});

test('who is not in the audience is no dot, and who met it only later was not found before', () => {
  const some = { ...rule, when: leavesOf(rule.when)[0]!, audience: { ...rule.audience, except: ['p1', 'p3'] } };
  const whole = receivedReach(reach(some, sent(), NOTHING_LOGGED, now), facts.course);
  expect([whole.audience, whole.matching, whole.everMatched]).toEqual([2, 1, 2]);
  expect(whole.dots[0]!.map((d) => d.student)).toEqual(['p2', 'p4']);
  // p2's first five days away are reached on Sep 5, at midnight.
  const ever = (t: number) => reach(some, new HistoryFacts(facts.course, facts.history), NOTHING_LOGGED, t).everMatched;
  expect([ever(at('2026-09-05T00:00') - 1), ever(at('2026-09-05T00:00'))]).toEqual([0, 2]);
});

test('a text or a yes is a dot’s value as it stands, and what nobody can say is none', () => {
  const tutored = factsOf({
    people: [person('p1', { fields: { tutor: 'Ada' } }), person('p2', { fields: { tutor: 3 } }), person('p3')],
    items: [item('q1', { excused: ['p2'] })],
  });
  const dots = (when: Condition) =>
    receivedReach(reach(ruleOf({ when }), tutored, NOTHING_LOGGED, now), tutored.course).dots[0]!.map((d) => [
      d.value,
      d.meets,
    ]);
  expect(dots({ measure: 'field', name: 'tutor', is: 'equals', value: 'ada' })).toEqual([
    ['Ada', 'all'],
    [3, 'unknown'],
    [null, 'unknown'],
  ]);
  expect(dots({ measure: 'submitted', item: 'q1', is: 'equals', value: false })).toEqual([
    [false, 'all'],
    [null, 'unknown'],
    [false, 'all'],
  ]);
  expect(dots({ measure: 'score', item: 'q1', is: 'empty' })).toEqual([
    [null, 'all'],
    [null, 'unknown'],
    [null, 'all'],
  ]);
});

test('facts that were not sent are unknown, and those of another instant are no answer', () => {
  const [away, score] = leavesOf(rule.when) as [Leaf, Leaf];
  const only = new SentFacts(facts.course, [measureColumn(away, facts, now)]);
  expect([only.has([away]), only.has([away, score]), only.has([score])]).toEqual([true, false, false]);
  expect(only.timeline(0, score)).toEqual({ kind: 'none' });
  expect(only.fact(0, score, now)).toEqual({ kind: 'doesNotCount' });
  expect(only.fact(0, away, now)).toEqual(facts.fact(0, away, now));
  expect(() => only.fact(0, away, now + 1)).toThrow(RangeError);
  expect(only.timeline(0, away)).toBe(only.timeline(0, away));
  expect(only.version()).toBe(0);
});

test('what lies near each number of a condition is worked out beforehand, the nearest first, and within its bounds', () => {
  const near = { ...rule, when: { all: [{ measure: 'daysSinceVisit', is: '>=', value: 2 }] } } as typeof rule;
  const known = sent();
  const asked: string[] = [];
  const { drafts } = known;
  const noticed: SentFacts = Object.assign(Object.create(known) as SentFacts, {
    drafts: {
      get: (key: string) => drafts.get(key),
      set: (key: string, sides: Parameters<typeof drafts.set>[1]) => {
        asked.push(key);
        drafts.set(key, sides);
      },
    },
  });
  for (const _ of lookNearby(near, noticed, NOTHING_LOGGED, now, 2));
  const values = asked.map((key) => (JSON.parse(key) as Leaf).value);
  // Two days, and no fewer than none.
  expect(values).toEqual([1, 3, 0, 4, 5]);
  const drawn = (value: number) => ({ ...near, when: { all: [{ ...leavesOf(near.when)[0]!, value }] } }) as typeof rule;
  for (const value of values as number[]) {
    const fresh = receivedReach(reach(drawn(value), sent(), NOTHING_LOGGED, now), known.course);
    expect(receivedReach(reach(drawn(value), noticed, NOTHING_LOGGED, now), known.course)).toEqual(fresh);
  }
  expect(asked).toHaveLength(5);
});
