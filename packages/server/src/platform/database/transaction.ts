/**
 * Transactions on a database that several processes share. Who finds it locked waits without blocking the process and
 * begins again from what is true then, so that a decision never stands on something read before the lock was there.
 */
import { keepingPlace } from '../http/requestQueue.ts';
import type { Orm, Tx } from './orm.ts';
import { seeingRoom } from './space.ts';
import { whenFree } from './whenFree.ts';

/** Runs `work` in a transaction, again if the database was busy. Throws `busy` when it stays so. */
export const inTransaction = <T>(orm: Orm, work: (tx: Tx) => Promise<T>): Promise<T> =>
  whenFree(() => seeingRoom(orm, () => orm.em.fork().transactional((em) => keepingPlace(() => work(em as Tx)))));
