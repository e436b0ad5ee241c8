/** A course that one transaction has to itself. */
import { LockMode, type RequiredEntityData } from '@mikro-orm/core';
import { AppError } from '../platform/errors/errors.ts';
import { nowHolds } from '../platform/database/held.ts';
import type { AnyEm, Orm, Tx } from '../platform/database/orm.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { CourseRow } from './entity.ts';

/**
 * Holds a course until the transaction ends, beside what the transaction holds already. Others who want it wait. A transaction holds courses
 * in the order of their ids, and accounts before courses. Throws `notFound`.
 */
export async function alsoCourse<T>(
  tx: Tx,
  id: number,
  work: (tx: Tx<'course'>, course: CourseRow) => Promise<T>,
): Promise<T> {
  const row = await tx.findOne(CourseRow, { id }, { lockMode: LockMode.PESSIMISTIC_WRITE, refresh: true });
  if (!row) throw new AppError('notFound');
  nowHolds(tx, 'course', id);
  return work(tx as Tx<'course'>, row);
}

/** A transaction that has a course to itself from its start. Throws `notFound`. */
export const inCourse = <T>(
  orm: Orm,
  id: number,
  work: (tx: Tx<'course'>, course: CourseRow) => Promise<T>,
): Promise<T> => inTransaction(orm, (tx) => alsoCourse(tx, id, work));

/** A transaction that has several courses to itself from its start, in the order of their ids. `of` gives a course's row. Throws `notFound`. */
export const inCourses = <T>(
  orm: Orm,
  ids: readonly number[],
  work: (tx: Tx<'course'>, of: (id: number) => CourseRow) => Promise<T>,
): Promise<T> =>
  inTransaction(orm, async (tx) => {
    const rows = new Map<number, CourseRow>();
    for (const id of [...new Set(ids)].toSorted((a, b) => a - b))
      await alsoCourse(tx, id, (_held, row) => Promise.resolve(rows.set(id, row)));
    return work(tx as Tx<'course'>, (id) => rows.get(id)!);
  });

/** Adds a course, which nobody else can see before the transaction ends, and holds it. */
export async function withNewCourse<T>(
  tx: Tx,
  row: RequiredEntityData<CourseRow>,
  work: (tx: Tx<'course'>, course: CourseRow) => Promise<T>,
): Promise<T> {
  const em = tx as unknown as AnyEm;
  const made = em.create(CourseRow, row);
  await em.flush();
  nowHolds(tx, 'course', made.id);
  return work(tx as Tx<'course'>, made);
}
