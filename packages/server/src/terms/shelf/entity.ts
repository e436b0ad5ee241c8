/** The shelf of the institution: starters and texts for all courses, and what courses have taken of it. */
import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { SHELF_KINDS } from '@zest-bell/core/exchange';
import type { ShelfRun } from '@zest-bell/core/shelf';
import { actorColumn } from '../../access/entity.ts';
import { instantColumn, oneOf } from '../../platform/database/columns.ts';
import { account, holds, key, plain } from '../../platform/database/holds.ts';

/** A rule with its texts, or a text, as the shelf keeps it. */
export interface ShelfDocument {
  readonly rule: object | null;
  readonly wordings: readonly object[];
  readonly run: ShelfRun;
}

export const ShelfItemRow = defineEntity({
  name: 'ShelfItemRow',
  tableName: 'shelf_item',
  properties: {
    id: p.integer().primary(),
    kind: oneOf(SHELF_KINDS),
    /** Of the last version. */
    version: p.integer(),
    name: p.string(),
    /** By the real clock; null while it is offered. */
    retiredAt: instantColumn().nullable(),
  },
});
export type ShelfItemRow = Readonly<InferEntity<typeof ShelfItemRow>>;

export const ShelfVersionRow = defineEntity({
  name: 'ShelfVersionRow',
  tableName: 'shelf_version',
  properties: {
    id: p.integer().primary(),
    item: p.integer(),
    version: p.integer(),
    /** When to use it. */
    note: p.text(),
    document: p.json<ShelfDocument>(),
    by: actorColumn(),
    /** By the real clock. */
    at: instantColumn(),
  },
  uniques: [{ properties: ['item', 'version'] }],
});
export type ShelfVersionRow = Readonly<InferEntity<typeof ShelfVersionRow>>;

/** What of a course came from the shelf. It is the course's own, and changes only there. */
export const ShelfCopyRow = defineEntity({
  name: 'ShelfCopyRow',
  tableName: 'shelf_copy',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    kind: oneOf(SHELF_KINDS),
    key: p.string(),
    item: p.integer(),
    version: p.integer(),
  },
  uniques: [{ properties: ['course', 'kind', 'key'] }],
});
export type ShelfCopyRow = Readonly<InferEntity<typeof ShelfCopyRow>>;

export const shelfItemHolds = holds(ShelfItemRow, {
  owner: ['installation'],
  columns: { id: key, kind: plain, version: plain, name: plain, retiredAt: plain },
});
// What goes on the shelf is looked through for people and addresses before it is stored: `core/shelf/courseWords.ts`.
export const shelfVersionHolds = holds(ShelfVersionRow, {
  owner: ['installation'],
  columns: { id: key, item: key, version: plain, note: plain, document: plain, by: account, at: plain },
});
export const shelfCopyHolds = holds(ShelfCopyRow, {
  owner: ['course'],
  columns: { id: key, course: key, kind: plain, key: key, item: key, version: plain },
});
