/** Work on a database that another process may be writing: tried again until it is free. */
import { setTimeout as wait } from 'node:timers/promises';
import {
  DeadlockException,
  DriverException,
  LockWaitTimeoutException,
  UniqueConstraintViolationException,
} from '@mikro-orm/core';
import { AppError } from '../errors/errors.ts';
import { wallClock } from '../process/clock.ts';

const PATIENCE = 15_000;
/** How often a row that somebody else wrote first is looked for again. */
const MOST_COLLISIONS = 3;

/** The query builder tells of a transaction that could not begin only with the first statement in it. */
const NOT_BEGUN = /Transaction query already complete/;

/**
 * PostgreSQL by its codes (appendix A of its manual): a deadlock, a lock that was waited for too long, a transaction that could not be put
 * in order with others, too many connections, a server that starts or stops. Nothing of such a transaction was written.
 */
const BUSY_CODES: ReadonlySet<string> = new Set(['40001', '40P01', '55P03', '53300', '57P03']);

/** The line to the server was cut, or the server went: what was asked may have been done or not, and is not asked again on its own. */
const CUT_CODES = /^(?:ECONNRESET|EPIPE|ETIMEDOUT|EHOSTUNREACH|57P0[123]|08\w{3})$/;
const CUT =
  /Connection terminated|Connection ended|Timeout acquiring a connection|timeout exceeded when trying to connect|is not queryable|Client was closed|Unable to acquire a connection|^aborted$/;

/** The database cannot be reached. */
export const isUnreachable = (error: unknown): boolean =>
  isAbsent(error) ||
  (error instanceof DriverException && CUT_CODES.test(codeOf(error))) ||
  (error instanceof Error && CUT.test(error.message));

/** There was no line yet, so that nothing began. */
const isAbsent = (error: unknown): boolean =>
  codeOf(error) === 'ECONNREFUSED' ||
  // Of a socket: a file that is not there is something else.
  (codeOf(error) === 'ENOENT' && (error as { syscall?: string }).syscall === 'connect');

const isBusy = (error: unknown): boolean =>
  error instanceof LockWaitTimeoutException ||
  error instanceof DeadlockException ||
  (error instanceof DriverException && BUSY_CODES.has(codeOf(error))) ||
  isAbsent(error) ||
  NOT_BEGUN.test(String(error)) ||
  /SQLITE_BUSY|database is locked/.test(String(error));

const codeOf = (error: unknown): string => (error as { code?: string } | null)?.code ?? '';

/** Where several write at once, a row that was looked for and not found may be there a moment later: PostgreSQL's unique violation. */
const isCollision = (error: unknown): boolean =>
  error instanceof UniqueConstraintViolationException && codeOf(error) === '23505';

/** Runs a write that may find the database locked, again until it is free. */
export async function whenFree<T>(work: () => Promise<T>): Promise<T> {
  const until = wallClock() + PATIENCE;
  let collisions = 0;
  for (let pause = 5; ; pause = Math.min(100, pause * 2)) {
    try {
      return await work();
    } catch (error) {
      if (isCollision(error) && ++collisions <= MOST_COLLISIONS) continue;
      if (!isBusy(error)) throw error;
      if (wallClock() > until) throw new AppError('busy', [], { cause: error });
      await wait(pause + Math.random() * pause);
    }
  }
}
