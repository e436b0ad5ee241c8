/** Files as stored: taken in once, found again by their key. */
import { createHash } from 'node:crypto';
import type { Instant } from '@zest-bell/core/time';
import type { FileRef } from '@zest-bell/core/wording';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { rowsOf } from '../../platform/database/query.ts';
import { FileRow, fileHolds } from './entity.ts';
import { upsertRow } from '../../platform/database/writing.ts';

/** Bytes of all files of a course: they are kept for good, as the log speaks of them. */
const MOST_COURSE_BYTES = 200_000_000;

/** Whether another file of that size fits. */
export async function hasRoom(em: Em, course: number, size: number): Promise<boolean> {
  const query = em.getKnex()('file').where({ course }).sum({ n: 'size' });
  const [sum] = await rowsOf<{ n: number | null }>(em, query);
  return Number(sum?.n ?? 0) + size <= MOST_COURSE_BYTES;
}

/** Files are named for what is in them. */
export const fileKey = (bytes: Buffer): string => createHash('sha256').update(bytes).digest('hex').slice(0, 32);

/** The same bytes twice are one row, under the name they had first. */
export async function storeAttachment(
  em: Tx<'course'>,
  course: number,
  file: { readonly name: string; readonly type: string; readonly bytes: Buffer },
  now: Instant,
): Promise<FileRef> {
  const key = fileKey(file.bytes);
  const size = file.bytes.length;
  if ((await em.count(FileRow, { course, key })) === 0) {
    await upsertRow(
      em,
      fileHolds,
      { course, key, ...file, size, takenAt: now },
      { onConflictFields: ['course', 'key'], onConflictAction: 'ignore' },
    );
  }
  return { id: key, name: file.name, type: file.type, size };
}

export interface StoredFile {
  readonly name: string;
  readonly type: string;
  readonly bytes: Buffer;
}

export async function findFile(em: Em, course: number, key: string): Promise<StoredFile | null> {
  const row = await em.findOne(FileRow, { course, key }, { disableIdentityMap: true });
  return row && { name: row.name, type: row.type, bytes: Buffer.from(row.bytes) };
}

/** Those of the keys that the course has no file for. */
export async function missingFiles(em: Em, course: number, keys: readonly string[]): Promise<string[]> {
  if (keys.length === 0) return [];
  const rows = await em.find(
    FileRow,
    { course, key: { $in: [...keys] } },
    { fields: ['key'], disableIdentityMap: true },
  );
  const known = new Set(rows.map((r) => r.key));
  return keys.filter((key) => !known.has(key));
}
