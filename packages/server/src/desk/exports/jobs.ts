/**
 * Files that take their time: made one after the other on disk beside the database, told of while they are made, and let go of an hour
 * after they are done. They are of this process alone: one that ends leaves none of them behind.
 */
import { randomUUID } from 'node:crypto';
import { mkdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import pLimit from 'p-limit';
import type { ExportState } from '@zest-bell/core/exchange';
import type { Logger } from 'pino';
import { AppError } from '../../platform/http/errors.ts';

/** How long a file is kept, in ms. */
const KEPT = 3_600_000;
/** What one person may have at once. */
const MOST_OF_ONE = 5;

export interface Progress {
  /** Writes into this file. */
  readonly path: string;
  readonly signal: AbortSignal;
  readonly total: (total: number) => void;
  readonly done: (more: number) => void;
}

interface Job {
  readonly id: string;
  readonly account: number;
  readonly course: number;
  readonly name: string;
  readonly path: string;
  readonly stop: AbortController;
  state: ExportState['state'];
  done: number;
  total: number;
  bytes: number;
  trouble: string | null;
}

export class ExportJobs {
  private readonly folder: string;
  private readonly logger: Logger;
  private readonly jobs = new Map<string, Job>();
  private readonly line = pLimit(1);
  private swept: Promise<void> | null = null;

  constructor(folder: string, logger: Logger) {
    this.folder = folder;
    this.logger = logger;
  }

  /** Throws `tooMuchAtOnce`. */
  start(of: { account: number; course: number; name: string }, make: (to: Progress) => Promise<void>): ExportState {
    const mine = [...this.jobs.values()].filter((j) => j.account === of.account);
    for (const old of mine.filter((j) => j.state === 'done' || j.state === 'failed').slice(0, -2)) this.forget(old);
    if (mine.filter((j) => j.state === 'waiting' || j.state === 'running').length >= MOST_OF_ONE)
      throw new AppError('tooMuchAtOnce');
    const id = randomUUID();
    const job: Job = {
      ...of,
      ...{ id, path: join(this.folder, id), stop: new AbortController(), state: 'waiting', done: 0, total: 0 },
      ...{ bytes: 0, trouble: null },
    };
    this.jobs.set(id, job);
    void this.line(() => this.run(job, make));
    return stateOf(job);
  }

  private async run(job: Job, make: (to: Progress) => Promise<void>): Promise<void> {
    if (job.stop.signal.aborted) return;
    job.state = 'running';
    try {
      await this.emptied();
      await make({
        path: job.path,
        signal: job.stop.signal,
        total: (total) => (job.total = total),
        done: (more) => (job.done += more),
      });
      job.bytes = (await stat(job.path)).size;
      job.state = 'done';
    } catch (error) {
      job.state = 'failed';
      job.trouble = error instanceof AppError ? error.message : 'The file could not be made. Try again.';
      if (!job.stop.signal.aborted) this.logger.error({ err: error, course: job.course }, 'a file was not made');
      await rm(job.path, { force: true });
    }
    setTimeout(() => this.forget(job), KEPT).unref();
  }

  /** What an earlier process left is nobody’s. */
  private emptied(): Promise<void> {
    this.swept ??= rm(this.folder, { recursive: true, force: true }).then(async () => {
      await mkdir(this.folder, { recursive: true, mode: 0o700 });
    });
    return this.swept;
  }

  /** Throws `notFound`: it is somebody else’s, of another course, or gone. */
  private find(account: number, course: number, id: string): Job {
    const job = this.jobs.get(id);
    if (!job || job.account !== account || job.course !== course) throw new AppError('notFound');
    return job;
  }

  state = (account: number, course: number, id: string): ExportState => stateOf(this.find(account, course, id));

  /** Throws `notFound` until it is done. */
  file(account: number, course: number, id: string): { readonly path: string; readonly name: string } {
    const job = this.find(account, course, id);
    if (job.state !== 'done') throw new AppError('notFound');
    return job;
  }

  stop(account: number, course: number, id: string): void {
    this.forget(this.find(account, course, id));
  }

  private forget(job: Job): void {
    job.stop.abort();
    this.jobs.delete(job.id);
    void rm(job.path, { force: true });
  }
}

const stateOf = ({ id, state, done, total, name, bytes, trouble }: Job): ExportState => ({
  ...{ id, state, done, total, name, bytes, trouble },
});
