/** The database with every entity of the server. */
import { existsSync } from 'node:fs';
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
  const damage = await damageOf(file);
  if (damage !== null) {
    throw new DamagedDatabase(
      `The database ${file} is damaged (${damage.slice(0, 200)}).\n` +
        `Nothing was changed or sent. Restore it from a backup, made by “npm run zest -- backup FILE”.`,
    );
  }
  const orm = await openDatabase(file);
  // Another process may be starting on it at this very moment.
  await whenFree(() => orm.getMigrator().up());
  return orm;
}

/** Looks through the whole file once: damage that is found later is found by somebody who waits for a page. Null for none. */
async function damageOf(file: string): Promise<string | null> {
  if (file === ':memory:' || !existsSync(file)) return null;
  let orm: Orm | null = null;
  try {
    orm = await openDatabase(file);
    const [row] = await orm.em.getConnection().execute<{ quick_check: string }[]>('pragma quick_check(1)');
    return row?.quick_check === 'ok' ? null : (row?.quick_check ?? 'it says nothing');
  } catch (error) {
    const said = error instanceof Error ? error.message : String(error);
    // Whoever is writing has looked before.
    return /not a database|malformed|corrupt/i.test(said) ? said.split('\n')[0]! : null;
  } finally {
    await orm?.close();
  }
}
