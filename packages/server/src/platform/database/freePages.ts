/** What is deleted stays in free pages of a database file until something is written over it. */
import type { Orm } from './orm.ts';
import { isOnServer } from './postgres.ts';
import { emptyLogOrLater } from './writeAheadLog.ts';

/**
 * Runs `work`, after which nothing that it deletes lies in free pages of the file or in its log. A database server has files of its own,
 * which its vacuum cleans.
 */
export async function leavingNoTrace<T>(orm: Orm, work: () => Promise<T>): Promise<T> {
  if (isOnServer(orm.em)) return work();
  const run = (pragma: string) => orm.em.getConnection().execute(`pragma ${pragma}`);
  const before = working.get(orm) ?? 0;
  working.set(orm, before + 1);
  if (before === 0) await run('secure_delete = on');
  try {
    return await work();
  } finally {
    const left = working.get(orm)! - 1;
    working.set(orm, left);
    if (left === 0) await run('secure_delete = off');
    await emptyLogOrLater(orm);
  }
}

/** How much of such work is under way. */
const working = new WeakMap<Orm, number>();
