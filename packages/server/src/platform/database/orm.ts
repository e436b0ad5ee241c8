/** The connection to the database, and the types of what reads it (`Em`) and of what writes it (`Tx`). */
import { fileURLToPath } from 'node:url';
import {
  MikroORM,
  type CountOptions,
  type EntityName,
  type EntitySchema,
  type FilterQuery,
  type FindOneOptions,
  type FindOneOrFailOptions,
  type FindOptions,
  type Loaded,
  type MetadataStorage,
  type Options,
} from '@mikro-orm/core';
import type { AbstractSqlDriver, SqlEntityManager } from '@mikro-orm/knex';
import { LibSqlDriver } from '@mikro-orm/libsql';
import { isPostgres } from './postgres.ts';
import { prepareAlone, prepareConnection, prepareReading, prepareWithLogCopied } from './sqlite.ts';

/** The library's own, which reads and writes everything. Only this folder and tests may use it. */
export type AnyEm = SqlEntityManager<AbstractSqlDriver>;
export type AnyOrm = MikroORM<AbstractSqlDriver>;

/** Rows as they are read. What changes them is `writing.ts`, so assigning to one does not compile. */
export type ReadRow<T> = { readonly [K in keyof T]: T[K] };

/** What reads a database. Nothing of it writes. */
export interface Reads extends Pick<
  AnyEm,
  | 'getKnex'
  | 'getConnection'
  | 'getDriver'
  | 'getTransactionContext'
  | 'getPlatform'
  | 'getMetadata'
  | 'isInTransaction'
  | 'clear'
> {
  /** One of its own, which shares no rows with this one. */
  fork(options?: Parameters<AnyEm['fork']>[0]): Em;
  find<E extends object, F extends string = '*', X extends string = never>(
    entity: EntityName<E>,
    where: FilterQuery<NoInfer<E>>,
    options?: FindOptions<E, never, F, X>,
  ): Promise<ReadRow<Loaded<E, never, F, X>>[]>;
  findOne<E extends object, F extends string = '*', X extends string = never>(
    entity: EntityName<E>,
    where: FilterQuery<NoInfer<E>>,
    options?: FindOneOptions<E, never, F, X>,
  ): Promise<ReadRow<Loaded<E, never, F, X>> | null>;
  findOneOrFail<E extends object, F extends string = '*', X extends string = never>(
    entity: EntityName<E>,
    where: FilterQuery<NoInfer<E>>,
    options?: FindOneOrFailOptions<E, never, F, X>,
  ): Promise<ReadRow<Loaded<E, never, F, X>>>;
  count<E extends object>(
    entity: EntityName<E>,
    where?: FilterQuery<NoInfer<E>>,
    options?: CountOptions<E>,
  ): Promise<number>;
}
export type Em = Reads;

/** An open database. Everything that writes to it begins with `inTransaction` or one of the functions that hold something. */
export type Orm = Omit<AnyOrm, 'em'> & { readonly em: Reads };

/** What a transaction can hold, so that nobody else writes the same at that moment. */
export type Holding =
  /** A course, by its row. */
  | 'course'
  /** An account, by its row. */
  | 'account'
  /** What is set for the whole installation. */
  | 'installation'
  /** Messages that this process has claimed. */
  | 'claim';

declare const inside: unique symbol;
/** In a transaction that holds `H`. Only the functions that acquire something make one that holds it. */
export type Tx<H extends Holding = never> = Em & { readonly [inside]: { readonly [K in H]: true } };

const here = fileURLToPath(new URL('.', import.meta.url));

/** Where a database is: a file, `:memory:`, or the `postgres://` address of one on a server. */
export type DatabasePlace = string;

export interface OpenOptions {
  /** To read and nothing else. */
  readonly reading?: boolean;
  /** A thread of this process copies SQLite's log into the file (`copyLogAside`): commits need not. */
  readonly logIsCopied?: boolean;
  /** For a thread of its own: one connection, which may block while it waits and keeps its temporary tables. */
  readonly alone?: boolean;
  /** Transactions of two databases, one within the other, are told apart by it. */
  readonly name?: string;
}

/** Opens the database with these entities, without touching its schema. */
export async function openOrm(
  place: DatabasePlace,
  entities: readonly EntitySchema[],
  { reading = false, logIsCopied = false, alone = false, name = 'default' }: OpenOptions = {},
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
    return connected(entities, 'postgres', { ...shared, ...serverOptions(place, reading, alone) });
  }
  return connected(entities, 'sqlite', {
    ...shared,
    driver: LibSqlDriver,
    dbName: place,
    pool: {
      afterCreate: reading
        ? prepareReading
        : alone
          ? prepareAlone
          : logIsCopied
            ? prepareWithLogCopied
            : prepareConnection,
    },
  });
}

/** Cached metadata of a list of entities, by dialect: the same for every database that a process opens for that list. */
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
  const sql = orm as AnyOrm;
  sql.em.getPlatform().init(sql);
  await sql.connect();
  return sql;
}
