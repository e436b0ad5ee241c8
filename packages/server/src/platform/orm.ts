import { fileURLToPath } from 'node:url';
import type { MikroORM } from '@mikro-orm/core';
import type { AbstractSqlDriver, SqlEntityManager } from '@mikro-orm/knex';
import { MikroORM as LibSqlORM } from '@mikro-orm/libsql';
import { Migrator } from '@mikro-orm/migrations';
import { entities } from './entities.ts';

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
  const connection = orm.em.getConnection();
  await connection.execute('pragma busy_timeout = 10000');
  if (file !== ':memory:') {
    await connection.execute('pragma journal_mode = WAL');
    // Survives a killed process; a power cut may cost the last commits but never the file.
    await connection.execute('pragma synchronous = NORMAL');
  }
  return orm;
}

/** Opens the database and brings its schema up to date. */
export async function readyDatabase(file: string): Promise<Orm> {
  const orm = await openDatabase(file);
  await orm.getMigrator().up();
  return orm;
}
