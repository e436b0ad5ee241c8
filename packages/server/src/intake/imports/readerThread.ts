/** A thread that reads one file at a time. One that had to be ended is replaced when the next file comes. */
import type { Worker } from 'node:worker_threads';
import { UnreadableFile } from '@zest-bell/core/imports';
import { AppError } from '../../platform/errors/errors.ts';
import { startThread } from '../../platform/process/startThread.ts';
import type { FileToRead, ReaderAnswer, ReadResult, ReadWork, ReaderRequest } from './readMessages.ts';

/** Of what is forgotten at once, in MB. */
const YOUNG_MEMORY = 32;
/** How long a thread that nobody asks is kept, in ms; one that read a large file goes at once, with the memory it took. */
const IDLE = 60_000;
const LARGE_FILE = 8 << 20;

const TOO_LONG = 'This file takes too long to read. Split it, or save it anew in your spreadsheet program.';
const TOO_LARGE = 'This file takes too much memory to read. Split it, or save it anew in your spreadsheet program.';

/** In bytes. */
export const sizeOf = (file: FileToRead): number => ('path' in file ? file.size : file.bytes.byteLength);

export interface ReaderLimits {
  /** For one file, in ms. */
  readonly time: number;
  /** Of what is read from a file, in MB. */
  readonly memory: number;
}

export class ReaderThread {
  private readonly limits: ReaderLimits;
  private thread: Worker | null = null;
  private ids = 0;
  private idle: NodeJS.Timeout | null = null;

  constructor(limits: ReaderLimits) {
    this.limits = limits;
  }

  /**
   * Reads one file; the one before has been read by then. Throws `UnreadableFile`, and `busy` as soon as `gone` says that nobody waits
   * any more, which ends the thread.
   */
  async read(work: ReadWork, gone?: AbortSignal): Promise<ReadResult> {
    if (gone?.aborted) throw new AppError('busy');
    const thread = this.started();
    const id = ++this.ids;
    let forget = () => undefined as void;
    try {
      return await new Promise<ReadResult>((done, failed) => {
        const end = (error: Error) => {
          this.lose(thread);
          failed(error);
        };
        const hear = (message: ReaderAnswer) => {
          if (message.id !== id) return;
          if ('result' in message) done(message.result);
          else if ('unreadable' in message) failed(new UnreadableFile(message.unreadable));
          else failed(new Error(message.fault));
        };
        const fail = (error: NodeJS.ErrnoException) =>
          end(error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? new UnreadableFile(TOO_LARGE) : error);
        const exit = () => end(new UnreadableFile(TOO_LARGE));
        const leave = () => end(new AppError('busy'));
        const late = setTimeout(() => end(new UnreadableFile(TOO_LONG)), this.limits.time).unref();
        thread.on('message', hear).on('error', fail).on('exit', exit);
        gone?.addEventListener('abort', leave);
        forget = () => {
          clearTimeout(late);
          gone?.removeEventListener('abort', leave);
          // These alone: a close that waits for the thread to end listens too.
          thread.off('message', hear).off('error', fail).off('exit', exit);
        };
        const message: ReaderRequest = { id, work };
        // Facts were copied for the thread alone: they are handed over.
        const columns = work.as === 'import' ? work.columns : null;
        const moved = columns ? [columns.counts.buffer, columns.times.buffer, columns.codes.buffer] : [];
        const to = work.as === 'import' && work.to !== null ? [work.to] : [];
        thread.postMessage(message, [...(moved as ArrayBuffer[]), ...to]);
      });
    } finally {
      forget();
      if (sizeOf(work.file) >= LARGE_FILE) this.lose(thread);
      else this.idle = setTimeout(() => void this.close(), IDLE).unref();
    }
  }

  private started(): Worker {
    if (this.idle) clearTimeout(this.idle);
    if (this.thread) return this.thread;
    const thread = startThread(import.meta.url, 'readThread', {
      maxOldGenerationSizeMb: this.limits.memory,
      maxYoungGenerationSizeMb: YOUNG_MEMORY,
    });
    thread.unref();
    // A fault that comes when nothing is read is nobody's trouble.
    thread.on('error', () => this.lose(thread));
    return (this.thread = thread);
  }

  private lose(thread: Worker): void {
    if (this.thread === thread) this.thread = null;
    void thread.terminate();
  }

  /** Ends the thread. */
  async close(): Promise<void> {
    const { thread } = this;
    this.thread = null;
    if (this.idle) clearTimeout(this.idle);
    await thread?.terminate();
  }
}
