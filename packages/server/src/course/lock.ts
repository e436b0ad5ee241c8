/** A course that one transaction has to itself. */
import { LockMode } from '@mikro-orm/core';
import { AppError } from '../platform/http/errors.ts';
import type { Orm, Tx } from '../platform/database/orm.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { CourseRow } from './entity.ts';

/**
 * Holds a course until the transaction ends. Whoever counts what its limits leave, looks for what is not there yet, gives the next
 * place, or writes back what it has read, does so under it; others who do so wait. Throws `notFound`.
 */
export async function lockCourse(tx: Tx, id: number): Promise<CourseRow> {
  const row = await tx.findOne(CourseRow, { id }, { lockMode: LockMode.PESSIMISTIC_WRITE, refresh: true });
  if (!row) throw new AppError('notFound');
  return row;
}

/** A transaction that has a course to itself from its start. */
export const inCourse = <T>(orm: Orm, id: number, work: (tx: Tx, course: CourseRow) => Promise<T>): Promise<T> =>
  inTransaction(orm, async (tx) => work(tx, await lockCourse(tx, id)));
