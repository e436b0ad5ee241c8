/**
 * Removes a student from every table, and what is known of students from a course, by what each table declares that it holds. Every slice
 * is a transaction of its own, may be done again, and leaves other work its turn.
 */
import { setImmediate as nextTurn } from 'node:timers/promises';
import type { Knex } from '@mikro-orm/knex';
import { inCourse } from '../course/lock.ts';
import { ROW_GOES, type ColumnDeclaration, type ErasedStudent, type Holds } from '../platform/database/holds.ts';
import type { Em, Orm, Tx } from '../platform/database/orm.ts';
import { inSlices, rowsOf, run } from '../platform/database/query.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { declarations } from './declarations.ts';
import {
  aboutThem,
  fieldOf,
  hasOwnIndex,
  inCourseOf,
  isUnique,
  keyOf,
  namesIn,
  pagesOf,
  stored,
  tableOf,
  type Id,
} from './rowsOf.ts';

/** Rows that one transaction changes. */
const AT_ONCE = 500;

/** Removes a student from all tables. Tables of mail come again at the end: an answer of the mail server may have come in the meantime. */
export async function eraseRows(orm: Orm, course: number, gone: ErasedStudent): Promise<void> {
  for (const table of declarations) await eraseIn(orm, table, course, gone);
  for (const table of declarations.filter(isOfMail)) await eraseAbout(orm, table, course, gone);
}

const isOfMail = ({ owner }: Holds): boolean => owner.includes('claim');

async function eraseIn(orm: Orm, table: Holds, course: number, gone: ErasedStudent): Promise<void> {
  await eraseAbout(orm, table, course, gone);
  await search(orm, table, course, gone);
  await nextTurn();
}

const at = (em: Em, table: Holds): Knex.QueryBuilder => em.getKnex()(tableOf(em, table));

/** The rows about them: they go, or stand under another id without what they know. */
async function eraseAbout(orm: Orm, table: Holds, course: number, gone: ErasedStudent): Promise<void> {
  if (table.about.length === 0) return;
  const keys = [...(await aboutThem(orm.em.fork(), table, course, gone))];
  for (const slice of inSlices(keys, AT_ONCE)) {
    await inTransaction(orm, async (tx) => {
      const theirs = () => at(tx, table).whereIn(keyOf(tx, table), slice);
      if (table.erased === 'goes') return run(tx, table, theirs().delete());
      await emptyShared(tx, table, course, theirs);
      const left = { ...idsOf(tx, table, gone), ...emptiedOf(tx, table) };
      if (Object.keys(left).length > 0) await run(tx, table, theirs().update(left));
      await emptyMade(tx, table, slice);
    });
    await nextTurn();
  }
}

const columnsOf = (table: Holds, isWanted: (column: ColumnDeclaration) => boolean): string[] =>
  Object.entries(table.columns).flatMap(([column, what]) => (isWanted(what) ? [column] : []));

const idsOf = (em: Em, table: Holds, { standsAs }: ErasedStudent): Record<string, unknown> =>
  Object.fromEntries(columnsOf(table, ({ kind }) => kind === 'personId').map((c) => [fieldOf(em, table, c), standsAs]));

/** What columns hold once nothing of a person may stand in them, as the database stores it. */
function emptiedOf(em: Em, table: Holds, only?: readonly string[]): Record<string, unknown> {
  const left: Record<string, unknown> = {};
  for (const [column, { emptied }] of Object.entries(table.columns))
    if (emptied && 'to' in emptied && (only?.includes(column) ?? true))
      left[fieldOf(em, table, column)] = stored(em, table, column, emptied.to);
  return left;
}

/** Rows of others that say the same as theirs. */
async function emptyShared(tx: Tx, table: Holds, course: number, theirs: () => Knex.QueryBuilder): Promise<void> {
  for (const about of table.about) {
    if (!('sharing' in about)) continue;
    const field = fieldOf(tx, table, about.sharing);
    const byOther = hasOwnIndex(tx, table, about.sharing);
    const alike = inCourseOf(tx, table, course, byOther)!.whereIn(field, theirs().select(field));
    await run(tx, table, alike.update(emptiedOf(tx, table, about.columns)));
  }
}

