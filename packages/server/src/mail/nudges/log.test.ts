// Runs on PostgreSQL too.
/** What is read of the log for whom. */
import { asTx } from '../../testing/asTx.ts';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { RuleRow, RuleVersionRow } from '../../rules/entity.ts';
import { earlierConditions } from '../../rules/repository.ts';
import { insertNudge } from '../../testing/queued.ts';
import { at, openStage, ruleOf, type TestStage } from '../../testing/stage.ts';
import { changedRules, loggedNudges, nudgesIn, type NudgeSelection } from './log.ts';
import { unguarded } from '../../testing/unguarded.ts';

const DAY = (n: number) => at(`2026-09-${String(n).padStart(2, '0')}T09:30`);
let stage: TestStage;
beforeEach(async () => {
  stage = await openStage({
    now: '2026-09-20T12:00',
    rules: [ruleOf(), ruleOf({ id: 'other', name: 'Other', weight: 'strong' })],
  });
  for (const [student, rule, day] of [
    ['p1', 'away', 9],
    ['p2', 'away', 3],
    ['p1', 'other', 4],
    ['p2', 'other', 9],
    ['p1', null, 5],
    ['p3', 'away', 2],
  ] as const)
    await insertNudge(asTx(em()), { student, rule, roundAt: DAY(day), state: 'sent' });
  await insertNudge(asTx(em()), { course: 2, student: 'p1', roundAt: DAY(9) });
});
afterEach(() => stage.close());
const em = () => unguarded(stage.orm);
const read = async (wanted: NudgeSelection) => {
  const rules = await em().find(RuleRow, { course: 1 });
  return (await loggedNudges(em(), 1, rules, wanted)).map(
    (n) => `${n.student} ${n.rule} ${new Date(n.round).getUTCDate()}`,
  );
};

test('of some students, in the order in which it was decided, whatever the rule weighs now', async () => {
  expect(await read({ students: ['p1'] })).toEqual(['p1 away 9', 'p1 other 4', 'p1 null 5']);
  const [first, second, third] = await loggedNudges(em(), 1, [], { students: ['p1'] });
  expect(first).toEqual({
    rule: 'away',
    student: 'p1',
    round: DAY(9),
    step: 0,
    state: 'sent',
    toStudent: true,
    when: undefined,
    weight: 'normal',
  });
  expect([second!.weight, third!.weight]).toEqual(['strong', undefined]);
});

test('of a rule, and of all others since an instant', async () => {
  expect(await read({ rule: 'away', since: null })).toEqual(['p1 away 9', 'p2 away 3', 'p3 away 2']);
  expect(await read({ rule: 'away', since: DAY(5) })).toEqual([
    ...['p1 away 9', 'p2 away 3', 'p2 other 9', 'p1 null 5', 'p3 away 2'],
  ]);
  expect(await read({ rule: null, since: DAY(5) })).toEqual(['p1 away 9', 'p2 other 9', 'p1 null 5']);
  expect(await read({ rule: null, since: null })).toEqual([]);
});

test('of what may count, each once', async () => {
  expect(await read({ counted: { since: Infinity, older: [] } })).toEqual([]);
  expect(await read({ counted: { since: DAY(5), older: [] } })).toEqual(['p1 away 9', 'p2 other 9', 'p1 null 5']);
  const all = { rule: 'away', from: -Infinity, students: null };
  expect(await read({ counted: { since: Infinity, older: [all] } })).toEqual(['p1 away 9', 'p2 away 3', 'p3 away 2']);
  const some = { rule: 'away', from: DAY(3), students: ['p1', 'p2', 'p3'] };
  const counted = { since: DAY(9), older: [some, { ...all, from: DAY(2) }, { ...some, rule: 'other' }] };
  expect(await read({ counted })).toEqual(['p1 away 9', 'p2 away 3', 'p1 other 4', 'p2 other 9', 'p3 away 2']);
  expect(await read({ counted: { since: DAY(9), older: [{ ...some, students: ['p3'] }] } })).toEqual([
    ...['p1 away 9', 'p2 other 9'],
  ]);
});

test('under which condition a nudge was sent is known where its rule was changed since', async () => {
  const rule = await em().findOneOrFail(RuleRow, { course: 1, key: 'away' });
  const before = { measure: 'daysSinceVisit', is: '>=', value: 3 };
  await em().insert(RuleVersionRow, {
    rule: rule.id,
    version: 2,
    status: 'on',
    savedAt: 0,
    savedBy: null,
    document: { ...rule.document, when: before },
  });
  await em().nativeUpdate(RuleRow, { id: rule.id }, { version: 3 });
  const rules = await em().find(RuleRow, { course: 1 });
  expect(changedRules(await earlierConditions(em(), rules))).toEqual(new Set(['away']));
  await insertNudge(asTx(em()), { student: 'p3', ruleVersion: 2, roundAt: DAY(10) });
  const nudges = await loggedNudges(em(), 1, rules, { students: ['p3'] });
  expect(nudges.map((n) => n.when)).toEqual([undefined, before]);
});

test('how many nudges a span of rounds had, without those that were withdrawn', async () => {
  expect(await nudgesIn(em(), 1, DAY(3), DAY(9))).toBe(4);
  await insertNudge(asTx(em()), { state: 'withdrawn', roundAt: DAY(8) });
  expect(await nudgesIn(em(), 1, DAY(3), DAY(9))).toBe(4);
  expect(await nudgesIn(em(), 1, DAY(9), DAY(20))).toBe(0);
});
