/**
 * A power cut takes away what SQLite has not synced: of its log, whatever follows the last synced commit may be missing, torn at any
 * byte. A message that the mail server has taken must nevertheless be known as begun, with its row in the log.
 */
import { copyFileSync, existsSync, mkdirSync, statSync, truncateSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { openDatabase } from '../../wiring/database.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { isOnPostgres } from '../../testing/database.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { at, classOf, openStage, type TestStage } from '../../testing/stage.ts';
import { AttemptRow } from '../nudges/attempt.ts';
import { MessageRow } from '../nudges/entity.ts';
import { unguarded } from '../../testing/unguarded.ts';

const IMAGES = 50;
const MANY = 300;

let stage: TestStage;
let smtp: TestSmtp;
beforeEach(async () => {
  smtp = await openSmtp();
  stage = await openStage({ now: '2026-09-04T12:00', smtp: smtp.url, course: { people: classOf(MANY) } });
  stage.clock.set(at('2026-09-05T09:30'));
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

interface RawSqlite {
  exec(sql: string): unknown;
}
interface RawPool {
  acquireConnection(): Promise<RawSqlite>;
  releaseConnection(connection: RawSqlite): Promise<void>;
}

const logOf = (folder: string): string => join(folder, 'zest-bell.db-wal');
const lengthOf = (file: string): number => (existsSync(file) ? statSync(file).size : 0);

/** Notes how long the log is after each commit that was synced. The log is not written into the database in the meantime. */
async function notingSyncs(): Promise<{ length: number }> {
  const pool = stage.orm.em.getKnex().client as RawPool;
  const connection = await pool.acquireConnection();
  const synced = { length: 0 };
  let isFull = false;
  const exec = connection.exec.bind(connection);
  exec('pragma wal_autocheckpoint = 0');
  connection.exec = (sql) => {
    const done = exec(sql);
    if (sql.startsWith('pragma synchronous')) isFull = sql.endsWith('FULL');
    if (sql === 'commit' && isFull) synced.length = lengthOf(logOf(stage.folder));
    return done;
  };
  await pool.releaseConnection(connection);
  return synced;
}

interface Image {
  readonly folder: string;
  readonly arrived: readonly string[];
  readonly synced: number;
}

/** The files as they stand at this moment, and what the mail server has taken by then. */
function takeImage(n: number, synced: number): Image {
  const folder = join(stage.folder, `image-${n}`);
  mkdirSync(folder);
  for (const name of ['zest-bell.db', 'zest-bell.db-wal']) copyFileSync(join(stage.folder, name), join(folder, name));
  return { folder, arrived: smtp.mails.map((m) => m.mail.messageId!), synced };
}

(isOnPostgres ? test.skip : test)(
  'whenever the power is cut, what the mail server took is known as begun and stands in the log',
  async () => {
    await runDueRounds(stage.services);
    const synced = await notingSyncs();
    const images: Image[] = [];
    const going = stage.dispatcher.drain();
    for (let next = 0; images.length < IMAGES; next += Math.ceil(MANY / IMAGES)) {
      while (smtp.mails.length < next) await new Promise(setImmediate);
      // At any point of what is being written.
      for (let turns = Math.random() * 20; turns > 0; turns--) await new Promise(setImmediate);
      images.push(takeImage(images.length, synced.length));
    }
    await going;

    let cut = 0;
    for (const { folder, arrived, synced: kept } of images) {
      const log = logOf(folder);
      const lost = Math.floor(Math.random() * (lengthOf(log) - kept + 1));
      truncateSync(log, lengthOf(log) - lost);
      cut += lost;
      const orm = await openDatabase(join(folder, 'zest-bell.db'));
      const attempts = await unguarded(orm).find(AttemptRow, { messageId: { $in: [...arrived] } });
      const messages = await unguarded(orm).find(MessageRow, { id: { $in: attempts.map((a) => a.message) } });
      await orm.close();
      expect(attempts.map((a) => a.messageId).toSorted()).toEqual(arrived.toSorted());
      expect(messages.filter((m) => m.begunAt === null && m.state !== 'sent')).toEqual([]);
      expect(messages).toHaveLength(arrived.length);
    }
    // The cuts have taken something away.
    expect(cut).toBeGreaterThan(0);
  },
  180_000,
);
