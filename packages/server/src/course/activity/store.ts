/** Storing events and grades, many at a time: the one way in, for the route, the demo and imports alike. */
import { setImmediate as nextTurn } from 'node:timers/promises';
import type { Instant } from '@zest-bell/core/time';
import type { EventKind } from '@zest-bell/core/activity';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { inSlices, insertNewRows, select } from '../../platform/database/query.ts';
import { RetractedRow, eventHolds, gradeHolds, retractedHolds } from './entity.ts';

export interface EventToStore {
  readonly id: string;
  readonly person: string;
  readonly kind: EventKind;
  readonly item: string | null;
  readonly at: Instant;
}

export interface GradeToStore {
  readonly id: string;
  readonly person: string;
  readonly item: string;
  readonly criterion: string | null;
  readonly points: number;
  readonly at: Instant;
}

/** Millions at most: they are stored as they are walked through. */
export interface Batch {
  readonly events: Iterable<EventToStore>;
  readonly grades: Iterable<GradeToStore>;
}

/** Rows that are stored before others get their turn. */
const A_TURN = 2800;

/** Transactions that have stored facts: what is in memory of a course must not include rows that may be rolled back. */
const wrote = new WeakSet<object>();
export const hasStoredFacts = (em: Em): boolean => {
  const context = em.getTransactionContext<object>();
  return context !== undefined && wrote.has(context);
};

/** Stores what is new, and returns how many rows that was: the same id twice changes nothing. Others get their turn in the meantime. */
export async function appendBatch(
  em: Tx<'course'>,
  course: number,
  batch: Batch,
  change: number | null = null,
): Promise<{ readonly events: number; readonly grades: number }> {
  // Facts of a course get their ids in turn, as the course is held: anyone who reads on from the last one misses none.
  wrote.add(em.getTransactionContext<object>()!);
  const anyRetracted = (await em.count(RetractedRow, { course })) > 0;
  const store = async (fact: 'event' | 'grade', all: Iterable<EventToStore | GradeToStore>): Promise<number> => {
    let stored = 0;
    for (const rows of batchesOf(all, A_TURN)) {
      const gone = anyRetracted ? await retractedIds(em, course, fact, rows) : null;
      const wanted = gone ? rows.filter((r) => !gone.has(r.id)) : rows;
      stored += await insertNew(em, fact, course, wanted, change);
      await nextTurn();
    }
    return stored;
  };
  return { events: await store('event', batch.events), grades: await store('grade', batch.grades) };
}

function* batchesOf<T>(all: Iterable<T>, size: number): Generator<T[]> {
  let batch: T[] = [];
  for (const one of all) {
    if (batch.push(one) < size) continue;
    yield batch;
    batch = [];
  }
  if (batch.length > 0) yield batch;
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
    const ids = slice.map((r) => r.id);
    const found = await select(em, retractedHolds, ['eventId'], (query) =>
      query.where({ course, fact }).whereIn('event_id', ids),
    );
    for (const { eventId } of found) gone.add(eventId);
  }
  return gone;
}

const KEY = ['course', 'event_id'];

function insertNew(
  em: Tx<'course'>,
  fact: 'event' | 'grade',
  course: number,
  rows: readonly (EventToStore | GradeToStore)[],
  change: number | null,
): Promise<number> {
  const columns = ['event_id', 'person', 'item', 'at', ...(fact === 'grade' ? ['criterion', 'points'] : ['kind'])];
  const values = rows.map((r) =>
    'points' in r ? [r.id, r.person, r.item, r.at, r.criterion, r.points] : [r.id, r.person, r.item, r.at, r.kind],
  );
  return fact === 'grade'
    ? insertNewRows(em, gradeHolds, { course, change }, columns, KEY, values)
    : insertNewRows(em, eventHolds, { course, change }, columns, KEY, values);
}
