/** Files that were brought in, and what is kept of their reading. */
import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import type { ImportDecisions, TakenReport } from '@zest-bell/core/imports';
import { instantColumn, oneOf } from '../../platform/database/columns.ts';
import { actorColumn } from '../../access/entity.ts';
import {
  account,
  bytes,
  facts,
  type ErasedStudent,
  holds,
  key,
  notTold,
  personIds,
  plain,
  redactedIn,
  ROW_GOES,
  text,
  withoutNamed,
  words,
} from '../../platform/database/holds.ts';

/** A file that somebody brought, with what they decided about it. */
export const ImportRow = defineEntity({
  name: 'ImportRow',
  tableName: 'import',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    by: actorColumn(),
    name: p.string(),
    at: instantColumn(),
    state: oneOf(['open', 'taken', 'refused']),
    /** Brought by hand, or found in the course's folder. */
    way: oneOf(['hand', 'folder']),
    decisions: p.json<ImportDecisions>(),
    /** What its bytes are kept as, while it is open. */
    file: p.string().nullable(),
    /** The change that it became. */
    change: p.integer().nullable(),
    report: p.json<TakenReport | null>().nullable(),
    /** How much of it was so already; null for a file taken before that was kept. */
    saidAgain: p.integer().nullable(),
    /** Why it could not be read. */
    trouble: p.text().nullable(),
  },
  indexes: [{ properties: ['course', 'id'] }],
});
export type ImportRow = Readonly<InferEntity<typeof ImportRow>>;

/** What was refused of a file that was taken, as a file of its own. */
export const ImportBytesRow = defineEntity({
  name: 'ImportBytesRow',
  tableName: 'import_bytes',
  properties: { import: p.integer().primary(), bytes: p.blob() },
});
export type ImportBytesRow = Readonly<InferEntity<typeof ImportBytesRow>>;

/** How columns were read the last time, for files with the same headers. */
export const ImportMemoryRow = defineEntity({
  name: 'ImportMemoryRow',
  tableName: 'import_memory',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    /** A digest of the headers, points aside. */
    headers: p.string(),
    /** The headers themselves, as they are compared. */
    names: p.json<readonly string[]>().default('[]'),
    takenAt: instantColumn().default(0),
    decisions: p.json<ImportDecisions>(),
  },
  uniques: [{ properties: ['course', 'headers'] }],
});
export type ImportMemoryRow = Readonly<InferEntity<typeof ImportMemoryRow>>;

const TOLD = notTold('what a file brought stands where it was taken');
const withoutChosen = (decisions: ImportDecisions, gone: ErasedStudent): ImportDecisions =>
  redactedIn(withoutNamed(decisions, gone.isThem), gone);
const withoutRefused = (report: TakenReport | null, gone: ErasedStudent): TakenReport | null =>
  report && redactedIn({ ...report, refused: report.refused.filter((r) => !gone.isNamed(JSON.stringify(r))) }, gone);

export const importHolds = holds(ImportRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    by: account,
    at: plain,
    state: plain,
    way: plain,
    file: key,
    change: key,
    saidAgain: plain,
    name: text.both('a file', redactedIn),
    decisions: personIds.both({}, withoutChosen),
    report: facts.both<TakenReport | null>(null, withoutRefused),
    trouble: text.both<string | null>(null, redactedIn),
  },
  kept: 'emptied',
  told: TOLD,
});
export const importBytesHolds = holds(ImportBytesRow, {
  owner: ['course'],
  course: { column: 'import', of: importHolds },
  columns: {
    import: key,
    bytes: bytes.searched((refused: Uint8Array, gone) =>
      gone.isNamed(Buffer.from(refused).toString('utf8')) ? ROW_GOES : refused,
    ),
  },
  kept: 'goes',
  told: TOLD,
});
export const importMemoryHolds = holds(ImportMemoryRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    headers: plain,
    names: words,
    takenAt: plain,
    decisions: personIds.searched(withoutChosen),
  },
  kept: 'goes',
  told: TOLD,
});
