// Runs on PostgreSQL too.
/** What is done before mail is done once, however many processes are at it. */
import { afterEach, expect, test } from '@jest/globals';
import { Account } from '../access/entity.ts';
import { PersonRow } from '../course/entity.ts';
import { BEFORE_MAIL } from './dispatching.ts';
import type { Em } from '../platform/database/orm.ts';
import { rowsOf } from '../platform/database/query.ts';
import { tableNames } from '../platform/database/tables.ts';
import { PlainMailRow } from '../mail/plainMail/entity.ts';
import { runDueRounds } from '../rounds/deciding/scheduler.ts';
import { at, openStage, ruleOf, type TestStage } from '../testing/stage.ts';
import { unguarded } from '../testing/unguarded.ts';

const stages: TestStage[] = [];
afterEach(async () => {
  for (const stage of stages.splice(0).toReversed()) await stage.close();
});
const HELD = ruleOf({ steps: [{ deliver: 'hold', to: ['student'], wording: 'gentle' }] });
const opened = async (folder?: string) => {
  const stage = await openStage({
    now: '2026-09-05T12:00',
    rules: [HELD],
    ...(folder === undefined ? {} : { folder }),
  });
  stages.push(stage);
  return stage;
};

/** Nudges that wait, one with a pause that ends overnight, one with a longer pause, and an account that wants a summary. */
async function withWork(): Promise<TestStage> {
  const stage = await opened();
  stage.clock.set(at('2026-09-06T09:30'));
  await runDueRounds(stage.services);
  const em = unguarded(stage.orm);
  await em.nativeUpdate(PersonRow, { key: 'p1' }, { paused: true, pausedUntil: at('2026-09-07T00:00') });
  await em.nativeUpdate(PersonRow, { key: 'p2' }, { paused: true, pausedUntil: at('2026-09-20T00:00') });
  const wants = { digest: 'daily' as const, digestAt: at('2026-09-07T07:00') };
  await em.nativeUpdate(Account, { email: 'ada@saltmarsh.example' }, wants);
  return stage;
}

/** Everything in every table but what differs from run to run by its nature. */
async function everything(em: Em): Promise<unknown> {
  const made = /^(message_id|created_at|at|password_hash|token_hash|id|changed_at|seen_at|made_at|claim)$/;
  const all: [string, unknown][] = [];
  for (const table of await tableNames(em)) {
    if (table === 'mikro_orm_migrations') continue;
    const rows = await rowsOf<Record<string, unknown>>(em, em.getKnex()(table).select('*'));
    const told = rows.map((row) =>
      JSON.stringify(
        Object.entries(row)
          .filter(([column]) => !made.test(column))
          .toSorted(),
      ),
    );
    all.push([table, told.toSorted()]);
  }
  return all;
}

const MORNING = at('2026-09-07T07:00');

test('two processes leave what one alone leaves', async () => {
  const alone = await withWork();
  const before = await everything(unguarded(alone.orm));
  alone.clock.set(MORNING);
  for (const work of BEFORE_MAIL) await work(alone.services);
  const byOne = await everything(unguarded(alone.orm));
  expect(byOne).not.toEqual(before);
  expect(await unguarded(alone.orm).count(PlainMailRow, { kind: 'digest' })).toBe(1);

  const first = await withWork();
  const second = await opened(first.folder);
  for (const stage of [first, second]) stage.clock.set(MORNING);
  for (const work of BEFORE_MAIL)
    await Promise.all([first, second, first, second].map((stage) => work(stage.services)));
  expect(await everything(unguarded(first.orm))).toEqual(byOne);
  const paused = await unguarded(first.orm).find(PersonRow, { paused: true });
  expect(paused.map((p) => p.key)).toEqual(['p2']);
});
