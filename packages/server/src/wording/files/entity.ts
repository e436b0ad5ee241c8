import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { instantColumn } from '../../platform/database/columns.ts';
import { bytes, holds, key, plain, words } from '../../platform/database/holds.ts';

/** A file that goes with messages or is shown in them. It never changes: another content has another key. */
export const FileRow = defineEntity({
  name: 'FileRow',
  tableName: 'file',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    /** From the digest of its bytes. */
    key: p.string(),
    name: p.string(),
    type: p.string(),
    size: p.integer(),
    bytes: p.blob(),
    takenAt: instantColumn(),
  },
  uniques: [{ properties: ['course', 'key'] }],
});
export type FileRow = Readonly<InferEntity<typeof FileRow>>;

export const fileHolds = holds(FileRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    key: key,
    name: words,
    type: plain,
    size: plain,
    takenAt: plain,
    bytes: bytes.stays('it is what an instructor gives to all; the dialog says that such files are not searched'),
  },
});
