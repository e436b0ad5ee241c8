/**
 * The driver for PostgreSQL, loaded where a database is there. The rest of the server is told the same values as by SQLite: texts of any
 * length, JSON as it was written, and whole numbers of 64 bits as numbers.
 */
import type { Configuration, Dictionary, EntityData, FindOptions, ObjectQuery, Options } from '@mikro-orm/core';
import { AbstractSqlDriver } from '@mikro-orm/knex';
import { PostgreSqlConnection, PostgreSqlPlatform } from '@mikro-orm/postgresql';
import { types } from 'pg';
import { plain } from './plain.ts';
import { databaseName } from './postgres.ts';

/** Connections of one process: a server takes a hundred, unless told otherwise. */
const MOST_CONNECTIONS = { writing: 8, reading: 4 };

/** Object identifiers of types, as in pg_type. */
const OID = { int8: 20, numeric: 1700 };

function parserOf(oid: number): (value: string) => unknown {
  switch (oid) {
    // Moments and counts, all well within what a number holds.
    case OID.int8:
    case OID.numeric:
      return Number;
    default:
      return types.getTypeParser(oid) as (value: string) => unknown;
  }
}

export const connectionOf = (url: string, reading: boolean): Dictionary => ({
  connectionString: url,
  application_name: 'zest-bell',
  types: { getTypeParser: parserOf },
  // A server that does not answer is noticed before somebody gives up.
  connectionTimeoutMillis: 5_000,
  keepAlive: true,
  // A network may drop a line without a word: one on which nothing is said is asked whether it is still there.
  keepAliveInitialDelayMillis: 10_000,
  // A silent lock holder loses its lock: a process that was stopped holds up the others no longer than this.
  idle_in_transaction_session_timeout: 30_000,
  lock_timeout: 15_000,
  ...(reading ? { options: '-c default_transaction_read_only=on' } : {}),
});

interface DriverQuery {
  text: string;
  values?: unknown[];
}

interface PostgresConnection {
  query(asked: DriverQuery | string, ...more: unknown[]): unknown;
}

/** Every connection drops from what it is asked what cannot be stored (`plain.ts`), in the statement and in values that are bound. */
const poolOf = (reading: boolean, alone: boolean) => ({
  min: alone ? 1 : 0,
  max: alone ? 1 : reading ? MOST_CONNECTIONS.reading : MOST_CONNECTIONS.writing,
  afterCreate(connection: PostgresConnection, done: (error: unknown, connection: PostgresConnection) => void): void {
    const query = connection.query.bind(connection);
    connection.query = (asked, ...more) => {
      if (typeof asked === 'string') return query(plain(asked), ...more);
      asked.text = plain(asked.text);
      asked.values = asked.values?.map((value) => (typeof value === 'string' ? plain(value) : value)) ?? [];
      return query(asked, ...more);
    };
    done(null, connection);
  },
});

/** Texts have no length of their own here, and ids no end within reach. */
class ServerPlatform extends PostgreSqlPlatform {
  /** As `isOnServer` asks. */
  readonly isServer = true;

  override getVarcharTypeDeclarationSQL(): string {
    return 'text';
  }

  override getIntegerTypeDeclarationSQL(column: { autoincrement?: boolean; generated?: string }): string {
    return this.getBigIntTypeDeclarationSQL(column.generated ? {} : column);
  }

  /** As it was written: keys keep their order, and texts of other databases come over as they are. */
  override getJsonDeclarationSQL(): string {
    return 'text';
  }

  override convertsJsonAutomatically(): boolean {
    return false;
  }
}

class ServerConnection extends PostgreSqlConnection {
  override getConnectionOptions() {
    return {};
  }
}

class ServerDriver extends AbstractSqlDriver<ServerConnection, ServerPlatform> {
  constructor(config: Configuration) {
    super(config, new ServerPlatform(), ServerConnection, ['knex', 'pg']);
  }

  /** Rows that were changed lie behind the others: who asks for no order gets that in which they were made. */
  override find<T extends object, P extends string = never, F extends string = '*', E extends string = never>(
    entityName: string,
    where: ObjectQuery<T>,
    options: FindOptions<T, P, F, E> = {},
  ): Promise<EntityData<T>[]> {
    const keys = this.metadata.find<T>(entityName)?.primaryKeys ?? [];
    const isOrdered = options.orderBy !== undefined && Object.keys(options.orderBy).length > 0;
    if (isOrdered || keys.length === 0) return super.find(entityName, where, options);
    const orderBy = Object.fromEntries(keys.map((k) => [k, 'asc'])) as FindOptions<T, P, F, E>['orderBy'];
    return super.find(entityName, where, { ...options, orderBy: orderBy! });
  }
}

/** The library would print a line that is not JSON. A query over a line that was cut fails with an error, which is logged. */
const SILENT = { warn: () => undefined, error: () => undefined, debug: () => undefined, deprecate: () => undefined };

export const serverOptions = (url: string, reading: boolean, alone = false): Options => ({
  driver: ServerDriver,
  dbName: databaseName(url),
  driverOptions: { connection: connectionOf(url, reading), log: SILENT },
  pool: poolOf(reading, alone),
});
