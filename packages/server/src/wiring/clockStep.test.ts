// Runs on PostgreSQL too.
/** The clock of the server is set back: what it had put too far ahead happens in its time. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { HOUR, MINUTE } from '@zest-bell/core/time';
import type { TodayAnswer } from '@zest-bell/core/exchange';
import { afterClockStep } from './clockStep.ts';
import { MessageRow } from '../mail/nudges/entity.ts';
import { WorkerRow } from '../mail/outbox/entity.ts';
import { LEASE } from '../platform/work/lease.ts';
import { LeaseRow } from '../platform/work/entity.ts';
import { RoundRow } from '../rounds/deciding/entity.ts';
import { runDueRounds } from '../rounds/deciding/scheduler.ts';
import { SendingRow } from '../mail/sendings/entity.ts';
import { RuleRow } from '../rules/entity.ts';
import { asTx } from '../testing/asTx.ts';
import { insertNudge } from '../testing/queued.ts';
import { at, openStage, type TestStage } from '../testing/stage.ts';
import { unguarded } from '../testing/unguarded.ts';

let stage: TestStage;
const WRONG = '2026-09-10T12:00';
const RIGHT = '2026-09-08T07:00';
beforeEach(async () => {
  stage = await openStage({ now: WRONG });
});
afterEach(() => stage.close());

test('set back by two days: rounds, mail and leases that lie ahead by it come in their time', async () => {
  const { orm, services } = stage;
  const rule = async () => (await stage.rule()).nextRoundAt!;
  // Rang by the wrong clock, two days too early.
  await runDueRounds(services);
  await unguarded(orm).nativeUpdate(RuleRow, {}, { nextRoundAt: at('2026-09-10T09:30') });
  await runDueRounds(services);
  const em = unguarded(orm);
  await insertNudge(asTx(em), { student: 'p1' }, [{ sendAt: at('2026-09-11T07:00') }]);
  await em.nativeDelete(LeaseRow, {});
  await em.insert(LeaseRow, { name: 'folders', holder: 'gone', until: at(WRONG) });
  await em.insert(WorkerRow, { id: 'elsewhere/1/a', aliveAt: at(WRONG) });
  const before = await rule();
  expect(before).toBeGreaterThan(at(RIGHT) + 24 * HOUR);

  stage.clock.set(at(RIGHT));
  await afterClockStep(services, { from: at(WRONG), to: at(RIGHT) });
  const fresh = unguarded(orm);
  expect(await rule()).toBeLessThan(before);
  expect(await rule()).toBeLessThanOrEqual(at(RIGHT) + 24 * HOUR);
  expect((await fresh.findOneOrFail(MessageRow, { sendAt: { $gt: 0 } })).sendAt).toBe(at(RIGHT));
  expect((await fresh.findOneOrFail(LeaseRow, { name: 'folders' })).until).toBeLessThanOrEqual(at(RIGHT) + LEASE);
  expect((await fresh.findOneOrFail(WorkerRow, { id: 'elsewhere/1/a' })).aliveAt).toBeLessThanOrEqual(at(RIGHT));
  // It rings in its time.
  stage.clock.set((await rule()) + MINUTE);
  const [round] = await runDueRounds(services);
  expect(round).toMatchObject({ rule: 'away' });
});

test('a round that the wrong clock held is not held again when its time comes, and the rule goes on', async () => {
  const { orm, services } = stage;
  const due = at('2026-09-10T09:30');
  stage.clock.set(due);
  await unguarded(orm).nativeUpdate(RuleRow, {}, { nextRoundAt: due });
  await runDueRounds(services);
  stage.clock.set(due - 2 * HOUR);
  await afterClockStep(services, { from: due, to: due - 2 * HOUR });
  expect((await stage.rule()).nextRoundAt).toBe(due);
  stage.clock.set(due);
  expect(await runDueRounds(services)).toEqual([]);
  expect((await stage.rule()).nextRoundAt).toBeGreaterThan(due);
  expect(await unguarded(orm).count(RoundRow, { at: due })).toBe(1);
});

test('Today names the rounds that rang by the wrong clock, and This installation what happened', async () => {
  const { services } = stage;
  const due = at('2026-09-10T09:30');
  await unguarded(stage.orm).nativeUpdate(RuleRow, {}, { nextRoundAt: due });
  stage.clock.set(due);
  await runDueRounds(services);
  expect(await unguarded(stage.orm).count(RoundRow, { at: due })).toBe(1);
  stage.clock.set(at(RIGHT));
  await afterClockStep(services, { from: at(WRONG), to: at(RIGHT) });
  const ada = await stage.signIn();
  const today = (await ada.get('/api/v1/courses/1/today').expect(200)).body as TodayAnswer;
  expect(today.clock).toMatchObject([{ from: at(WRONG), to: at(RIGHT), rounds: [{ at: due }] }]);
  // What rings in its time after that did nothing wrong.
  stage.clock.set(at('2026-09-09T09:30'));
  expect(await runDueRounds(services)).toHaveLength(1);
  const later = (await ada.get('/api/v1/courses/1/today').expect(200)).body as TodayAnswer;
  expect(later.clock.flatMap((step) => step.rounds)).toMatchObject([{ at: due }]);
});

test('set forward, Today names the rounds whose instants the clock went past', async () => {
  const { services } = stage;
  stage.clock.set(at('2026-09-10T08:00'));
  await unguarded(stage.orm).nativeUpdate(RuleRow, {}, { nextRoundAt: at('2026-09-10T09:30') });
  const [from, to] = [at('2026-09-10T08:00'), at('2026-09-10T12:00')];
  stage.clock.set(to);
  await afterClockStep(services, { from, to });
  await runDueRounds(services);
  const ada = await stage.signIn();
  const today = (await ada.get('/api/v1/courses/1/today').expect(200)).body as TodayAnswer;
  expect(today.clock).toMatchObject([{ from, to, rounds: [{ at: at('2026-09-10T09:30') }] }]);
});

test('what somebody sends by hand waits no longer than it may when the clock is set back', async () => {
  const { orm, services } = stage;
  const sending = { account: 1, course: 1, kind: 'write' as const, words: '1 message', takeBack: {} };
  await unguarded(orm).insert(SendingRow, { ...sending, until: at(WRONG), courseUntil: at(WRONG) });
  await afterClockStep(services, { from: at(WRONG), to: at(RIGHT) });
  const { until, courseUntil } = await unguarded(orm).findOneOrFail(SendingRow, { course: 1 });
  expect(Math.max(until, courseUntil)).toBe(at(RIGHT) + MINUTE);
});
