/** Files that were brought and are not settled yet, on disk beside the database: a large one never is in memory whole. */
import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { AppError } from '../../platform/errors/errors.ts';
import { wallClock } from '../../platform/process/clock.ts';

/** The largest file, in bytes. */
export const LARGEST_FILE = 500 << 20;

/** How long a file may be coming in, in ms. */
const LONGEST_COMING = 24 * 3_600_000;

export class BroughtFiles {
  private readonly folder: string;

  constructor(folder: string) {
    this.folder = folder;
  }

  /** Keeps what comes, and names it. Throws `inputTooLarge`; nothing is left of what did not come whole. */
  async receive(from: Readable | Uint8Array): Promise<string> {
    await mkdir(this.folder, { recursive: true });
    const name = randomUUID();
    try {
      const source = from instanceof Uint8Array ? Readable.from([from]) : from;
      await pipeline(source, limited, createWriteStream(this.pathOf(name), { mode: 0o600 }));
    } catch (error) {
      await this.forget([name]);
      throw error;
    }
    return name;
  }

  readonly pathOf = (name: string): string => join(this.folder, name);

  /** Files that are gone already are no trouble. */
  async forget(names: readonly (string | null | undefined)[]): Promise<void> {
    for (const name of names) if (name) await rm(this.pathOf(name), { force: true });
  }

  /** Lets go of files that nothing names any more, as after a crash; not of one that may be coming in at this moment. */
  async sweep(named: ReadonlySet<string>, now = wallClock()): Promise<void> {
    const found = await readdir(this.folder).catch(() => []);
    for (const name of found) {
      if (named.has(name)) continue;
      const { mtimeMs } = await stat(this.pathOf(name));
      if (now - mtimeMs > LONGEST_COMING) await this.forget([name]);
    }
  }
}

async function* limited(pieces: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  let size = 0;
  for await (const piece of pieces) {
    if ((size += piece.length) > LARGEST_FILE) throw new AppError('inputTooLarge');
    yield piece;
  }
}
