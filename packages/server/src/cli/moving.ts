/** A data folder's database into one on a server, whole; and a database on a server into one file, as its backup. */
import { existsSync, writeFileSync } from 'node:fs';
import { IsolationLevel } from '@mikro-orm/core';
import { fileIn, movedMark, openDatabase, readyDatabase } from '../wiring/database.ts';
import { deadWorkers } from '../mail/outbox/worker.ts';
import { WorkerRow } from '../mail/outbox/entity.ts';
import { copyDatabase, CopyRefused } from '../platform/database/copy.ts';
import { databaseName } from '../platform/database/postgres.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import type { AnyOrm } from '../platform/database/orm.ts';

const OTHER = { name: 'other' };

export interface MoveResult {
  readonly rows: number;
  /** The name of the database it is in now. */
  readonly to: string;
}

/**
 * Takes a folder's database over into the empty one at `url`, and marks the folder so that nothing starts on it. Throws a sentence where
 * there is nothing to move, a server is at work on it, the other is not empty, or a row came out otherwise; nothing is changed then.
 */
export async function moveDatabase(folder: string, url: string): Promise<MoveResult> {
  const file = fileIn(folder);
  if (existsSync(movedMark(folder))) throw new CopyRefused(`What was in ${folder} was moved before`);
  if (!existsSync(file)) throw new CopyRefused(`There is no database ${file}`);
  const source = await readyDatabase(file);
  const target = await readyDatabase(url, OTHER).catch(async (error: unknown) => {
    await source.close();
    throw error;
  });
  try {
    const rows = await inTransaction(source, async (from) => {
      const dead = await deadWorkers(from);
      const alive = (await from.find(WorkerRow, {}, { disableIdentityMap: true })).filter((w) => !dead.has(w.id));
      if (alive.length > 0) throw new CopyRefused('Zest Bell is at work on this folder. Stop it, then move');
      const copied = await inTransaction(target, (to) => copyDatabase(from, to, source));
      writeFileSync(movedMark(folder), `${databaseName(url)}\n`);
      return copied;
    });
    return { rows, to: databaseName(url) };
  } finally {
    await target.close();
    await source.close();
  }
}

/** One moment of the database at `url` as a new file. Throws a sentence. */
export async function copyToFile(url: string, file: string): Promise<void> {
  const source = await openDatabase(url, { reading: true });
  const target = await readyDatabase(file, OTHER);
  try {
    await (source as unknown as AnyOrm).em
      .fork()
      .transactional((from) => inTransaction(target, (to) => copyDatabase(from, to, source)), {
        isolationLevel: IsolationLevel.REPEATABLE_READ,
      });
  } finally {
    await target.close();
    await source.close();
  }
}
