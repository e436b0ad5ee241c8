/** A file written piece by piece, as fast as the disk takes it. */
import { createWriteStream } from 'node:fs';
import { once } from 'node:events';
import { finished } from 'node:stream/promises';
import type { Progress } from './jobs.ts';

export interface PieceWriter {
  write(piece: string | Uint8Array): Promise<void>;
}

/** Throws what went wrong with the disk, and an `AbortError` once nobody waits. */
export async function writeFile({ path, signal }: Progress, work: (out: PieceWriter) => Promise<void>): Promise<void> {
  const stream = createWriteStream(path, { mode: 0o600 });
  const over = finished(stream);
  // An error is thrown where it is waited for.
  over.catch(() => undefined);
  try {
    await work({
      async write(piece) {
        signal.throwIfAborted();
        if (!stream.write(piece)) await Promise.race([once(stream, 'drain'), over]);
      },
    });
    stream.end();
  } catch (error) {
    stream.destroy();
    throw error;
  }
  await over;
}
