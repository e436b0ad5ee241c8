/** The tables of a database, whatever it runs on. */
import type { Em } from './orm.ts';
import { isOnServer } from './postgres.ts';

/** Those of the schema, and the one that knows which migrations were made; in the order of their names. */
export async function tableNames(em: Em): Promise<string[]> {
  const asked = isOnServer(em)
    ? "select table_name as name from information_schema.tables where table_schema = current_schema() and table_type = 'BASE TABLE'"
    : "select name from sqlite_master where type = 'table' and name not like 'sqlite%'";
  const rows = await em.getConnection().execute<{ name: string }[]>(asked);
  return rows.map((r) => r.name).toSorted();
}
