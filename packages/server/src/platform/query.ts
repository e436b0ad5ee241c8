import type { Knex } from '@mikro-orm/knex';
import type { Em } from './orm.ts';

/** Runs a built query and gives its rows; inside a transaction, as part of it. For what entities would make slow. */
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
