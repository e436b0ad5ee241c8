/** The rows of a table that are of a course, and those that are about one of its students, as its declaration says. */
import { setImmediate as nextTurn } from 'node:timers/promises';
import { isDeepStrictEqual } from 'node:util';
import { JsonType, type EntityProperty } from '@mikro-orm/core';
import type { Knex } from '@mikro-orm/knex';
import { ROW_GOES, type StudentLink, type ErasedStudent, type Holds } from '../platform/database/holds.ts';
import type { Em } from '../platform/database/orm.ts';
import { inSlices, rowsOf } from '../platform/database/query.ts';
import { declarations } from './declarations.ts';

/** Rows that one step reads, and that the database looks through in one step without reading them. */
const SLICE = 2000;
const STEP = 10_000;

export type Id = number | string;

const byName = new Map(declarations.map((d) => [nameOf(d), d]));

export function nameOf({ entity }: Pick<Holds, 'entity'>): string {
  return (entity as unknown as { readonly meta: { readonly className: string } }).meta.className;
}

/** The declaration of an entity, by its name. */
export function holdsOf(name: string): Holds {
  const found = byName.get(name);
  if (!found) throw new Error(`${name} has no declaration`);
  return found;
}

const metaOf = (em: Em, { entity }: Holds) => em.getMetadata().get(nameOf({ entity }));
export const tableOf = (em: Em, table: Holds): string => metaOf(em, table).tableName;
export const propertyOf = (em: Em, table: Holds, column: string): EntityProperty =>
  metaOf(em, table).properties[column as never]!;
/** As the database calls it. */
export const fieldOf = (em: Em, table: Holds, column: string): string => propertyOf(em, table, column).fieldNames[0]!;
export const keyOf = (em: Em, table: Holds): string => fieldOf(em, table, metaOf(em, table).primaryKeys[0]!);

/**
 * All rows of a course, whatever leads there. Null for a table that is of no course. `byOther`: another index leads to fewer rows than that
 * of the course, which SQLite would take, because it asks for one value alone.
 */
export function inCourseOf(em: Em, table: Holds, course: number, byOther = false): Knex.QueryBuilder | null {
  if (table.course === null) return null;
  const knex = em.getKnex();
  const query = knex(tableOf(em, table));
  if (typeof table.course === 'string') {
    const field = fieldOf(em, table, table.course);
    return byOther ? query.whereRaw('+?? = ?', [field, course]) : query.where(field, course);
  }
  const { column, of: other } = table.course;
  const there = inCourseOf(em, other, course);
  return there && query.whereIn(fieldOf(em, table, column), there.select(keyOf(em, other)));
}

/** Pages of the rows of a course, or of `only` some of them, in the order of their keys. Each is a statement of its own. */
export async function* pagesOf<Row extends Readonly<Record<string, unknown>>>(
  em: Em,
  table: Holds,
  course: number,
  columns: readonly string[],
  only?: readonly Id[],
): AsyncGenerator<readonly (Row & { readonly pk: Id })[]> {
  const key = keyOf(em, table);
  for (let after: Id | null = null; ;) {
    const query = inCourseOf(em, table, course);
    if (!query) return;
    void query.select({ pk: key, ...Object.fromEntries(columns.map((c) => [c, fieldOf(em, table, c)])) });
    if (only) void query.whereIn(key, only);
    if (after !== null) void query.where(key, '>', after);
    const page: (Row & { pk: Id })[] = await rowsOf(em, query.orderBy(key).limit(SLICE));
    yield page.map((row) => ({ ...row, ...valuesOf(em, table, columns, row) }));
    if (page.length < SLICE) return;
    after = page.at(-1)!.pk;
  }
}

const isJson = (em: Em, table: Holds, column: string): boolean =>
  propertyOf(em, table, column).customType instanceof JsonType;

/** A value as the database stores it. */
export const stored = (em: Em, table: Holds, column: string, value: unknown): unknown =>
  value !== null && isJson(em, table, column) ? JSON.stringify(value) : value;

/** As the entity has them: JSON is read. */
function valuesOf(
  em: Em,
  table: Holds,
  columns: readonly string[],
  row: Readonly<Record<string, unknown>>,
): Record<string, unknown> {
  return Object.fromEntries(
    columns
      .filter((column) => isJson(em, table, column) && typeof row[column] === 'string')
      .map((column) => [column, JSON.parse(row[column] as string) as unknown]),
  );
}

/** Keys of the rows that are about a student, also of those that stand under their new id already. */
export async function aboutThem(em: Em, table: Holds, course: number, gone: ErasedStudent): Promise<Set<Id>> {
  const found = new Set<Id>();
  for (const about of table.about) {
    if ('sharing' in about) continue;
    for (const key of await keysBy(em, table, course, about, gone)) found.add(key);
  }
  return found;
}

/** Keys of the rows about a student, and in a table that is about nobody of those in which they are named. */
export async function knownIn(em: Em, table: Holds, course: number, who: ErasedStudent): Promise<ReadonlySet<Id>> {
  if (table.about.length > 0) return aboutThem(em, table, course, who);
  const columns = Object.entries(table.columns).flatMap(([column, { searched }]) => (searched ? [column] : []));
  const isNamed = (row: Readonly<Record<string, unknown>>) => namesIn(table, columns, row, who).length > 0;
  return new Set(await collected(em, table, course, columns, isNamed));
}

