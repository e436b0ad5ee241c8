/** What a process left behind that is gone, or that does not know whether its last turn was written. */
import type { Instant } from '@zest-bell/core/time';
import type { Orm, Tx } from '../../platform/database/orm.ts';
import { run, select } from '../../platform/database/query.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { move } from '../nudges/transitions.ts';
import { PUT_BACK } from './claim.ts';
import { messageHolds } from '../nudges/entity.ts';
import { workerHolds } from './entity.ts';
import { letGo } from './outcomes.ts';
import { deadWorkers, heartbeat } from './worker.ts';
import { removeRows } from '../../platform/database/writing.ts';
import { attemptHolds } from '../nudges/attempt.ts';
import { byClaim } from './claim.ts';

/**
 * Settles what processes left behind that no longer live: what had begun may have left or not, and is the instructor's to settle; all
 * else never left, and goes back to the queue. `worker` is the process that settles.
 */
export async function settleForDeadWorkers(orm: Orm, worker: string, now: Instant): Promise<void> {
  if ((await deadWorkers(orm.em.fork())).size === 0) return;
  await inTransaction(orm, async (tx) => {
    const em = byClaim(tx);
    await heartbeat(em, worker);
    const dead = [...(await deadWorkers(em))];
    const left = await claimedBy(em, dead);
    const begun = left.filter((m) => m.begunAt !== null).map((m) => m.id);
    await move(em, begun, { to: 'uncertain', from: ['handing'], now });
    const onTheirWay = em.getKnex()('attempt').where('outcome', 'handing');
    await run(
      em,
      attemptHolds,
      onTheirWay
        .clone()
        .whereIn('message', begun)
        .update({ outcome: 'unknown', response: 'Zest Bell stopped while this message was on its way.' }),
    );
    const neverBegun = left.filter((m) => m.begunAt === null).map((m) => m.id);
    await run(em, attemptHolds, onTheirWay.clone().whereIn('message', neverBegun).delete());
    await move(em, neverBegun, { ...PUT_BACK, now });
    await removeRows(em, workerHolds, { id: { $in: dead } });
  });
}

/**
 * A line to the database that is cut as a turn is written leaves open whether it was: what `worker` has claimed and not begun goes back
 * to the queue. Only for a process that has nothing in hand.
 */
export async function requeueStrayMessages(orm: Orm, worker: string, now: Instant): Promise<void> {
  await inTransaction(orm, async (tx) => {
    const em = byClaim(tx);
    const strays = (await claimedBy(em, [worker])).filter((m) => m.begunAt === null);
    await letGo(
      em,
      strays.map((m) => m.id),
      { worker, now },
    );
  });
}

const claimedBy = (em: Tx, workers: readonly string[]) =>
  select(em, messageHolds, ['id', 'begunAt'], (query) =>
    query.where('state', 'handing').whereIn('claimed_by', workers),
  );
