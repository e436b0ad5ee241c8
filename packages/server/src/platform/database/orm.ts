import { fileURLToPath } from 'node:url';
import type { EntitySchema, MikroORM } from '@mikro-orm/core';
import type { AbstractSqlDriver, SqlEntityManager } from '@mikro-orm/knex';
import { MikroORM as LibSqlORM } from '@mikro-orm/libsql';
import { Migrator } from '@mikro-orm/migrations';
import { LRUCache } from 'lru-cache';

export type Orm = MikroORM<AbstractSqlDriver>;
/** Reads; what it writes is nobody's unless it is in a transaction. */
export type Em = SqlEntityManager<AbstractSqlDriver>;

declare const inside: unique symbol;
/** In a transaction: whatever writes takes one, and only `inTransaction` makes one. */
export type Tx = Em & { readonly [inside]: true };

const here = fileURLToPath(new URL('.', import.meta.url));

/**
 * Opens the database in `file` (or `:memory:`) with these entities, without touching its schema; with `reading`, to read and
 * nothing else.
 */
export function openOrm(file: string, entities: readonly EntitySchema[], { reading = false } = {}): Promise<Orm> {
  return LibSqlORM.init({
    entities: [...entities],
    dbName: file,
    extensions: [Migrator],
    metadataCache: { enabled: false },
    pool: { afterCreate: reading ? prepareReading : prepareConnection },
    // What is worth telling goes through the server's own logger.
    logger: () => undefined,
    migrations: {
      path: `${here}migrations/sqlite`,
      glob: '!(*.d).{js,ts}',
      emit: 'ts',
      // up() writes the snapshot too: only the script that creates a migration may do that.
      snapshot: process.env['MIKRO_SNAPSHOT'] === '1',
      snapshotName: '.snapshot',
    },
  });
}

interface RawConnection {
  exec(sql: string): void;
  prepare(sql: string): object;
}

/** Statements that a connection keeps ready. */
const MOST_PREPARED = 50;

/** Every connection, also one that the pool makes anew later on, is set up here. */
function prepareConnection(connection: RawConnection, done: (error: unknown, connection: RawConnection) => void): void {
  // First, as the next statement may find the file locked by a process that is just going. While a connection is set up
  // it may block this process for a while.
  connection.exec('pragma busy_timeout = 5000');
  connection.exec('pragma journal_mode = WAL');
  // Survives a killed process; a power cut may cost the last commits but never the file.
  connection.exec('pragma synchronous = NORMAL');
  // Many rows are written at once now and then: their indexes fit. In KiB.
  connection.exec('pragma cache_size = -32768');
  // Short from here on, as it blocks the whole process: a write that finds the database locked waits in `transaction.ts`.
  connection.exec('pragma busy_timeout = 40');
  // A transaction takes the write lock at its start. One that began by reading could not write any more once another
  // process had written, and the driver would keep the old snapshot open.
  const prepare = connection.prepare.bind(connection);
  const prepared = new LRUCache<string, object>({ max: MOST_PREPARED });
  const preparedOnce = (sql: string): object => {
    const known = prepared.get(sql);
    if (known) return known;
    const statement = prepare(plain(sql));
    // Rows that are written many at a time: their text is long, and comes again and again.
    if (sql.startsWith('insert into ') && sql.includes('?')) prepared.set(sql, statement);
    return statement;
  };
  connection.prepare = (sql) => {
    if (/^begin;?$/i.test(sql)) return stepping(() => connection.exec('begin immediate'));
    if (/^commit;?$/i.test(sql)) return stepping(() => commit(connection));
    return preparedOnce(sql);
  };
  done(null, connection);
}

/** A step of a transaction in place of a statement. It runs to its end: the driver leaves a statement open that found the database locked. */
function stepping(step: () => void): object {
  const run = () => {
    step();
    return { changes: 0, lastInsertRowid: 0 };
  };
  return { run, all: run };
}

/**
 * Commits, or takes everything back and throws. A transaction that stayed open would take in whatever is written next, hold the
 * lock against every other process, and be lost with this one.
 */
function commit(connection: RawConnection): void {
  try {
    connection.exec('commit');
  } catch (error) {
    connection.exec('rollback');
    throw error;
  }
}

/** A connection that cannot write, not even by mistake. */
function prepareReading(connection: RawConnection, done: (error: unknown, connection: RawConnection) => void): void {
  prepareConnection(connection, (error, prepared) => {
    prepared.exec('pragma query_only = on');
    done(error, prepared);
  });
}

/**
 * Values are written into the text of statements by the library: a NUL would end it early, and half of a surrogate pair
 * cannot be stored. Both come from outside and mean nothing.
 */
const plain = (sql: string): string => sql.replaceAll('\0', '').replace(/\p{Surrogate}/gu, '\uFFFD');
