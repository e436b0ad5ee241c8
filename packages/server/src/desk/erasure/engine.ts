/**
 * Removes a student from every table, and what is known of students from a course, by what each table declares that it holds. Every slice
 * is a transaction of its own, may be done again, and leaves other work its turn.
 */
import { setImmediate as nextTurn } from 'node:timers/promises';
import { isDeepStrictEqual } from 'node:util';
import type { Knex } from '@mikro-orm/knex';
import { lockCourse } from '../../course/lock.ts';
import { ROW_GOES, type Column, type Gone, type Holds } from '../../platform/database/holds.ts';
import type { Em, Orm, Tx } from '../../platform/database/orm.ts';
import { inSlices, rowsOf, run } from '../../platform/database/query.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { declarations } from './declarations.ts';
import { aboutThem, fieldOf, inCourseOf, isUnique, keyOf, pagesOf, stored, tableOf, type Id } from './rowsOf.ts';

/** Rows that one transaction changes. */
const AT_ONCE = 500;

/** Removes a student from all tables. Tables of mail come again at the end: an answer of the mail server may have come meanwhile. */
export async function eraseRows(orm: Orm, course: number, gone: Gone): Promise<void> {
  for (const of of declarations) await eraseIn(orm, of, course, gone);
  for (const of of declarations.filter(isOfMail)) await eraseAbout(orm, of, course, gone);
}

const isOfMail = ({ owner }: Holds): boolean => owner.includes('claim');

async function eraseIn(orm: Orm, of: Holds, course: number, gone: Gone): Promise<void> {
  await eraseAbout(orm, of, course, gone);
  await search(orm, of, course, gone);
  await nextTurn();
}

const at = (em: Em, of: Holds): Knex.QueryBuilder => em.getKnex()(tableOf(em, of));

/** The rows about them: they go, or stand under another id without what they know. */
async function eraseAbout(orm: Orm, of: Holds, course: number, gone: Gone): Promise<void> {
  if (of.about.length === 0) return;
  const keys = [...(await aboutThem(orm.em.fork(), of, course, gone))];
  for (const slice of inSlices(keys, AT_ONCE)) {
    await inTransaction(orm, async (tx) => {
      const theirs = () => at(tx, of).whereIn(keyOf(tx, of), slice);
      if (of.erased === 'goes') return run(tx, theirs().delete());
      await emptyShared(tx, of, course, theirs);
      const left = { ...idsOf(tx, of, gone), ...emptiedOf(tx, of) };
      if (Object.keys(left).length > 0) await run(tx, theirs().update(left));
      await emptyMade(tx, of, slice);
    });
    await nextTurn();
  }
}

const columnsOf = (of: Holds, isWanted: (column: Column) => boolean): string[] =>
  Object.entries(of.columns).flatMap(([column, what]) => (isWanted(what) ? [column] : []));

const idsOf = (em: Em, of: Holds, { standsAs }: Gone): Record<string, unknown> =>
  Object.fromEntries(columnsOf(of, ({ kind }) => kind === 'personId').map((c) => [fieldOf(em, of, c), standsAs]));

/** What columns hold once nothing of a person may stand in them, as the database stores it. */
function emptiedOf(em: Em, of: Holds, only?: readonly string[]): Record<string, unknown> {
  const left: Record<string, unknown> = {};
  for (const [column, { emptied }] of Object.entries(of.columns))
    if (emptied && 'to' in emptied && (only?.includes(column) ?? true))
      left[fieldOf(em, of, column)] = stored(em, of, column, emptied.to);
  return left;
}

/** Rows of others that say the same as theirs. */
async function emptyShared(tx: Tx, of: Holds, course: number, theirs: () => Knex.QueryBuilder): Promise<void> {
  for (const about of of.about) {
    if (!('sharing' in about)) continue;
    const field = fieldOf(tx, of, about.sharing);
    const alike = inCourseOf(tx, of, course)!.whereIn(field, theirs().select(field));
    await run(tx, alike.update(emptiedOf(tx, of, about.columns)));
  }
}

async function emptyMade(tx: Tx, of: Holds, keys: readonly Id[]): Promise<void> {
  for (const [column, { emptied }] of Object.entries(of.columns)) {
    if (!emptied || !('make' in emptied)) continue;
    for (const key of keys)
      await run(
        tx,
        at(tx, of)
          .where(keyOf(tx, of), key)
          .update({ [fieldOf(tx, of, column)]: emptied.make(Number(key)) }),
      );
  }
}

