/** SQLite in one file: how its connections are set up. */
import { LRUCache } from 'lru-cache';
import { plain } from './plain.ts';

interface RawConnection {
  exec(sql: string): void;
  prepare(sql: string): object;
  /** When the library made it, in ms since 1970. */
  __created?: number;
  /** A statement that stays prepared (`statements.ts`). */
  keep?: (sql: string) => object;
  forget?: (sql: string) => void;
}

/** Statements that a connection keeps ready. */
const MOST_PREPARED = 100;

/** Every connection, also one that the pool makes anew later on, is set up here. */
export function prepareConnection(
  connection: RawConnection,
  done: (error: unknown, connection: RawConnection) => void,
): void {
  // The library takes a connection for stale after ten seconds and makes another, while the old one still has the file open.
  connection.__created = Infinity;
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
  const keep = (sql: string): object => {
    const known = prepared.get(sql);
    if (known) return known;
    const statement = prepare(plain(sql));
    prepared.set(sql, statement);
    return statement;
  };
  connection.keep = keep;
  connection.forget = (sql) => void prepared.delete(sql);
  connection.prepare = (sql) => {
    if (/^begin;?$/i.test(sql)) return stepping(() => connection.exec('begin immediate'));
    if (/^commit;?$/i.test(sql)) return stepping(() => commit(connection));
    // Rows that are written many at a time: their text is long, and comes again and again.
    return sql.startsWith('insert into ') && sql.includes('?') ? keep(sql) : prepare(plain(sql));
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
export function prepareReading(
  connection: RawConnection,
  done: (error: unknown, connection: RawConnection) => void,
): void {
  prepareConnection(connection, (error, prepared) => {
    prepared.exec('pragma query_only = on');
    done(error, prepared);
  });
}
