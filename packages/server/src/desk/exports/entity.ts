import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { instantColumn, oneOf } from '../../platform/database/columns.ts';
import { actorColumn } from '../../access/entity.ts';
import { account, everyRow, holds, key, notTold, plain, words } from '../../platform/database/holds.ts';

/** The address at which other programs read a course’s calendar: anyone who knows it may read, until it ends. */
export const FeedRow = defineEntity({
  name: 'FeedRow',
  tableName: 'calendar_feed',
  properties: {
    course: p.integer().primary(),
    /** SHA-256 of the secret in the address. */
    tokenHash: p.string().unique(),
    madeAt: instantColumn(),
    madeBy: actorColumn(),
  },
});
export type FeedRow = Readonly<InferEntity<typeof FeedRow>>;

/** What of it was told, so that a change of it can be told as one. */
export const FeedEntryRow = defineEntity({
  name: 'FeedEntryRow',
  tableName: 'calendar_entry',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    name: p.string(),
    digest: p.string(),
    sequence: p.integer(),
    changedAt: instantColumn(),
  },
  uniques: [{ properties: ['course', 'name'] }],
});
export type FeedEntryRow = Readonly<InferEntity<typeof FeedEntryRow>>;

/** A file that somebody takes along, made by one process and asked for by way of any. */
export const ExportRow = defineEntity({
  name: 'ExportRow',
  tableName: 'export_file',
  properties: {
    /** Also the name of its file on disk. */
    id: p.string().primary(),
    account: p.integer().index(),
    course: p.integer(),
    /** As the file is called where it is saved. */
    name: p.string(),
    state: oneOf(['waiting', 'running', 'done', 'failed']),
    done: p.integer().default(0),
    total: p.integer().default(0),
    bytes: p.integer().default(0),
    /** Why it could not be made; null while nothing is wrong. */
    trouble: p.text().nullable(),
    /** When its maker last said that it is at it, or was done. */
    heardAt: instantColumn(),
  },
});
export type ExportRow = Readonly<InferEntity<typeof ExportRow>>;

export const feedHolds = holds(FeedRow, {
  owner: ['course'],
  columns: { course: key, tokenHash: key, madeAt: plain, madeBy: account },
});
export const feedEntryHolds = holds(FeedEntryRow, {
  owner: ['course'],
  columns: { id: key, course: key, name: key, digest: plain, sequence: plain, changedAt: plain },
});
export const exportHolds = holds(ExportRow, {
  owner: ['process'],
  columns: {
    id: key,
    account: key,
    course: key,
    state: plain,
    done: plain,
    total: plain,
    bytes: plain,
    heardAt: plain,
    name: words,
    trouble: words,
  },
  about: [everyRow('a file that was made may say something of anybody, and is soon made again')],
  erased: 'goes',
  kept: 'goes',
  told: notTold('what such a file says stands elsewhere too'),
});
