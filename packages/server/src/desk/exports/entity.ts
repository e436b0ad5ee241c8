import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { instantColumn } from '../../platform/database/columns.ts';
import { actorColumn } from '../../access/actorColumn.ts';

/** The address at which other programs read a course’s calendar: whoever knows it may read, until it ends. */
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
export type FeedRow = InferEntity<typeof FeedRow>;

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
export type FeedEntryRow = InferEntity<typeof FeedEntryRow>;
