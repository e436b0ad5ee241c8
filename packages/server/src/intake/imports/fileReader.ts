/**
 * Files are read in a thread of their own, with a limit of time and of memory: whatever a file does, rounds, mail and every screen
 * go on, and it fails alone with a sentence. One file is read after the other; a thread that is ended is replaced by the next file.
 */
import { fileURLToPath } from 'node:url';
import { Worker } from 'node:worker_threads';
import pLimit from 'p-limit';
import type { CourseParts } from '@zest-bell/core/course';
import { toColumns } from '@zest-bell/core/activity';
import { EventList, UnreadableFile, type CourseMeanings } from '@zest-bell/core/imports';
import type { LiveCourse } from '../../course/activity/live.ts';
import type { HowToRead } from './reading.ts';
import type {
  FileToRead,
  FromReader,
  Reading,
  ReadResult,
  ReadScenario,
  ReadWork,
  SheetTable,
  ToReader,
} from './readMessages.ts';

/** For a file of a megabyte, in ms; in proportion above. */
const TIME = 60_000;
/** Of what is read from a file, in MB. */
const MEMORY = 512;
/** Of what is forgotten at once, in MB. */
const YOUNG_MEMORY = 32;
/** How long a thread that nobody asks is kept, in ms; one that read a large file goes at once, with the memory it took. */
const IDLE = 60_000;
const LARGE_FILE = 8 << 20;

const TOO_LONG = 'This file takes too long to read. Split it, or save it anew in your spreadsheet program.';
const TOO_LARGE = 'This file takes too much memory to read. Split it, or save it anew in your spreadsheet program.';

export class FileReader {
  private readonly time: number;
  private readonly memory: number;
  private readonly line = pLimit(1);
  private thread: Worker | null = null;
  private ids = 0;
  private idle: NodeJS.Timeout | null = null;

  constructor({ time = TIME, memory = MEMORY } = {}) {
    this.time = time;
    this.memory = memory;
  }

  /** The column names of a table; null for what is none, or cannot be read. */
  async headers(file: FileToRead): Promise<readonly string[] | null> {
    try {
      const result = await this.run({ as: 'headers', file });
      return result.as === 'headers' ? result.headers : null;
    } catch (error) {
      if (error instanceof UnreadableFile) return null;
      throw error;
    }
  }

  /** The rows of a table, so many at most. Throws `UnreadableFile`. */
  async table(file: FileToRead, most: number): Promise<SheetTable> {
    const result = await this.run({ as: 'table', file, most });
    if (result.as !== 'table') throw new Error('a file was read as something else');
    return result;
  }

  /** A whole course as a scenario file. Throws `UnreadableFile`. */
  async scenario(bytes: Uint8Array): Promise<ReadScenario> {
    const result = await this.run({ as: 'scenario', file: { name: 'scenario.json', bytes } });
    if (result.as !== 'scenario') throw new Error('a file was read as something else');
    return result.scenario;
  }

  /** A file against a course. Throws `UnreadableFile`. */
  read(live: LiveCourse, file: FileToRead, order: HowToRead): Promise<Reading> {
    const { calendar: _calendar, personIndex: _people, itemIndex: _items, ...parts } = live.course;
    const columns = toColumns(live.facts.history);
    return this.readInto({ parts, columns, meanings: live.row.meanings }, file, order);
  }

  /** A file against a course that is yet to be made. Throws `UnreadableFile`. */
  readForNew(parts: CourseParts, file: FileToRead, order: HowToRead): Promise<Reading> {
    return this.readInto({ parts, columns: null, meanings: {} }, file, order);
  }

  private async readInto(
    to: {
      readonly parts: CourseParts;
      readonly columns: ReturnType<typeof toColumns> | null;
      readonly meanings: CourseMeanings;
    },
    file: FileToRead,
    order: HowToRead,
  ): Promise<Reading> {
    const result = await this.run({ as: 'import', file, order, ...to });
    if (result.as !== 'import') throw new Error('a file was read as something else');
    return { ...result, facts: { ...result.facts, events: EventList.from(result.facts.events) } };
  }

  private run(work: ReadWork): Promise<ReadResult> {
    return this.line(async () => {
      const thread = this.started();
      const id = ++this.ids;
      const { file } = work;
      const size = 'path' in file ? file.size : file.bytes.byteLength;
      const megabytes = Math.max(1, size / 2 ** 20);
      let late: NodeJS.Timeout | undefined;
      try {
        return await new Promise<ReadResult>((done, failed) => {
          const end = (error: Error) => {
            this.lose(thread);
            failed(error);
          };
          late = setTimeout(() => end(new UnreadableFile(TOO_LONG)), this.time * megabytes).unref();
          thread.on('message', (message: FromReader) => {
            if (message.id !== id) return;
            if ('result' in message) done(message.result);
            else if ('unreadable' in message) failed(new UnreadableFile(message.unreadable));
            else failed(new Error(message.fault));
          });
          thread.on('error', (error: NodeJS.ErrnoException) =>
            end(error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? new UnreadableFile(TOO_LARGE) : error),
          );
          thread.on('exit', () => end(new UnreadableFile(TOO_LARGE)));
          const message: ToReader = { id, work };
          // Facts were copied for the thread alone: they are handed over.
          const columns = work.as === 'import' ? work.columns : null;
          const moved = columns ? [columns.counts.buffer, columns.times.buffer, columns.codes.buffer] : [];
          thread.postMessage(message, moved as ArrayBuffer[]);
        });
      } finally {
        clearTimeout(late);
        for (const event of ['message', 'error', 'exit']) thread.removeAllListeners(event);
        // A fault that comes when nothing is read is nobody's trouble.
        thread.on('error', () => this.lose(thread));
        if (size >= LARGE_FILE) this.lose(thread);
        else this.idle = setTimeout(() => void this.close(), IDLE).unref();
      }
    });
  }

  private started(): Worker {
    if (this.idle) clearTimeout(this.idle);
    if (this.thread) return this.thread;
    const thread = startThread(this.memory);
    thread.unref();
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

let bundled: string | null = null;

function startThread(maxOldGenerationSizeMb: number): Worker {
  const here = import.meta.url;
  const resourceLimits = { maxOldGenerationSizeMb, maxYoungGenerationSizeMb: YOUNG_MEMORY };
  if (!here.endsWith('.ts')) return new Worker(new URL('./readThread.js', here), { resourceLimits });
  // From the sources, as in tests: they are bundled, as a thread knows nothing of how its server reads TypeScript.
  const options = { bundle: true, write: false, platform: 'node', format: 'cjs', conditions: ['zest-source'] };
  const order = JSON.stringify({ ...options, entryPoints: [fileURLToPath(new URL('./readThread.ts', here))] });
  bundled ??= `(0, eval)(require('esbuild').buildSync(${order}).outputFiles[0].text)`;
  return new Worker(bundled, { eval: true, execArgv: [], resourceLimits });
}
