/** The database with every entity of the server. */
import { entities } from './entities.ts';
import { openOrm, type Orm } from './platform/database/orm.ts';
import { whenFree } from './platform/database/whenFree.ts';

/** Opens the database in `file` without touching its schema; with `reading`, to read and nothing else. */
export const openDatabase = (file: string, options: { readonly reading?: boolean } = {}): Promise<Orm> =>
  openOrm(file, entities, options);

/** Why a database cannot be used: its file is damaged. The message says what to do. */
export class DamagedDatabase extends Error {}

/** Opens the database and brings its schema up to date. Throws a DamagedDatabase where its file is not sound. */
export async function readyDatabase(file: string): Promise<Orm> {
  const orm = await openDatabase(file).catch((error: unknown) => {
    throw isDamage(error) ? damaged(file, error) : error;
  });
  // Damage that is found later is found by somebody who waits for a page: the whole file is looked through once.
  const found = await orm.em
    .getConnection()
    .execute<{ quick_check: string }[]>('pragma quick_check(1)')
    .then(([row]) => row!.quick_check)
    // Where another process is writing, it has looked before.
    .catch((error: unknown) => (isDamage(error) ? String(error) : SOUND));
  if (found !== SOUND) {
    await orm.close();
    throw damaged(file, found);
  }
  // Another process may be starting on it at this very moment.
  await whenFree(() => orm.getMigrator().up());
  return orm;
}

const SOUND = 'ok';

const isDamage = (error: unknown): boolean => /not a database|malformed|corrupt/i.test(String(error));

const damaged = (file: string, found: unknown): DamagedDatabase =>
  new DamagedDatabase(
    `The database ${file} is damaged (${String(found).split('\n')[0]!.slice(0, 200)}).\n` +
      `Nothing was changed or sent. Restore it from a backup, made by “npm run zest -- backup FILE”.`,
  );