/** Rows of others in which they may be named. They are looked through first, and once more under the lock where something is found. */
async function search(orm: Orm, of: Holds, course: number, gone: Gone): Promise<void> {
  const columns = columnsOf(of, ({ searched }) => searched !== undefined);
  if (columns.length === 0 || of.course === null) return;
  const em = orm.em.fork();
  for await (const page of pagesOf(em, of, course, columns)) {
    const found = page.filter((row) => changesOf(em, of, columns, row, gone) !== null).map((row) => row.pk);
    for (const slice of inSlices(found, AT_ONCE))
      await inTransaction(orm, async (tx) => {
        await lockCourse(tx, course);
        await clean(tx, of, course, columns, slice, gone);
      });
    await nextTurn();
  }
}

async function clean(
  tx: Tx,
  of: Holds,
  course: number,
  columns: readonly string[],
  keys: readonly Id[],
  gone: Gone,
): Promise<void> {
  for await (const page of pagesOf(tx, of, course, columns, keys)) {
    for (const row of page) {
      const changes = changesOf(tx, of, columns, row, gone);
      if (changes === null) continue;
      const one = at(tx, of).where(keyOf(tx, of), row.pk);
      await run(tx, changes === ROW_GOES ? one.delete() : one.update(changes));
    }
  }
}

/** What is to be written into a row, as the database stores it; null where it does not name them. */
function changesOf(
  em: Em,
  of: Holds,
  columns: readonly string[],
  row: Readonly<Record<string, unknown>>,
  gone: Gone,
): Record<string, unknown> | typeof ROW_GOES | null {
  const changes: Record<string, unknown> = {};
  for (const column of columns) {
    const before = row[column];
    if (before === null || before === undefined) continue;
    const after = of.columns[column]!.searched!(before as never, gone);
    if (after === ROW_GOES) return ROW_GOES;
    if (isDeepStrictEqual(after, before)) continue;
    // Two names that differed would be one now.
    const own = typeof after === 'string' && isUnique(em, of, column) ? `${after} ${String(row['pk'])}` : after;
    changes[fieldOf(em, of, column)] = stored(em, of, column, own);
  }
  return Object.keys(changes).length > 0 ? changes : null;
}

/** What is known of students of a course goes, table by table. Returns how many rows were removed or emptied. */
export async function forgetRows(orm: Orm, course: number): Promise<number> {
  let rows = 0;
  for (const of of declarations) {
    if (of.kept === 'stays' || of.course === null) continue;
    rows += of.kept === 'goes' ? await removeAll(orm, of, course) : await emptyAll(orm, of, course);
  }
  return rows;
}

/** Rows of a course that a condition leaves, slice by slice. */
async function slicesOf(
  orm: Orm,
  of: Holds,
  course: number,
  isWanted: (query: Knex.QueryBuilder, em: Em) => void,
  work: (tx: Tx, keys: readonly Id[]) => Promise<void>,
): Promise<number> {
  let done = 0;
  for (let after: Id | null = null; ;) {
    const found: readonly Id[] = await inTransaction(orm, async (tx) => {
      const key = keyOf(tx, of);
      const query = inCourseOf(tx, of, course)!.select({ pk: key }).orderBy(key).limit(AT_ONCE);
      if (after !== null) void query.where(key, '>', after);
      isWanted(query, tx);
      const keys = (await rowsOf<{ pk: Id }>(tx, query)).map((row) => row.pk);
      if (keys.length > 0) await work(tx, keys);
      return keys;
    });
    done += found.length;
    if (found.length < AT_ONCE) return done;
    after = found.at(-1)!;
    await nextTurn();
  }
}

const removeAll = (orm: Orm, of: Holds, course: number): Promise<number> =>
  slicesOf(
    orm,
    of,
    course,
    () => undefined,
    (tx, keys) => run(tx, at(tx, of).whereIn(keyOf(tx, of), keys).delete()),
  );

/** Those that are not empty yet. */
const emptyAll = (orm: Orm, of: Holds, course: number): Promise<number> =>
  slicesOf(
    orm,
    of,
    course,
    (query, em) =>
      void query.where((any) => {
        for (const [field, value] of Object.entries(emptiedOf(em, of)))
          void (value === null ? any.orWhereNotNull(field) : any.orWhereNot(field, value as string));
      }),
    (tx, keys) => run(tx, at(tx, of).whereIn(keyOf(tx, of), keys).update(emptiedOf(tx, of))),
  );
