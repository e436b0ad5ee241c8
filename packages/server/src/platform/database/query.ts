/**
 * Built queries. Which way to read and write rows:
 *
 * - Entities (`em.find`) for rows that are read whole, some hundred at most, and for rows that are changed afterwards.
 * - `select` for a few columns of many rows of one table.
 * - `rowsOf` for joins, groups and expressions.
 * - `writing.ts` for writing rows by values, and `run` for statements that change rows by a query.
 * - Prepared statements (`statements.ts`) for what runs for every message or every request, where building the query would cost more than
 *   running it.
 */
import { JsonType, type EntityProperty, type EntitySchema } from '@mikro-orm/core';
import type { Knex } from '@mikro-orm/knex';
import type { Holds, Owner, RowOf } from './holds.ts';
import type { Em, Tx } from './orm.ts';
import type { HolderOf } from './writing.ts';
import { isOnServer } from './postgres.ts';

/**
 * Runs a built query that reads, as part of the transaction if there is one. `Row` is what the caller selected: nothing is converted, so
 * booleans and JSON come as the database stores them.
 *
 * @throws Where the statement does not begin with `select`: rows are changed through `run` and `runReturning`, which take a declaration.
 */
export async function rowsOf<Row>(em: Em, query: Knex.QueryBuilder): Promise<Row[]> {
  const { sql, bindings } = query.toSQL();
  if (!/^(select|with) /i.test(sql)) throw new Error(`This statement does not only read: ${sql.slice(0, 40)}`);
  return await rowsFrom<Row>(em, sql, bindings);
}

async function rowsFrom<Row>(em: Em, sql: string, bindings: readonly unknown[]): Promise<Row[]> {
  const rows: unknown = await em.getConnection().execute(sql, [...bindings], 'all', em.getTransactionContext());
  return rows as Row[];
}

/** Columns of a row as they are stored: none is left out. */
type SelectedRow<S extends EntitySchema, C extends keyof RowOf<S>> = {
  readonly [K in C]: Exclude<RowOf<S>[K], undefined>;
};

/**
 * Reads columns of one table by the names and types of its entity. A column that the table does not have does not compile.
 *
 * @param refine - Adds conditions, order and bounds, with the names that columns have in the database.
 */
export async function select<S extends EntitySchema, C extends keyof RowOf<S> & string>(
  em: Em,
  { entity }: Holds<S>,
  columns: readonly C[],
  refine: (query: Knex.QueryBuilder) => Knex.QueryBuilder,
): Promise<SelectedRow<S, C>[]> {
  const { tableName, properties } = em.getMetadata().get(entity.meta.className);
  const property = (column: C): EntityProperty => (properties as Readonly<Record<string, EntityProperty>>)[column]!;
  const named = Object.fromEntries(columns.map((column) => [column, property(column).fieldNames[0]!]));
  const rows = await rowsOf<Record<string, unknown>>(em, refine(em.getKnex()(tableName).select(named)));
  for (const column of columns) {
    const { customType, runtimeType } = property(column);
    if (runtimeType === 'boolean')
      for (const row of rows) row[column] = row[column] === null ? null : Boolean(row[column]);
    else if (customType instanceof JsonType)
      for (const row of rows) row[column] = customType.convertToJSValue(row[column], em.getPlatform());
  }
  return rows as SelectedRow<S, C>[];
}

/**
 * Takes the rows that a query finds for this transaction, and passes by those that another one has. On SQLite a transaction that writes
 * is alone anyway.
 */
export const leavingOthers = (em: Tx, query: Knex.QueryBuilder, table: string): Knex.QueryBuilder =>
  isOnServer(em) ? query.forUpdate(table).skipLocked() : query;

/** Runs a built statement that changes rows of a table, as part of the transaction. */
export async function run<S extends EntitySchema, O extends Owner>(
  tx: HolderOf<O>,
  _table: Holds<S, O>,
  query: Knex.QueryBuilder,
): Promise<void> {
  const { sql, bindings } = query.toSQL();
  const em = tx as Em;
  await em.getConnection().execute(sql, [...bindings], 'run', em.getTransactionContext());
}

