/** Storing events and grades, many at a time: the one way in, for the route, the demo and imports alike. */
import type { EventKind, Instant } from '@zest-bell/core';
import type { Em } from '../platform/orm.ts';
import { inSlices, rowsOf } from '../platform/query.ts';

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

/** Stores what is new, and returns how many rows that was: the same id twice changes nothing. Needs a transaction. */
export async function appendBatch(em: Em, course: number, { events, grades }: Batch): Promise<number> {
  const storedEvents = await insertNew(em, 'activity_event', course, events);
  return storedEvents + (await insertNew(em, 'grade', course, grades));
}

async function insertNew(
  em: Em,
  table: 'activity_event' | 'grade',
  course: number,
  rows: readonly (NewEvent | NewGrade)[],
): Promise<number> {
  let stored = 0;
  for (const slice of inSlices(rows)) {
    const query = em
      .getKnex()(table)
      .insert(slice.map(({ id, ...row }) => ({ ...row, course, event_id: id })))
      .onConflict(['course', 'event_id'])
      .ignore()
      .returning('id');
    stored += (await rowsOf<{ id: number }>(em, query)).length;
  }
  return stored;
}
