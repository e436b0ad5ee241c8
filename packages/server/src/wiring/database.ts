/** The database with every entity of the server. */
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { entities } from './entities.ts';
import { openOrm, type DatabasePlace, type OpenOptions, type Orm } from '../platform/database/orm.ts';
import { isPostgres } from '../platform/database/postgres.ts';
import { StartProblem } from '../platform/process/config.ts';
import { tableNames } from '../platform/database/tables.ts';
import { whenFree } from '../platform/database/whenFree.ts';

/** Opens the database without touching its schema. */
export const openDatabase = (place: DatabasePlace, options: OpenOptions = {}): Promise<Orm> =>
  openOrm(place, entities, options);

/** Where a process finds its database: what is set, or a file in its folder. */
export const placeOf = ({
  data,
  databaseUrl,
}: {
  readonly data: string;
  readonly databaseUrl: string | null;
}): DatabasePlace => databaseUrl ?? fileIn(data);

export const fileIn = (folder: string): string => join(folder, 'zest-bell.db');

/** Says that the database of a folder stood once: from then on a folder without it is a damaged one, and no new one. */
const usedMark = (folder: string): string => join(folder, 'used');

/** The first start is over: the schema is complete. */
export function markUsed(folder: string): void {
  if (existsSync(usedMark(folder))) return;
  writeFileSync(usedMark(folder), 'Zest Bell has its database here. Keep this file with it.\n');
}

/** What a start makes before its database exists; SQLite keeps up to three files beside the database in the making. */
const OF_A_START =
  /^(?:session-secret|\.session-secret-\d+|\.write-probe-\d+|zest-bell\.db(?:-journal|-wal|-shm)?|demo\.lock)$/;

/**
 * Whether a start was interrupted here before its database stood, or only its secret is left: nothing else was ever kept here. A folder
 * that was used by a version from before the mark has other things beside its secret.
 */
const isUnused = (folder: string): boolean =>
  !existsSync(usedMark(folder)) && readdirSync(folder).every((name) => OF_A_START.test(name));

/** Says that what was in a folder is elsewhere now. */
export const movedMark = (folder: string): string => join(folder, 'moved');

/**
 * A folder that was used before and has no database, or an empty one, was copied or restored in part: as a new installation its
 * first visitor would own it. One that was moved would send what the other sends. Throws a StartProblem.
 */
export async function mustBeWhole(folder: string): Promise<void> {
  if (existsSync(movedMark(folder))) {
    throw new StartProblem(
      `What was in the data folder ${folder} was moved to another database (${readFileSync(movedMark(folder), 'utf8').trim()}).\n` +
        `Set ZEST_DATABASE_URL and ZEST_SECRET as the move said. Started here, it would send a second time what leaves there.`,
    );
  }
  if (!existsSync(join(folder, 'session-secret')) && !existsSync(usedMark(folder))) return;
  if (isUnused(folder)) return;
  const file = fileIn(folder);
  // One that cannot be read at all is damaged, and told of as such.
  if (existsSync(file) && (await tablesIn(file).catch(() => 1)) > 0) return;
  throw new StartProblem(
    `The data folder ${folder} was used before, but its database is missing or empty.\n` +
      `Restore zest-bell.db from a backup, made by “npm run zest -- backup FILE”.\n` +
      `To begin anew instead, name an empty folder with ZEST_DATA.`,
  );
}

async function tablesIn(file: string): Promise<number> {
  const orm = await openDatabase(file, { reading: true });
  try {
    return (await tableNames(orm.em)).length;
  } finally {
    await orm.close();
  }
}

/** Why a database cannot be used: its file is damaged. The message says what to do. */
export class DamagedDatabase extends Error {}

/**
 * Opens the database and brings its schema up to date. Throws a DamagedDatabase where its file is not sound, and a StartProblem where
 * a server cannot be reached or does not fit.
 */
export async function readyDatabase(place: DatabasePlace, options: OpenOptions = {}): Promise<Orm> {
  if (isPostgres(place)) {
    const { readyServer } = await import('../platform/database/readyServer.ts');
    return readyServer(place, () => openDatabase(place, options));
  }
  const orm = await openDatabase(place, options).catch((error: unknown) => {
    throw isDamage(error) ? damaged(place, error) : error;
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
    throw damaged(place, found);
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
