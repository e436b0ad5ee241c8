/** How much room the disk of the data folder has, and the notice that it is little. */
import { statfs } from 'node:fs/promises';
import { hostname } from 'node:os';
import type { Orm } from '../database/orm.ts';
import { endNotice, giveNotice } from './notices.ts';

/** Below this share, or below this many bytes, the notice is shown. */
const LEAST_SHARE = 0.05;
const LEAST_BYTES = 1_000_000_000;
/** How often the disk is looked at, in ms. */
export const LOOKS_EVERY = 60_000;

export interface DiskSpace {
  /** Bytes that this process may still write, and those of the whole disk. */
  readonly free: number;
  readonly size: number;
}

export async function roomOf(folder: string): Promise<DiskSpace> {
  const { bavail, blocks, bsize } = await statfs(folder);
  return { free: bavail * bsize, size: blocks * bsize };
}

export const isLittle = ({ free, size }: DiskSpace): boolean => free < LEAST_BYTES || free < size * LEAST_SHARE;

/** Gives or ends the notice of this machine. */
export async function watchRoom(orm: Orm, folder: string, room?: DiskSpace): Promise<void> {
  const now = room ?? (await roomOf(folder));
  const name = `disk ${hostname()}`;
  if (!isLittle(now)) return endNotice(orm, name);
  const share = Math.round((100 * now.free) / now.size);
  const says = `The disk of ${hostname()} has ${gigabytes(now.free)} free (${share}%). When it is full, nothing can be saved and no mail leaves.`;
  await giveNotice(orm, { name, kind: 'disk', says }, 3 * LOOKS_EVERY);
}

const gigabytes = (bytes: number): string => `${(bytes / 1e9).toFixed(1)} GB`;
