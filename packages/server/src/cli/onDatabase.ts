/** The database and the secret of the server's own settings, for commands that work beside a running server. */
import { existsSync } from 'node:fs';
import { fileIn, placeOf, readyDatabase } from '../wiring/database.ts';
import type { Orm } from '../platform/database/orm.ts';
import type { Config } from '../platform/process/config.ts';
import { mustFitDatabase, secretOf } from '../wiring/secret.ts';

export interface OnDatabase {
  readonly orm: Orm;
  readonly secret: string;
}

/** Throws a sentence where there is no database, or where it was used with another secret. */
export async function onDatabase<T>(
  config: Pick<Config, 'data' | 'databaseUrl' | 'secret'>,
  work: (on: OnDatabase) => Promise<T>,
  { mustFit = true } = {},
): Promise<T> {
  if (config.databaseUrl === null && !existsSync(fileIn(config.data)))
    throw new Error(
      `There is no database ${fileIn(config.data)}. Set ZEST_DATA to the server’s data folder, or ZEST_DATABASE_URL`,
    );
  const secret = secretOf(config);
  const orm = await readyDatabase(placeOf(config));
  try {
    if (mustFit) await mustFitDatabase(orm, secret);
    return await work({ orm, secret });
  } finally {
    await orm.close();
  }
}
