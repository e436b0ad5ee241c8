/**
 * SQLite's write-ahead log: what is committed lies there until it is copied into the database file. SQLite would do that within the commit
 * that makes the log long. After a large import this takes most of a second, in which the whole process waits, so the server has a thread
 * for it.
 */
import { setTimeout as wait } from 'node:timers/promises';
import type { Logger } from 'pino';
import { startThread } from '../process/startThread.ts';
import type { Orm } from './orm.ts';

/** How often the thread copies, in ms. */
const PAUSE = 1000;
/** For how long others may keep the log from being emptied, in ms, and how often that is tried: a try may block the process for 40 ms. */
const EMPTY_WITHIN = 10_000;
const TRY_EVERY = 250;
/** How often afterwards, in ms. */
const TRY_AGAIN_EVERY = 2000;

/** What the thread is told: the file of the database, or to end. */
export type LogThreadRequest = { readonly file: string; readonly pause: number } | 'end';

/**
 * Copies the log of the database in `file` from a thread of its own. Connections that are opened with `logIsCopied` leave it to that
 * thread. Returns how to end it; the last to close the database copies what is left.
 */
export function copyLogAside(file: string, logger: Logger, pause = PAUSE): () => Promise<void> {
  const thread = startThread(import.meta.url, 'logThread', {});
  thread.unref();
  const ended = new Promise<void>((done) => thread.once('exit', () => done()));
  thread.on('error', (error) => logger.error({ err: error }, 'the database log is not copied any more'));
  thread.on('message', (error: string) => logger.warn({ error }, 'the database log could not be copied'));
  thread.postMessage({ file, pause } satisfies LogThreadRequest);
  return async () => {
    thread.ref();
    thread.postMessage('end' satisfies LogThreadRequest);
    await ended;
  };
}

/** Copies what is in the log and cuts it to nothing, as soon as nobody reads from it. Gives up after a while; says whether it was done. */
export async function emptyLog(orm: Orm, within = EMPTY_WITHIN): Promise<boolean> {
  for (let waited = 0; ; waited += TRY_EVERY) {
    if (await tryToEmpty(orm)) return true;
    if (waited >= within) return false;
    await wait(TRY_EVERY);
  }
}

/**
 * The same, and where somebody reads from it for longer, it is tried again beside other work until it is done or the database is closed.
 * What a process leaves undone, the next start does.
 */
export async function emptyLogOrLater(orm: Orm, within = EMPTY_WITHIN): Promise<void> {
  if (!(await emptyLog(orm, within))) void keepTrying(orm);
}

/** Databases for which this is being tried. */
const trying = new WeakSet<Orm>();

async function keepTrying(orm: Orm): Promise<void> {
  if (trying.has(orm)) return;
  trying.add(orm);
  do await wait(TRY_AGAIN_EVERY, undefined, { ref: false });
  while ((await orm.isConnected().catch(() => false)) && !(await tryToEmpty(orm).catch(() => false)));
  trying.delete(orm);
}

async function tryToEmpty(orm: Orm): Promise<boolean> {
  const [row] = await orm.em.getConnection().execute<{ busy: number }[]>('pragma wal_checkpoint(truncate)');
  return row?.busy !== 1;
}
