/** SQLite in one file: how its connections are set up. */
import { LRUCache } from 'lru-cache';
import { afterOthers } from '../turns/inTurns.ts';
import { plain } from './plain.ts';

interface RawStatement {
  all(values: readonly unknown[]): object[];
  run(values: readonly unknown[]): object;
}

/** What is done with a statement, in this turn of the thread or in another. */
export interface PreparedStatement {
  all(values: readonly unknown[]): object[] | Promise<object[]>;
  run(values: readonly unknown[]): object | Promise<object>;
}

interface SqliteConnection {
  exec(sql: string): void;
  prepare(sql: string): RawStatement | PreparedStatement;
  /** When the library made it, in ms since 1970. */
  __created?: number;
  /** A statement that stays prepared (`statements.ts`). */
  keep?: (sql: string) => PreparedStatement;
}

/** Statements that a connection keeps ready. */
const MOST_PREPARED = 100;

type ConnectionCallback = (error: unknown, connection: SqliteConnection) => void;

/** Every connection, also one that the pool makes anew later on, is set up here. */
export function prepareConnection(connection: SqliteConnection, done: ConnectionCallback): void {
  prepareWith(connection);
  done(null, connection);
}

/** Pages of a log (1 GiB) that a commit copies itself, in case that the thread cannot keep up. */
const FAR_TOO_LONG = 262_144;

/** One that leaves it to a thread to copy the log into the file (`writeAheadLog.ts`), so that no commit waits for that. */
export function prepareWithLogCopied(connection: SqliteConnection, done: ConnectionCallback): void {
  prepareWith(connection);
  connection.exec(`pragma wal_autocheckpoint = ${FAR_TOO_LONG}`);
  done(null, connection);
}

/** One of a thread, in which a write may wait for those of others: nobody else is stopped by that. */
export function prepareAlone(connection: SqliteConnection, done: ConnectionCallback): void {
  prepareWith(connection);
  connection.exec(`pragma wal_autocheckpoint = ${FAR_TOO_LONG}`);
  connection.exec('pragma busy_timeout = 5000');
  done(null, connection);
}

/** A connection that cannot write, not even by mistake. */
export function prepareReading(connection: SqliteConnection, done: ConnectionCallback): void {
  prepareWith(connection);
  connection.exec('pragma query_only = on');
  done(null, connection);
}

function prepareWith(connection: SqliteConnection): void {
  // The library takes a connection for stale after ten seconds and makes another, while the old one still has the file open.
  connection.__created = Infinity;
  // First, as the next statement may find the file locked by a process that is just going. While a connection is set up
  // it may block this process for a while.
  connection.exec('pragma busy_timeout = 5000');
  connection.exec('pragma journal_mode = WAL');
  // Survives a killed process; a power cut may cost the last commits but never the file. What must not be lost is synced (`statements.ts`).
  connection.exec('pragma synchronous = NORMAL');
  // What a large import leaves of the log is cut off when the log starts over. In bytes.
  connection.exec('pragma journal_size_limit = 67108864');
  // Many rows are written at once now and then: their indexes fit. In KiB.
  connection.exec('pragma cache_size = -32768');
  // Short from here on, as it blocks the whole process: a write that finds the database locked waits in `transaction.ts`.
  connection.exec('pragma busy_timeout = 40');
  const prepare = connection.prepare.bind(connection) as (sql: string) => RawStatement;
  const prepared = new LRUCache<string, PreparedStatement>({ max: MOST_PREPARED });
  const once = (sql: string): PreparedStatement => stepwise(prepare(plain(sql)), () => prepared.delete(sql));
  const keep = (sql: string): PreparedStatement => {
    const known = prepared.get(sql) ?? once(sql);
    prepared.set(sql, known);
    return known;
  };
  connection.keep = keep;
  connection.prepare = (sql) => {
    // A transaction takes the write lock at its start. One that began by reading could not write any more once another
    // process had written, and the driver would keep the old snapshot open.
    if (/^begin;?$/i.test(sql)) return stepping(() => connection.exec('begin immediate'));
    if (/^commit;?$/i.test(sql)) return stepping(() => commit(connection));
    // Rows that are written many at a time: their text is long, and comes again and again.
    return sql.startsWith('insert into ') && sql.includes('?') ? keep(sql) : once(sql);
  };
}

/**
 * The driver answers at once, so that a chain of statements never lets anybody else have a turn: it does so here. One that fails is
 * prepared anew.
 */
function stepwise(statement: RawStatement, forget: () => void): PreparedStatement {
  const step = <T>(work: () => T): T | Promise<T> =>
    afterOthers(() => {
      try {
        return work();
      } catch (error) {
        forget();
        throw error;
      }
    });
  return { all: (values) => step(() => statement.all(values)), run: (values) => step(() => statement.run(values)) };
}

/** A step of a transaction in place of a statement. It runs to its end: the driver leaves a statement open that found the database locked. */
function stepping(step: () => void): RawStatement {
  const run = () => {
    step();
    return { changes: 0, lastInsertRowid: 0 };
  };
  return { run, all: () => [run()] };
}

/**
 * Commits, or takes everything back and throws. A transaction that stayed open would take in whatever is written next, hold the
 * lock against every other process, and be lost with this one.
 */
function commit(connection: SqliteConnection): void {
  try {
    connection.exec('commit');
  } catch (error) {
    connection.exec('rollback');
    throw error;
  }
}
