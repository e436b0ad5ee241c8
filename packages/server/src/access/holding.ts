/** An account, a course or the settings of the installation, that one transaction has to itself. */
import { LockMode, type RequiredEntityData } from '@mikro-orm/core';
import { AppError } from '../platform/errors/errors.ts';
import { nowHolds } from '../platform/database/held.ts';
import type { AnyEm, Orm, Tx } from '../platform/database/orm.ts';
import { isOnServer } from '../platform/database/postgres.ts';
import { rowsOf } from '../platform/database/query.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { Account, InstallationRow } from './entity.ts';

/**
 * Holds an account until the transaction ends. Accounts come before courses, in the order of their ids. Throws `notFound`.
 */
export async function alsoAccount<T>(
  tx: Tx,
  id: number,
  work: (tx: Tx<'account'>, account: Account) => Promise<T>,
): Promise<T> {
  const row = await tx.findOne(Account, { id }, { lockMode: LockMode.PESSIMISTIC_WRITE, refresh: true });
  if (!row) throw new AppError('notFound');
  nowHolds(tx, 'account', id);
  return work(tx as Tx<'account'>, row);
}

/** A transaction that has an account to itself from its start. Throws `notFound`. */
export const inAccount = <T>(
  orm: Orm,
  id: number,
  work: (tx: Tx<'account'>, account: Account) => Promise<T>,
): Promise<T> => inTransaction(orm, (tx) => alsoAccount(tx, id, work));

/** Adds an account, which nobody else can see before the transaction ends, and holds it. */
export async function withNewAccount<T>(
  tx: Tx,
  row: RequiredEntityData<Account>,
  work: (tx: Tx<'account'>, account: Account) => Promise<T>,
): Promise<T> {
  const em = tx as unknown as AnyEm;
  const made = em.create(Account, row);
  await em.flush();
  nowHolds(tx, 'account', made.id);
  return work(tx as Tx<'account'>, made);
}

/** A transaction that has a course to itself, for what people may do there (`course/lock.ts` gives its row as well). Throws `notFound`. */
export const holdingCourse = <T>(orm: Orm, id: number, work: (tx: Tx<'course'>) => Promise<T>): Promise<T> =>
  inTransaction(orm, (tx) => alsoHoldingCourse(tx, id, work));

export async function alsoHoldingCourse<T>(tx: Tx, id: number, work: (tx: Tx<'course'>) => Promise<T>): Promise<T> {
  const course = tx.getKnex()('course').where({ id }).select('id');
  if ((await rowsOf(tx, isOnServer(tx) ? course.forUpdate() : course)).length === 0) throw new AppError('notFound');
  nowHolds(tx, 'course', id);
  return work(tx as Tx<'course'>);
}

const ID = 1;

/** A transaction that has what is set for the whole installation to itself. */
export const inInstallation = <T>(orm: Orm, work: (tx: Tx<'installation'>) => Promise<T>): Promise<T> =>
  inTransaction(orm, (tx) => alsoInstallation(tx, work));

async function alsoInstallation<T>(tx: Tx, work: (tx: Tx<'installation'>) => Promise<T>): Promise<T> {
  await (tx as unknown as AnyEm).upsert(InstallationRow, { id: ID });
  await tx.findOne(InstallationRow, { id: ID }, { lockMode: LockMode.PESSIMISTIC_WRITE, refresh: true });
  return work(tx as Tx<'installation'>);
}
