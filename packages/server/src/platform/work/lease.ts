/** Work that runs once across all processes: the process that holds its lease does it, and the others skip it. */
import { setTimeout as wait } from 'node:timers/promises';
import { databaseMoment } from '../database/moment.ts';
import type { Em, Orm } from '../database/orm.ts';
import { rowsOf, run, runReturning } from '../database/query.ts';
import { inTransaction } from '../database/transaction.ts';
import { LeaseLost, whileHeld, type LeaseName } from '../turns/holding.ts';
import { leaseHolds } from './entity.ts';

/** How long a process that says nothing any more keeps its work from the others, in ms. */
export const LEASE = 60_000;

/**
 * Does `work` and gives its result; null when it is somebody else's at this moment. `work` is told by a signal once its lease could not be
 * renewed for two thirds of its time; its transactions see for themselves, and throw `LeaseLost`. `lasts`: how long a lease is, in ms.
 */
export async function underLease<T>(
  orm: Orm,
  name: string,
  work: (lost: AbortSignal) => Promise<T>,
  lasts = LEASE,
): Promise<{ readonly result: T } | null> {
  const holder = crypto.randomUUID();
  if (!(await hold(orm, name, holder, lasts))) return null;
  const lost = new AbortController();
  let renewedAt = performance.now();
  const renew = async () => {
    // Somebody else has it.
    if (!(await hold(orm, name, holder, lasts))) return lost.abort();
    renewedAt = performance.now();
  };
  const renewing = setInterval(() => {
    if (performance.now() - renewedAt >= (2 * lasts) / 3) lost.abort();
    if (!lost.signal.aborted) renew().catch(() => undefined);
  }, lasts / 3);
  const check = async (em: Em) => {
    if (lost.signal.aborted || !(await isHeld(em, name, holder))) {
      lost.abort();
      throw new LeaseLost(name);
    }
  };
  try {
    return { result: await whileHeld({ name, holder, check }, () => work(lost.signal)) };
  } finally {
    clearInterval(renewing);
    await inTransaction(orm, (tx) => run(tx, leaseHolds, tx.getKnex()('lease').where({ name, holder }).delete()));
  }
}

/** Does `work` in a thread of the process that holds these leases. Its transactions throw `LeaseLost` where one is lost. */
export const underLeasesOf = <T>(leases: readonly LeaseName[], work: () => T): T =>
  leases.reduceRight(
    (inner, { name, holder }) =>
      () => {
        const check = async (em: Em) => {
          if (!(await isHeld(em, name, holder))) throw new LeaseLost(name);
        };
        return whileHeld({ name, holder, check }, inner);
      },
    work,
  )();

/** How often anyone who waits looks, in ms. */
const LOOK = 200;

/** Ends once nobody has the lease; looks without writing, and beside whatever is being written where `reading` is that connection. */
export async function untilFree(reading: Orm, name: string): Promise<void> {
  while (await isHeld(reading.em.fork(), name)) await wait(LOOK);
}

const isHeld = async (em: Em, name: string, holder?: string): Promise<boolean> => {
  const whose = holder === undefined ? { name } : { name, holder };
  const held = em.getKnex()('lease').select('name').where(whose).where('until', '>=', databaseMoment(em));
  return (await rowsOf<object>(em, held)).length > 0;
};

/** Takes the lease, or makes one's own longer; false while somebody else has it. */
const hold = (orm: Orm, name: string, holder: string, lasts: number): Promise<boolean> =>
  inTransaction(orm, async (tx) => {
    const knex = tx.getKnex();
    const now = databaseMoment(tx);
    const until = knex.raw('? + ?', [now, lasts]);
    const taken = knex('lease')
      .insert({ name, holder, until })
      .onConflict('name')
      .merge({ holder, until })
      .where((free) => void free.where('lease.holder', holder).orWhere('lease.until', '<', now))
      .returning('name');
    return (await runReturning(tx, leaseHolds, taken)).length > 0;
  });
