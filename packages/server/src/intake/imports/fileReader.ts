/**
 * Files are read in threads of their own, with a limit of time and of memory: whatever a file does, rounds, mail and every screen
 * go on, and it fails alone with a sentence. There are two threads, so that a small file never waits for a large one. Each reads one
 * file after the other, those of different accounts in turns, and ends what nobody waits for any more.
 */
import type { MessagePort } from 'node:worker_threads';
import type { CourseParts } from '@zest-bell/core/course';
import { toColumns } from '@zest-bell/core/activity';
import { EventList, UnreadableFile } from '@zest-bell/core/imports';
import type { LiveCourse } from '../../course/activity/live.ts';
import { currentAsking, elsewhere, RequestQueue, type QueueLimits } from '../../platform/turns/requestQueue.ts';
import type { HowToRead } from './reading.ts';
import { ReaderThread, sizeOf } from './readerThread.ts';
import type {
  FileToRead,
  HeadWork,
  FileReading,
  ReadResult,
  ReadScenario,
  ReadWork,
  SheetTable,
  TableHead,
} from './readMessages.ts';

/** For one file, in ms. */
const TIME = 10 * 60_000;
/** Of what is read from a file, in MB. */
const MEMORY = 512;
/** What has a thread of its own, in bytes. */
const SMALL_FILE = 5 << 20;
const LIMITS: QueueLimits = { ofOne: 1, ofAll: 1, waiting: 40 };
/** Folders and sources are read one file after the other. */
const ITSELF = 'the server itself';

/** Facts are copied only once their turn has come. */
function against(live: LiveCourse, file: FileToRead, order: HowToRead, to: MessagePort | null): ReadWork {
  const { calendar: _calendar, personIndex: _people, itemIndex: _items, ...parts } = live.course;
  return { as: 'import', file, order, parts, meanings: live.row.meanings, columns: toColumns(live.facts.history), to };
}

interface ReaderSlot {
  readonly queue: RequestQueue;
  readonly thread: ReaderThread;
}

export class FileReader {
  private readonly small: ReaderSlot;
  private readonly large: ReaderSlot;

  constructor({ time = TIME, memory = MEMORY } = {}) {
    const line = (): ReaderSlot => ({ queue: new RequestQueue(LIMITS), thread: new ReaderThread({ time, memory }) });
    this.small = line();
    this.large = line();
  }

  /** Reads the header and the first rows of a table. `how`: the sheet and header row that the user chose. Null if the file is not a readable table. */
  async head(file: FileToRead, how: HeadWork['how'] = {}): Promise<TableHead | null> {
    try {
      const result = await this.run(file, () => ({ as: 'headers', file, how }));
      return result.as === 'headers' ? result.head : null;
    } catch (error) {
      if (error instanceof UnreadableFile) return null;
      throw error;
    }
  }

  /** The rows of a table, so many at most. Throws `UnreadableFile`. */
  async table(file: FileToRead, most: number): Promise<SheetTable> {
    const result = await this.run(file, () => ({ as: 'table', file, most }));
    if (result.as !== 'table') throw new Error('a file was read as something else');
    return result;
  }

  /** A whole course as a scenario file. Throws `UnreadableFile`. */
  async scenario(bytes: Uint8Array): Promise<ReadScenario> {
    const file = { name: 'scenario.json', bytes };
    const result = await this.run(file, () => ({ as: 'scenario', file }));
    if (result.as !== 'scenario') throw new Error('a file was read as something else');
    return result.scenario;
  }

  /** A file against a course. Throws `UnreadableFile`. */
  read(live: LiveCourse, file: FileToRead, order: HowToRead): Promise<FileReading> {
    return this.readInto(file, () => against(live, file, order, null));
  }

  /** The same, but the result is posted to a port. Throws `UnreadableFile`. */
  async readTo(to: MessagePort, live: LiveCourse, file: FileToRead, order: HowToRead): Promise<void> {
    await this.run(file, () => against(live, file, order, to));
  }

  /** A file against a course that is yet to be made. Throws `UnreadableFile`. */
  readForNew(parts: CourseParts, file: FileToRead, order: HowToRead): Promise<FileReading> {
    return this.readInto(file, () => ({ as: 'import', file, order, parts, columns: null, meanings: {}, to: null }));
  }

  private async readInto(file: FileToRead, work: () => ReadWork): Promise<FileReading> {
    const result = await this.run(file, work);
    if (result.as !== 'import') throw new Error('a file was read as something else');
    return { ...result, facts: { ...result.facts, events: EventList.from(result.facts.events) } };
  }

  private run(file: FileToRead, work: () => ReadWork): Promise<ReadResult> {
    const { queue, thread } = sizeOf(file) < SMALL_FILE ? this.small : this.large;
    const { asker, res, gone } = currentAsking() ?? { asker: ITSELF, res: null, gone: undefined };
    return elsewhere(() => queue.run(asker, res, () => thread.read(work(), gone)));
  }

  /** Ends both threads. */
  async close(): Promise<void> {
    await Promise.all([this.small.thread.close(), this.large.thread.close()]);
  }
}
