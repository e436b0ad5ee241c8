/**
 * A copy of the database, taken while the server runs. All mail of the copy is stopped: what had not left when it was taken may
 * have left since, and whoever starts it decides what becomes of that.
 */
import { existsSync } from 'node:fs';
import { openDatabase } from './database.ts';
import { CourseRow } from './course/entity.ts';
import { namedActor } from '@zest-bell/core/access';

/** Throws a sentence when there is no database, or something is in the way of the copy. */
export async function backUp(database: string, file: string, now: number): Promise<void> {
  if (!existsSync(database)) throw new Error(`There is no database ${database}`);
  if (existsSync(file)) throw new Error(`${file} is there already. Name a file that is not`);
  const source = await openDatabase(database);
  try {
    await source.em.getConnection().execute('vacuum into ?', [file]);
  } finally {
    await source.close();
  }
  const copy = await openDatabase(file);
  const em = copy.em.fork();
  await em.nativeUpdate(CourseRow, {}, { copyFrom: now });
  await em.nativeUpdate(
    CourseRow,
    { stoppedAt: null },
    { stoppedAt: now, stoppedBy: namedActor('the backup that this was restored from') },
  );
  // One file and nothing beside it.
  await copy.em.getConnection().execute('pragma journal_mode = DELETE');
  await copy.close();
}
