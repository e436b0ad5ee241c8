/**
 * A copy of the database, taken while the server runs. All mail of the copy is stopped: what had not left when it was taken may
 * have left since, and the person who starts it decides what becomes of these messages.
 */
import { existsSync, renameSync, rmSync } from 'node:fs';
import { openDatabase } from '../wiring/database.ts';
import { copyToFile } from './moving.ts';
import type { DatabasePlace, AnyOrm } from '../platform/database/orm.ts';
import { isPostgres } from '../platform/database/postgres.ts';
import { namedActor } from '@zest-bell/core/access';
import { CourseRow } from '../course/entity.ts';
import { MessageRow } from '../mail/nudges/entity.ts';
import { WorkerRow } from '../mail/outbox/entity.ts';

/**
 * One file, of a database on a server as well: it is there once it is whole and its mail stopped. Throws a sentence when there is no
 * database, or something is in the way of the copy.
 */
export async function backUp(database: DatabasePlace, file: string, now: number): Promise<void> {
  if (existsSync(file)) throw new Error(`${file} is there already. Name a file that is not`);
  const [partial, whole] = [`${file}.partial`, `${file}.whole`];
  // What a backup that was killed left would be in the way.
  const clear = () => {
    for (const beside of [partial, `${partial}-wal`, `${partial}-shm`, whole]) rmSync(beside, { force: true });
  };
  clear();
  try {
    if (isPostgres(database)) await copyToFile(database, partial);
    else await vacuumInto(database, partial);
    await stopAll(partial, now);
    await vacuumInto(partial, whole);
    renameSync(whole, file);
  } finally {
    clear();
  }
}

async function stopAll(file: string, now: number): Promise<void> {
  const copy = await openDatabase(file);
  // Nobody else has the copy: there is nothing to hold.
  const em = (copy as unknown as AnyOrm).em.fork();
  await em.nativeUpdate(CourseRow, {}, { copyFrom: now });
  await em.nativeUpdate(
    CourseRow,
    { stoppedAt: null },
    { stoppedAt: now, stoppedBy: namedActor('the backup that this was restored from') },
  );
  // What was being handed over belongs to no process here, even if that process still lives where the copy was made.
  await em.nativeUpdate(MessageRow, { claimedBy: { $ne: null } }, { claimedBy: 'copied' });
  await em.nativeDelete(WorkerRow, {});
  await em.insert(WorkerRow, { id: 'copied', aliveAt: 0 });
  await copy.close();
}

async function vacuumInto(database: string, file: string): Promise<void> {
  if (!existsSync(database)) throw new Error(`There is no database ${database}`);
  const source = await openDatabase(database);
  try {
    await source.em.getConnection().execute('vacuum into ?', [file]);
  } finally {
    await source.close();
  }
}
