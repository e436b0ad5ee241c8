import type { Knex } from '@mikro-orm/knex';
import type { Em } from './orm.ts';

/**
 * Runs a built query and gives its rows; inside a transaction, as part of it. For what entities would make slow. `Row` is
 * what the caller selected: nothing is converted, so closed sets and instants come as they are stored.
 */
export async function rowsOf<Row>(em: Em, query: Knex.QueryBuilder): Promise<Row[]> {
  const { sql, bindings } = query.toSQL().toNative();
  const rows: unknown = await em.getConnection().execute(sql, [...bindings], 'all', em.getTransactionContext());
  return rows as Row[];
}

/** Runs a built statement that changes rows, as part of the transaction that `em` is in. */
export async function run(em: Em, query: Knex.QueryBuilder): Promise<void> {
  const { sql, bindings } = query.toSQL().toNative();
  await em.getConnection().execute(sql, [...bindings], 'run', em.getTransactionContext());
}

/** The number that a counting query gives. */
export async function countOf(em: Em, query: Knex.QueryBuilder): Promise<number> {
  const [row] = await rowsOf<{ n: number | string }>(em, query.count({ n: '*' }));
  return Number(row?.n ?? 0);
}

/** The most values of one list in a statement, well under what databases take. */
const SLICE = 500;

/** A long list in parts that a statement can take. */
export function inSlices<T>(values: readonly T[], size = SLICE): T[][] {
  const parts: T[][] = [];
  for (let i = 0; i < values.length; i += size) parts.push(values.slice(i, i + size));
  return parts;
}
