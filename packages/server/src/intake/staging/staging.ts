/**
 * Large files are taken by a thread with a connection of its own: it puts the events that another thread has read into a table, and then
 * moves them within one transaction. The server goes on in the meantime; it reads as always, and what it writes waits for that transaction.
 */
import { readdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { MessageChannel, type MessagePort, type Worker } from 'node:worker_threads';
import pLimit from 'p-limit';
import type { DatabasePlace, Orm } from '../../platform/database/orm.ts';
import { isPostgres } from '../../platform/database/postgres.ts';
import { holdBackWrites } from '../../platform/database/writers.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { startThread } from '../../platform/process/startThread.ts';
import { heldLeases, LeaseLost } from '../../platform/turns/holding.ts';
import { elsewhere } from '../../platform/turns/requestQueue.ts';
import type { StagedTaken, StagedToTake, StagingAnswer, StagingRequest } from './messages.ts';

/** Files from this size on, in bytes: for smaller ones a thread is not worth its start. */
const LARGE = 5 << 20;
/** How long a thread that has nothing to do is kept, in ms. */
const IDLE = 30_000;

export interface StagingSetting {
  readonly orm: Orm;
  readonly place: DatabasePlace;
  readonly secret: string;
  /** For the files of tables. */
  readonly folder: string;
  readonly from?: number;
}

export class Staging {
  /** The size of a file from which on it is taken here, in bytes. */
  readonly from: number;
  private readonly setting: StagingSetting;
  /** One after the other: each takes all that the disk and the processor give. */
  private readonly inTurn = pLimit(1);
  private thread: Worker | null = null;
  private idle: NodeJS.Timeout | null = null;
  private ids = 0;

  constructor(setting: StagingSetting) {
    this.setting = setting;
    this.from = setting.from ?? LARGE;
  }

  /**
   * `read` has a file read to the port that it is given, and says what to take then. `stale` where its course has changed since. Throws
   * what `read` throws, and `importSettled`, `busy`, `diskFull`, `LeaseLost`.
   */
  run(read: (to: MessagePort) => Promise<Omit<StagedToTake, 'leases'>>): Promise<StagedTaken> {
    return elsewhere(() => this.inTurn(() => this.take(read)));
  }

  private async take(read: (to: MessagePort) => Promise<Omit<StagedToTake, 'leases'>>): Promise<StagedTaken> {
    const thread = this.started();
    const id = ++this.ids;
    const { port1: to, port2: from } = new MessageChannel();
    const file = join(this.setting.folder, `${NAME}${id}.db`);
    const ask = (request: StagingRequest) => thread.postMessage(request, request.as === 'stage' ? [from] : []);
    const answer = this.answerOf(thread, id);
    // It may come before anybody waits for it.
    answer.catch(() => undefined);
    ask({ as: 'stage', id, from, file });
    try {
      const take = await read(to);
      ask({ as: 'take', id, take: { ...take, leases: heldLeases() } });
      return await answer;
    } catch (error) {
      to.close();
      ask({ as: 'leave', id });
      throw error;
    } finally {
      this.idle = setTimeout(() => void this.close(), IDLE).unref();
    }
  }

  private answerOf(thread: Worker, id: number): Promise<StagedTaken> {
    let openWrites: (() => void) | null = null;
    const letWrite = () => {
      openWrites?.();
      openWrites = null;
    };
    return new Promise<StagedTaken>((done, failed) => {
      const end = (settle: () => void) => {
        letWrite();
        thread.off('message', hear).off('error', fail).off('exit', exit);
        settle();
      };
      const hear = (said: StagingAnswer) => {
        if (said.id !== id) return;
        if ('holds' in said) {
          if (!said.holds) letWrite();
          else if (!isPostgres(this.setting.place)) openWrites = holdBackWrites(this.setting.orm);
        } else if ('taken' in said) end(() => done(said.taken));
        else if ('error' in said) end(() => failed(new AppError(said.error)));
        else if ('lost' in said) end(() => failed(new LeaseLost(said.lost)));
        else end(() => failed(new Error(said.fault)));
      };
      const lose = () => {
        if (this.thread === thread) this.thread = null;
      };
      const fail = (error: Error) => {
        lose();
        end(() => failed(error));
      };
      const exit = () => {
        lose();
        end(() => failed(new AppError('busy')));
      };
      thread.on('message', hear).on('error', fail).on('exit', exit);
    });
  }

  private started(): Worker {
    if (this.idle) clearTimeout(this.idle);
    if (this.thread) return this.thread;
    const thread = startThread(import.meta.url, 'stagingThread', {});
    thread.unref();
    thread.on('error', () => {
      if (this.thread === thread) this.thread = null;
    });
    const { place, secret } = this.setting;
    thread.postMessage({ as: 'open', place, secret } satisfies StagingRequest);
    return (this.thread = thread);
  }

  /** Ends the thread; what it was taking is not taken. */
  async close(): Promise<void> {
    const { thread } = this;
    this.thread = null;
    if (this.idle) clearTimeout(this.idle);
    await thread?.terminate();
  }
}

const NAME = 'staging-';

/** Removes what a process that died has left of its tables. */
export async function removeStaged(folder: string): Promise<void> {
  const left = (await readdir(folder)).filter((name) => new RegExp(`^${NAME}\\d+\\.db(?:-journal)?$`).test(name));
  for (const name of left) await rm(join(folder, name), { force: true });
}
