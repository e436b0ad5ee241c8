import { fileURLToPath } from 'node:url';
import { MikroORM, type EntitySchema, type MetadataStorage, type Options } from '@mikro-orm/core';
import type { AbstractSqlDriver, SqlEntityManager } from '@mikro-orm/knex';
import { LibSqlDriver } from '@mikro-orm/libsql';
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
    const { serverOptions } = await import('./postgresDriver.ts');
    return connected(entities, 'postgres', { ...shared, ...serverOptions(place, reading) });
  }
  return connected(entities, 'sqlite', {
    ...shared,
    driver: LibSqlDriver,
    dbName: place,
    pool: { afterCreate: reading ? prepareReading : prepareConnection },
  });
}

/** What the library found out about a list of entities, by dialect: the same for every database that a process opens with it. */
const found = new WeakMap<readonly EntitySchema[], Map<string, MetadataStorage>>();

/** As the library's own `init`, which finds it out anew each time, and reads settings from files and variables that are not ours. */
async function connected(entities: readonly EntitySchema[], dialect: string, options: Options): Promise<Orm> {
  const orm = new MikroORM(options);
  const byDialect = found.get(entities) ?? new Map<string, MetadataStorage>();
  found.set(entities, byDialect);
  const known = byDialect.get(dialect);
  if (known) {
    const { discovery } = orm as unknown as { readonly discovery: { discover: () => Promise<MetadataStorage> } };
    discovery.discover = () => Promise.resolve(known);
  }
  orm.config.set('allowGlobalContext', true);
  await orm.discoverEntities();
  orm.config.set('allowGlobalContext', false);
  byDialect.set(dialect, orm.getMetadata());
  const sql = orm as Orm;
  sql.em.getPlatform().init(sql);
  await sql.connect();
  return sql;
}
