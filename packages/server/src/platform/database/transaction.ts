/**
 * Transactions on a database that several processes share. Who finds it locked waits without blocking the process and
 * begins again from what is true then, so that a decision never is on something read before the lock was there.
 */
import { keepingPlace } from '../turns/requestQueue.ts';
import type { AnyOrm, Orm, Tx } from './orm.ts';
import { checkLeases } from '../turns/holding.ts';
import { seeingRoom } from './space.ts';
import { whenFree } from './whenFree.ts';
import { mayWrite } from './writers.ts';

/**
 * Runs `work` in a transaction that holds nothing yet, and again if the database was busy.
 *
 * @throws `busy` if it stays busy; `LeaseLost` under a lease that is no longer held.
 */
export const inTransaction = <T>(orm: Orm, work: (tx: Tx) => Promise<T>): Promise<T> =>
  whenFree(async () => {
    await mayWrite(orm);
    return seeingRoom(orm, () =>
      (orm as unknown as AnyOrm).em.fork().transactional((em) =>
        keepingPlace(async () => {
          await checkLeases(em);
          return work(em as unknown as Tx);
        }),
      ),
    );
  });
