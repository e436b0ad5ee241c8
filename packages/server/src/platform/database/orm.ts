import { fileURLToPath } from 'node:url';
import type { EntitySchema, MikroORM } from '@mikro-orm/core';
import type { AbstractSqlDriver, SqlEntityManager } from '@mikro-orm/knex';
import { MikroORM as LibSqlORM } from '@mikro-orm/libsql';
import { Migrator } from '@mikro-orm/migrations';
import { isPostgres } from './postgres.ts';
import { prepareConnection, prepareReading } from './sqlite.ts';

export type Orm = MikroORM<AbstractSqlDriver>;
/** Reads; what it writes is nobody's unless it is in a transaction. */
export type Em = SqlEntityManager<AbstractSqlDriver>;

declare const inside: unique symbol;
/** In a transaction: whatever writes takes one, and only `inTransaction` makes one. */
export type Tx = Em & { readonly [inside]: true };

const here = fileURLToPath(new URL('.', import.meta.url));

/** Where a database is: a file, `:memory:`, or the `postgres://` address of one on a server. */
export type DatabasePlace = string;

export interface OpenOptions {
  /** To read and nothing else. */
  readonly reading?: boolean;
  /** Transactions of two databases, one within the other, are told apart by it. */
  readonly name?: string;
}

/** Opens the database with these entities, without touching its schema. */
export async function openOrm(
  place: DatabasePlace,
  entities: readonly EntitySchema[],
  { reading = false, name = 'default' }: OpenOptions = {},
): Promise<Orm> {
  const shared = {
    entities: [...entities],
    contextName: name,
    extensions: [Migrator],
    metadataCache: { enabled: false },
    // What is worth telling goes through the server's own logger.
    logger: () => undefined,
    migrations: {
      path: `${here}migrations/${isPostgres(place) ? 'postgres' : 'sqlite'}`,
      glob: '!(*.d).{js,ts}',
      emit: 'ts' as const,
      // up() writes the snapshot too: only the script that creates a migration may do that.
      snapshot: process.env['MIKRO_SNAPSHOT'] === '1',
      snapshotName: '.snapshot',
    },
  };
  if (isPostgres(place)) {
    const { openServer } = await import('./postgresDriver.ts');
    return openServer(place, shared, reading);
  }
  return LibSqlORM.init({
    ...shared,
    dbName: place,
    pool: { afterCreate: reading ? prepareReading : prepareConnection },
  });
}
