/** What is done when the clock was set: what a wrong clock had put off is worked out again, and Today tells of it. */
import { hostname } from 'node:os';
import { MOST_SEND_DELAY } from '@zest-bell/core/exchange';
import { DAY, type Instant } from '@zest-bell/core/time';
import type { ConnectionServices } from '../connections/services.ts';
import type { Tx } from '../platform/database/orm.ts';
import { run } from '../platform/database/query.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { giveNotice } from '../platform/notices/notices.ts';
import type { ClockStep } from '../platform/process/clockSteps.ts';
import { RoundRow, troubleHolds } from '../rounds/deciding/entity.ts';
import { LEASE } from '../platform/work/lease.ts';
import { nextRoundOf, readableRule } from '../rules/repository.ts';
import { RuleRow, ruleHolds } from '../rules/entity.ts';
import { updateRows } from '../platform/database/writing.ts';
import { inCourse } from '../course/lock.ts';
import { leaseHolds } from '../platform/work/entity.ts';
import { workerHolds, mailTroubleHolds } from '../mail/outbox/entity.ts';
import { sourceHolds } from '../connections/entity.ts';
import { sendingHolds } from '../mail/sendings/entity.ts';
import { messageHolds } from '../mail/nudges/entity.ts';
import type { Holds } from '../platform/database/holds.ts';

/** How long Today tells of it, in ms. */
const TOLD_FOR = 3 * DAY;

/** The longest that what somebody sends by hand waits, in ms. */
const LONGEST_WAIT = MOST_SEND_DELAY * 1_000;

/** Several processes may do this for one step: it comes to the same. */
export async function afterClockStep(services: ConnectionServices, { from, to }: ClockStep): Promise<void> {
  const { orm, logger } = services;
  const by = Math.round((to - from) / 1000);
  logger.warn({ event: 'clockStep', seconds: by }, 'the clock was set, or this machine slept');
  // From here on, everything held uses the right clock.
  const lastRound = (await orm.em.fork().find(RoundRow, {}, { orderBy: { id: 'desc' }, limit: 1 }))[0]?.id ?? 0;
  if (to < from) {
    await inTransaction(orm, (tx) => bringSooner(tx, to));
    await planRoundsAgain(services, to);
  }
  const span = spanWords(Math.abs(by));
  const says =
    by < 0
      ? `The clock of ${hostname()} was set back by ${span}.`
      : `The clock of ${hostname()} was set forward by ${span}, or the machine slept that long.`;
  await giveNotice(
    orm,
    { name: `clock ${Math.round(to / LEASE)}`, kind: 'clock', says, clock: { from, to, lastRound } },
    TOLD_FOR,
  );
}

/** Whatever lies ahead may have been put there by a clock that was ahead itself. */
async function bringSooner(tx: Tx, now: Instant): Promise<void> {
  const knex = tx.getKnex();
  const sooner = (table: Holds, column: string, to: Instant, least = to) =>
    run(
      tx,
      table,
      knex(table.entity.meta.tableName)
        .where(column, '>', least)
        .update({ [column]: to }),
    );
  await sooner(leaseHolds, 'until', now, now + LEASE);
  await sooner(workerHolds, 'alive_at', now);
  await sooner(mailTroubleHolds, 'next_try_at', now);
  await sooner(troubleHolds, 'next_try_at', now);
  await sooner(sourceHolds, 'next_at', now);
  await sooner(sendingHolds, 'until', now + LONGEST_WAIT);
  await sooner(sendingHolds, 'course_until', now + LONGEST_WAIT);
  // Quiet hours are looked at again when it is its turn.
  await run(
    tx,
    messageHolds as Holds,
    knex('message').where({ state: 'queued' }).where('send_at', '>', now).update({ send_at: now }),
  );
}

/** A rule with a next round too far ahead runs at its scheduled time; a round that was held is not held again. */
async function planRoundsAgain({ orm, live }: ConnectionServices, now: Instant): Promise<void> {
  const em = orm.em.fork();
  const rows = await em.find(RuleRow, { status: 'on', nextRoundAt: { $gt: now } }, { disableIdentityMap: true });
  for (const row of rows) {
    const rule = readableRule(row);
    const next = rule && nextRoundOf(rule, (await live.get(em, row.course)).course, now);
    if (next === null || next >= row.nextRoundAt!) continue;
    // Unless somebody has saved the rule in the meantime.
    const still = { id: row.id, nextRoundAt: row.nextRoundAt };
    await inCourse(orm, row.course, (tx) => updateRows(tx, ruleHolds, still, { nextRoundAt: next }));
  }
}

function spanWords(seconds: number): string {
  const minutes = Math.round(seconds / 60);
  const [hours, left] = [Math.floor(minutes / 60), minutes % 60];
  const parts = [hours > 0 ? `${hours} h` : '', left > 0 ? `${left} min` : ''];
  return parts.filter((part) => part !== '').join(' ');
}
