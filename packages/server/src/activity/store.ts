/** Storing events and grades, many at a time: the one way in, for the route, the demo and imports alike. */
import type { EventKind, Instant } from '@zest-bell/core';
import type { Em, Tx } from '../platform/orm.ts';
import { inSlices, insertNewRows, rowsOf } from '../platform/query.ts';
import { RetractedRow } from './entity.ts';

export interface NewEvent {
  readonly id: string;
  readonly person: string;
  readonly kind: EventKind;
  readonly item: string | null;
  readonly at: Instant;
}

export interface NewGrade {
  readonly id: string;
  readonly person: string;
  readonly item: string;
  readonly criterion: string | null;
  readonly points: number;
  readonly at: Instant;
}

export interface Batch {
  readonly events: readonly NewEvent[];
  readonly grades: readonly NewGrade[];
}

/** Transactions that have stored facts: what is in memory of a course must not take rows that may yet be rolled back. */
const wrote = new WeakSet<object>();
export const hasStoredFacts = (em: Em): boolean => {
  const context = em.getTransactionContext<object>();
  return context !== undefined && wrote.has(context);
};

/** Stores what is new, and returns how many rows that was: the same id twice changes nothing. */
export async function appendBatch(
  em: Tx,
  course: number,
  batch: Batch,
  change: number | null = null,
): Promise<{ readonly events: number; readonly grades: number }> {
  wrote.add(em.getTransactionContext<object>()!);
  const anyRetracted = (await em.count(RetractedRow, { course })) > 0;
  const without = async <T extends NewEvent | NewGrade>(fact: 'event' | 'grade', rows: readonly T[]) => {
    if (!anyRetracted || rows.length === 0) return rows;
    const gone = await retractedIds(em, course, fact, rows);
    return rows.filter((r) => !gone.has(r.id));
  };
  return {
    events: await insertNew(em, 'activity_event', course, await without('event', batch.events), change),
    grades: await insertNew(em, 'grade', course, await without('grade', batch.grades), change),
  };
}

/** Which of these were taken back: telling them again does not bring them back. */
async function retractedIds(
  em: Em,
  course: number,
  fact: 'event' | 'grade',
  rows: readonly { readonly id: string }[],
): Promise<Set<string>> {
  const gone = new Set<string>();
  for (const slice of inSlices(rows)) {
    const query = em.getKnex()('retracted').select({ eventId: 'event_id' }).where({ course, fact });
    for (const row of await rowsOf<{ eventId: string }>(
      em,
      query.whereIn(
        'event_id',
        slice.map((r) => r.id),
      ),
    ))
      gone.add(row.eventId);
  }
  return gone;
}

const KEY = ['course', 'event_id'];

function insertNew(
  em: Tx,
  table: 'activity_event' | 'grade',
  course: number,
  rows: readonly (NewEvent | NewGrade)[],
  change: number | null,
): Promise<number> {
  const columns = ['event_id', 'person', 'item', 'at', ...(table === 'grade' ? ['criterion', 'points'] : ['kind'])];
  return insertNewRows(
    em,
    table,
    { course, change },
    columns,
    KEY,
    rows.map((r) =>
      'points' in r ? [r.id, r.person, r.item, r.at, r.criterion, r.points] : [r.id, r.person, r.item, r.at, r.kind],
    ),
  );
}