/** The columns of a row in which they are named, and what these hold without them. */
export function namesIn(
  table: Holds,
  columns: readonly string[],
  row: Readonly<Record<string, unknown>>,
  who: ErasedStudent,
): { readonly column: string; readonly after: unknown }[] {
  return columns.flatMap((column) => {
    const before = row[column];
    if (before === null || before === undefined) return [];
    const after = table.columns[column]!.searched!(before as never, who);
    return after === ROW_GOES || !isDeepStrictEqual(after, before) ? [{ column, after }] : [];
  });
}

async function keysBy(em: Em, table: Holds, course: number, about: StudentLink, gone: ErasedStudent): Promise<Id[]> {
  if ('every' in about) return collected(em, table, course, [], () => true);
  if ('asked' in about) return collected(em, table, course, about.asked, (row) => about.isAbout(row as never, gone));
  if ('by' in about) return keysAmong(em, table, course, about.by, [gone.id, gone.standsAs], about.where);
  if (!('through' in about)) return [];
  const theirs = await aboutThem(em, holdsOf(about.other), course, gone);
  return keysAmong(em, table, course, about.through, [...theirs], {});
}

/** Rows of a course by the values of a column. */
async function keysAmong(
  em: Em,
  table: Holds,
  course: number,
  column: string,
  values: readonly Id[],
  where: Readonly<Record<string, string>>,
): Promise<Id[]> {
  if (values.length === 0) return [];
  if (!isIndexed(em, table, column)) {
    if (isInOrder(em, table)) return keysFiltered(em, table, course, column, values, where);
    const among = new Set<unknown>(values);
    const wanted = Object.entries(where);
    return collected(em, table, course, [column, ...Object.keys(where)], (row) => {
      return among.has(row[column]) && wanted.every(([name, value]) => row[name] === value);
    });
  }
  const keys: Id[] = [];
  for (const slice of inSlices(values)) {
    const query = inCourseOf(em, table, course, hasOwnIndex(em, table, column));
    if (!query) return [];
    void query.whereIn(fieldOf(em, table, column), slice).select({ pk: keyOf(em, table) });
    for (const [name, value] of Object.entries(where)) void query.where(fieldOf(em, table, name), value);
    keys.push(...(await rowsOf<{ pk: Id }>(em, query)).map((row) => row.pk));
  }
  return keys;
}

/** Whether an index has the rows of a course in the order of their keys. */
function isInOrder(em: Em, table: Holds): boolean {
  const [key] = metaOf(em, table).primaryKeys;
  return indexesOf(em, table).some(([first, second]) => first === 'course' && second === key);
}

/** The same without an index on the column: the database looks through some rows at a time, and gives only those that are wanted. */
async function keysFiltered(
  em: Em,
  table: Holds,
  course: number,
  column: string,
  values: readonly Id[],
  where: Readonly<Record<string, string>>,
): Promise<Id[]> {
  const key = keyOf(em, table);
  const keys: Id[] = [];
  for (let after: Id | null = null; ;) {
    const ahead = inCourseOf(em, table, course);
    if (!ahead) return [];
    if (after !== null) void ahead.where(key, '>', after);
    const [last] = await rowsOf<{ pk: Id }>(
      em,
      ahead
        .select({ pk: key })
        .orderBy(key)
        .offset(STEP - 1)
        .limit(1),
    );
    for (const slice of inSlices(values)) {
      const query = inCourseOf(em, table, course)!
        .whereIn(fieldOf(em, table, column), slice)
        .select({ pk: key });
      if (after !== null) void query.where(key, '>', after);
      if (last) void query.where(key, '<=', last.pk);
      for (const [name, value] of Object.entries(where)) void query.where(fieldOf(em, table, name), value);
      keys.push(...(await rowsOf<{ pk: Id }>(em, query)).map((row) => row.pk));
    }
    if (!last) return keys;
    after = last.pk;
    await nextTurn();
  }
}

/** Whether an index begins with the column, or with the course and the column. */
function isIndexed(em: Em, table: Holds, column: string): boolean {
  return (
    hasOwnIndex(em, table, column) ||
    indexesOf(em, table).some(([first, second]) => first === 'course' && second === column)
  );
}

/** Whether an index begins with the column. */
export function hasOwnIndex(em: Em, table: Holds, column: string): boolean {
  const { index, unique } = propertyOf(em, table, column);
  return Boolean(index) || Boolean(unique) || indexesOf(em, table).some(([first]) => first === column);
}

/** The columns of each index of several. */
function indexesOf(em: Em, table: Holds): string[][] {
  const { indexes, uniques } = metaOf(em, table);
  return [...indexes, ...uniques].map(({ properties }) => [properties ?? []].flat());
}

/** Whether no two rows may have the same, on its own or together with others. */
export const isUnique = (em: Em, table: Holds, column: string): boolean =>
  Boolean(propertyOf(em, table, column).unique) ||
  metaOf(em, table).uniques.some(({ properties }) => [properties ?? []].flat().includes(column));

async function collected(
  em: Em,
  table: Holds,
  course: number,
  columns: readonly string[],
  isWanted: (row: Readonly<Record<string, unknown>>) => boolean,
): Promise<Id[]> {
  const keys: Id[] = [];
  for await (const page of pagesOf(em, table, course, columns)) {
    for (const row of page) if (isWanted(row)) keys.push(row.pk);
    await nextTurn();
  }
  return keys;
}
