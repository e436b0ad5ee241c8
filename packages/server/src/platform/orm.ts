import { fileURLToPath } from 'node:url';
import type { MikroORM } from '@mikro-orm/core';
import type { AbstractSqlDriver, SqlEntityManager } from '@mikro-orm/knex';
import { MikroORM as LibSqlORM } from '@mikro-orm/libsql';
import { Migrator } from '@mikro-orm/migrations';
import { entities } from './entities.ts';
import { whenFree } from './whenFree.ts';

export type Orm = MikroORM<AbstractSqlDriver>;
export type Em = SqlEntityManager<AbstractSqlDriver>;

const here = fileURLToPath(new URL('.', import.meta.url));

/** Opens the database in `file` (or `:memory:`) without touching its schema. */
export async function openDatabase(file: string): Promise<Orm> {
  const orm = await LibSqlORM.init({
    entities,
    dbName: file,
    extensions: [Migrator],
    metadataCache: { enabled: false },
    pool: { afterCreate: prepareConnection },
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
  return orm;
}

interface RawConnection {
  exec(sql: string): void;
  prepare(sql: string): object;
}

/** Every connection, also one that the pool makes anew later on, is set up here. */
function prepareConnection(connection: RawConnection, done: (error: unknown, connection: RawConnection) => void): void {
  connection.exec('pragma journal_mode = WAL');
  // Survives a killed process; a power cut may cost the last commits but never the file.
  connection.exec('pragma synchronous = NORMAL');
  // Short, as it blocks the whole process: who finds the database locked waits in `transaction.ts`.
  connection.exec('pragma busy_timeout = 40');
  // A transaction takes the write lock at its start. One that began by reading could not write any more once another
  // process had written, and the driver would keep the old snapshot open.
  const prepare = connection.prepare.bind(connection);
  connection.prepare = (sql) => {
    if (!/^begin;?$/i.test(sql)) return prepare(sql);
    const run = () => {
      connection.exec('begin immediate');
      return { changes: 0, lastInsertRowid: 0 };
    };
    return { run, all: run };
  };
  done(null, connection);
}

/** Opens the database and brings its schema up to date. */
export async function readyDatabase(file: string): Promise<Orm> {
  const orm = await openDatabase(file);
  // Another process may be starting on it at this very moment.
  await whenFree(() => orm.getMigrator().up());
  return orm;
}
