/** The bytes of a file on disk, read a piece at a time. */
import { closeSync, fstatSync, openSync, readSync } from 'node:fs';
import { UnreadableFile, type Bytes } from '@zest-bell/core/imports';

/** Lets `work` read a file, which is closed in the end. Throws `UnreadableFile` where it is gone. */
export async function withFile<T>(path: string, work: (bytes: Bytes) => Promise<T>): Promise<T> {
  const file = opened(path);
  try {
    const { size } = fstatSync(file);
    return await work({
      size,
      read(from, to) {
        const piece = Buffer.allocUnsafe(Math.max(0, Math.min(to, size) - from));
        let length = 0;
        while (length < piece.length) {
          const more = readSync(file, piece, length, piece.length - length, from + length);
          if (more === 0) break;
          length += more;
        }
        return piece.subarray(0, length);
      },
    });
  } finally {
    closeSync(file);
  }
}

function opened(path: string): number {
  try {
    return openSync(path, 'r');
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
    throw new UnreadableFile('This file is no longer here. Bring it in again.');
  }
}
