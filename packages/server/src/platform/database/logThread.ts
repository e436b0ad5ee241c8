/** The thread that copies SQLite's write-ahead log into the database file (`writeAheadLog.ts`). */
import { parentPort } from 'node:worker_threads';
import Database from 'libsql';
import type { LogThreadRequest } from './writeAheadLog.ts';

/** A log of this many pages (16 MiB) is long: its rest is copied while others wait to write, so that it starts over. */
const LONG = 4096;

interface Copied {
  /** Pages in the log. */
  readonly log: number;
  /** Of these, how many are in the database file. */
  readonly checkpointed: number;
}

let database: Database.Database | null = null;
let timer: NodeJS.Timeout | undefined;

function copy(): void {
  // Nobody waits for this one.
  const { log, checkpointed } = database!.prepare('pragma wal_checkpoint(passive)').get() as Copied;
  // Under a steady load, something is always added while it copies, and the log would grow without end.
  if (log > LONG && checkpointed > 0) database!.prepare('pragma wal_checkpoint(full)').get();
}

parentPort!.on('message', (request: LogThreadRequest) => {
  if (request === 'end') {
    clearTimeout(timer);
    database?.close();
    parentPort!.close();
    return;
  }
  database = new Database(request.file);
  // While it waits for those who read, others wait to write.
  database.exec('pragma busy_timeout = 200');
  const turn = () => {
    try {
      copy();
    } catch (error) {
      parentPort!.postMessage(error instanceof Error ? error.message : String(error));
    }
    timer = setTimeout(turn, request.pause);
  };
  turn();
});