/** Runs a built statement that changes rows of a table, and gives what it returns of them, as it is stored. */
export const runReturning = <S extends EntitySchema, O extends Owner>(
  tx: HolderOf<O>,
  _table: Holds<S, O>,
  query: Knex.QueryBuilder,
): Promise<unknown[]> => {
  const { sql, bindings } = query.toSQL();
  return rowsFrom(tx as Em, sql, bindings);
};

/**
 * Inserts rows of any table as another database stores them. Only for the copy of a whole database, to which nobody else has access: it
 * names tables and not declarations.
 */
export async function insertAsStored(
  em: Em,
  table: string,
  rows: readonly Readonly<Record<string, unknown>>[],
): Promise<void> {
  const { sql, bindings } = em.getKnex()(table).insert(rows).toSQL();
  await em.getConnection().execute(sql, [...bindings], 'run', em.getTransactionContext());
}

/**
 * Inserts rows of plain values that are not there yet, and returns how many that was. Values are bound and not written into the
 * statement: for very many rows that is several times as quick.
 */
export async function insertNewRows<S extends EntitySchema, O extends Owner>(
  tx: HolderOf<O>,
  { entity }: Holds<S, O>,
  /** Whole numbers that all rows share. */
  shared: Readonly<Record<string, number | null>>,
  columns: readonly string[],
  key: readonly string[],
  rows: readonly (readonly (string | number | null)[])[],
): Promise<number> {
  const em = tx as Em;
  const trx = em.getTransactionContext<Knex.Transaction>();
  if (!trx) throw new Error('Rows are inserted within a transaction');
  const table = entity.meta.tableName;
  const same = Object.values(shared).map((n) => (n === null ? 'null' : String(Math.trunc(n))));
  const row = `(${[...same, ...columns.map(() => '?')].join(',')})`;
  const names = [...Object.keys(shared), ...columns].join(',');
  const sqlFor = (count: number) => {
    const values = Array.from({ length: count }, () => row).join(',');
    return `insert into ${table} (${names}) values ${values} on conflict (${key.join(',')}) do nothing`;
  };
  const slices = inSlices(rows, MOST_BOUND / columns.length);
  const whole = sqlFor(slices[0]?.length ?? 0);
  let inserted = 0;
  for (const slice of slices) {
    const sql = slice.length === slices[0]!.length ? whole : sqlFor(slice.length);
    inserted += changedBy(await em.getKnex().raw(sql, slice.flat()).transacting(trx));
  }
  return inserted;
}

/**
 * Inserts what a selection gives and is not there yet, by one statement, and returns how many rows that was. `from` begins with the values
 * of the columns, as `select …`.
 */
export async function insertSelected<S extends EntitySchema, O extends Owner>(
  tx: HolderOf<O>,
  { entity }: Holds<S, O>,
  columns: readonly string[],
  key: readonly string[],
  from: string,
  values: readonly (string | number)[],
): Promise<number> {
  const em = tx as Em;
  const trx = em.getTransactionContext<Knex.Transaction>();
  if (!trx) throw new Error('Rows are inserted within a transaction');
  const into = `insert into ${entity.meta.tableName} (${columns.join(',')})`;
  const sql = `${into} ${from} on conflict (${key.join(',')}) do nothing`;
  return changedBy(await em.getKnex().raw(sql, values).transacting(trx));
}

function changedBy(answer: unknown): number {
  const { changes, rowCount } = answer as { readonly changes?: number; readonly rowCount?: number };
  return changes ?? rowCount ?? 0;
}

/** The number that a counting query gives. */
export async function countOf(em: Em, query: Knex.QueryBuilder): Promise<number> {
  const [row] = await rowsOf<{ n: number | string }>(em, query.count({ n: '*' }));
  return Number(row?.n ?? 0);
}

/** The most values that are bound in one statement; a multiple of what rows have columns keeps statements alike. */
const MOST_BOUND = 2800;
/** The most values of one list in a statement, well under what databases take. */
const SLICE = 500;

/** A long list in parts that a statement can take. */
export function inSlices<T>(values: readonly T[], size = SLICE): T[][] {
  const parts: T[][] = [];
  const step = Math.max(1, Math.floor(size));
  for (let i = 0; i < values.length; i += step) parts.push(values.slice(i, i + step));
  return parts;
}
