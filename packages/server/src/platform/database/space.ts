/** Whether there is room on the disk: seen by writes that fail for want of it, until one succeeds again. */
import { AppError } from '../errors/errors.ts';
import type { Orm } from './orm.ts';

/** PostgreSQL's code (appendix A of its manual), SQLite's result code, and the system's own. */
const CODES: ReadonlySet<string> = new Set(['53100', 'SQLITE_FULL', 'ENOSPC']);
/** As SQLite and PostgreSQL word it. */
const WORDS = /SQLITE_FULL|database or disk is full|could not extend file|No space left on device|ENOSPC/;
/** Causes of causes that are followed. */
const DEEPEST = 5;

/** The disk is full, or was when this happened. */
export function isDiskFull(error: unknown, depth = 0): boolean {
  if (typeof error !== 'object' || error === null || depth > DEEPEST) return false;
  const { code, cause, message } = error as { readonly [what in 'code' | 'cause' | 'message']?: unknown };
  if (error instanceof AppError ? error.code === 'diskFull' : CODES.has(String(code)) || WORDS.test(String(message)))
    return true;
  return isDiskFull(cause, depth + 1);
}

/** Databases that had no room for their last write. */
const full = new WeakSet<Orm>();

export const isWritable = (orm: Orm): boolean => !full.has(orm);

/** Remembers that a write failed for want of room, and tells it so. */
export async function seeingRoom<T>(orm: Orm, write: () => Promise<T>): Promise<T> {
  try {
    return await write();
  } catch (error) {
    if (!isDiskFull(error)) throw error;
    full.add(orm);
    throw error instanceof AppError ? error : new AppError('diskFull', [], { cause: error });
  }
}

/** If the last write found no room, tries a small one, so that the database counts as writable again even without requests. */
export async function probeDiskSpace(orm: Orm): Promise<void> {
  if (isWritable(orm)) return;
  const knex = orm.em.getKnex();
  const row = knex('lease').insert({ name: 'room', holder: crypto.randomUUID(), until: 0 });
  await row.onConflict('name').merge(['holder']);
  full.delete(orm);
}
