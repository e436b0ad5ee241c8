/** The database with every entity of the server. */
import { entities } from './entities.ts';
import { openOrm, type Orm } from './platform/database/orm.ts';
import { whenFree } from './platform/database/whenFree.ts';

/** Opens the database in `file` without touching its schema; with `reading`, to read and nothing else. */
export const openDatabase = (file: string, options: { readonly reading?: boolean } = {}): Promise<Orm> =>
  openOrm(file, entities, options);

/** Opens the database and brings its schema up to date. */
export async function readyDatabase(file: string): Promise<Orm> {
  const orm = await openDatabase(file);
  // Another process may be starting on it at this very moment.
  await whenFree(() => orm.getMigrator().up());
  return orm;
}