async function emptyMade(tx: Tx, table: Holds, keys: readonly Id[]): Promise<void> {
  for (const [column, { emptied }] of Object.entries(table.columns)) {
    if (!emptied || !('make' in emptied)) continue;
    for (const key of keys)
      await run(
        tx,
        table,
        at(tx, table)
          .where(keyOf(tx, table), key)
          .update({ [fieldOf(tx, table, column)]: emptied.make(Number(key)) }),
      );
  }
}

/** Rows of others in which they may be named. They are looked through first, and once more under the lock where something is found. */
async function search(orm: Orm, table: Holds, course: number, gone: ErasedStudent): Promise<void> {
  const columns = columnsOf(table, ({ searched }) => searched !== undefined);
  if (columns.length === 0 || table.course === null) return;
  const em = orm.em.fork();
  for await (const page of pagesOf(em, table, course, columns)) {
    const found = page.filter((row) => changesOf(em, table, columns, row, gone) !== null).map((row) => row.pk);
    for (const slice of inSlices(found, AT_ONCE))
      await inCourse(orm, course, (tx) => clean(tx, table, course, columns, slice, gone));
    await nextTurn();
  }
}

async function clean(
  tx: Tx,
  table: Holds,
  course: number,
  columns: readonly string[],
  keys: readonly Id[],
  gone: ErasedStudent,
): Promise<void> {
  for await (const page of pagesOf(tx, table, course, columns, keys)) {
    for (const row of page) {
      const changes = changesOf(tx, table, columns, row, gone);
      if (changes === null) continue;
      const one = at(tx, table).where(keyOf(tx, table), row.pk);
      await run(tx, table, changes === ROW_GOES ? one.delete() : one.update(changes));
    }
  }
}

/** What is to be written into a row, as the database stores it; null where it does not name them. */
function changesOf(
  em: Em,
  table: Holds,
  columns: readonly string[],
  row: Readonly<Record<string, unknown>>,
  gone: ErasedStudent,
): Record<string, unknown> | typeof ROW_GOES | null {
  const changes: Record<string, unknown> = {};
  for (const { column, after } of namesIn(table, columns, row, gone)) {
    if (after === ROW_GOES) return ROW_GOES;
    // Two names that differed would be one now.
    const own = typeof after === 'string' && isUnique(em, table, column) ? `${after} ${String(row['pk'])}` : after;
    changes[fieldOf(em, table, column)] = stored(em, table, column, own);
  }
  return Object.keys(changes).length > 0 ? changes : null;
}

/** What is known of students of a course goes, table by table. Returns how many rows were removed or emptied. */
export async function forgetRows(orm: Orm, course: number): Promise<number> {
  let rows = 0;
  for (const table of declarations) {
    if (table.kept === 'stays' || table.course === null) continue;
    rows += table.kept === 'goes' ? await removeAll(orm, table, course) : await emptyAll(orm, table, course);
  }
  return rows;
}

/** Rows of a course that a condition leaves, slice by slice. */
async function slicesOf(
  orm: Orm,
  table: Holds,
  course: number,
  isWanted: (query: Knex.QueryBuilder, em: Em) => void,
  work: (tx: Tx, keys: readonly Id[]) => Promise<void>,
): Promise<number> {
  let done = 0;
  for (let after: Id | null = null; ;) {
    const found: readonly Id[] = await inTransaction(orm, async (tx) => {
      const key = keyOf(tx, table);
      const query = inCourseOf(tx, table, course)!.select({ pk: key }).orderBy(key).limit(AT_ONCE);
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

const removeAll = (orm: Orm, table: Holds, course: number): Promise<number> =>
  slicesOf(
    orm,
    table,
    course,
    () => undefined,
    (tx, keys) => run(tx, table, at(tx, table).whereIn(keyOf(tx, table), keys).delete()),
  );

/** Those that are not empty yet. */
const emptyAll = (orm: Orm, table: Holds, course: number): Promise<number> =>
  slicesOf(
    orm,
    table,
    course,
    (query, em) =>
      void query.where((any) => {
        for (const [field, value] of Object.entries(emptiedOf(em, table)))
          void (value === null ? any.orWhereNotNull(field) : any.orWhereNot(field, value as string));
      }),
    (tx, keys) => run(tx, table, at(tx, table).whereIn(keyOf(tx, table), keys).update(emptiedOf(tx, table))),
  );
