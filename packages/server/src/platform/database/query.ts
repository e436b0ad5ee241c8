/**
 * Built queries. Which way to read and write rows:
 *
 * - Entities (`em.find`) for rows that are read whole, some hundred at most, and for rows that are changed afterwards.
 * - `rowsOf` for joins, counts, and a few columns of many rows.
 * - `writing.ts` for writing rows by values, and `run` for statements that change rows by a query.
 * - Prepared statements (`statements.ts`) for what runs for every message or every request, where building the query would cost more than
 *   running it.
 */
import type { EntitySchema } from '@mikro-orm/core';
import type { Knex } from '@mikro-orm/knex';
import type { Holds, Owner } from './holds.ts';
import type { Em, Tx } from './orm.ts';
import type { HolderOf } from './writing.ts';
import { isOnServer } from './postgres.ts';

/**
 * Runs a built query and gives its rows; inside a transaction, as part of it. For what entities would make slow. `Row` is
 * what the caller selected: nothing is converted, so closed sets and instants come as they are stored.
 */
export async function rowsOf<Row>(em: Em, query: Knex.QueryBuilder): Promise<Row[]> {
  const { sql, bindings } = query.toSQL();
  const rows: unknown = await em.getConnection().execute(sql, [...bindings], 'all', em.getTransactionContext());
  return rows as Row[];
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
): Promise<unknown[]> => rowsOf(tx as Em, query);

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
    const answer: unknown = await em.getKnex().raw(sql, slice.flat()).transacting(trx);
    const { changes, rowCount } = answer as { changes?: number; rowCount?: number };
    inserted += changes ?? rowCount ?? 0;
  }
  return inserted;
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
