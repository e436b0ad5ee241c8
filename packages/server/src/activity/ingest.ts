/** Taking in activity: row by row what fits and what does not, and all that fits in one transaction. */
import { createHash } from 'node:crypto';
import { z } from 'zod';
import {
  EVENT_KINDS,
  instantSchema,
  MINUTE,
  NEEDS_ITEM,
  problemsOfIssues,
  type Course,
  type IngestAnswer,
  type Instant,
  type Problem,
} from '@zest-bell/core';
import type { Em } from '../platform/orm.ts';
import { rowsOf } from '../platform/query.ts';
import { EventRow, GradeRow } from './entity.ts';

/** The most rows in one request. */
export const MOST_ROWS = 10_000;

const id = z.string().min(1, 'An id is missing').max(200);

const eventSchema = z
  .strictObject({
    id,
    person: z.string(),
    kind: z.enum(EVENT_KINDS, 'There is no such kind of activity'),
    item: z.string().nullish(),
    at: instantSchema,
  })
  .refine((e) => e.item != null || !NEEDS_ITEM.has(e.kind), { path: ['item'], message: 'This kind needs an item' });

const gradeSchema = z.strictObject({
  id,
  person: z.string(),
  item: z.string(),
  criterion: z.string().min(1).nullish(),
  points: z.number(),
  at: instantSchema,
});

export const ingestSchema = z.strictObject({
  events: z.array(z.unknown()).max(MOST_ROWS, `At most ${MOST_ROWS} events a request`).default([]),
  grades: z.array(z.unknown()).max(MOST_ROWS, `At most ${MOST_ROWS} grades a request`).default([]),
});

export const tokenHash = (token: string): string => createHash('sha256').update(token).digest('hex');

/** A clock may run a little ahead of ours; an act of tomorrow would hide an absence. */
const AHEAD = 5 * MINUTE;

type Row = { id: string; person: string; item?: string | null | undefined; at: Instant };

/** What fits of `rows`; the rest goes to `refused`, each field at its path. */
function readRows<T extends Row>(
  name: 'events' | 'grades',
  rows: readonly unknown[],
  schema: z.ZodType<T>,
  course: Course,
  now: Instant,
  refused: Problem[],
): T[] {
  return rows.flatMap((draft, i) => {
    const base = `${name}[${i}]`;
    const parsed = schema.safeParse(draft);
    if (!parsed.success) {
      refused.push(...problemsOfIssues(parsed.error.issues, base));
      return [];
    }
    const row = parsed.data;
    const problem = (field: string, code: string, message: string) => {
      refused.push({ path: `${base}.${field}`, code, message });
      return [];
    };
    if (!course.personIndex.has(row.person)) {
      return problem('person', 'notInCourse', `There is no person “${row.person}” in this course`);
    }
    if (row.item != null && !course.itemIndex.has(row.item)) {
      return problem('item', 'notInCourse', `There is no item “${row.item}” in this course`);
    }
    if (row.at > now + AHEAD) return problem('at', 'future', 'This lies in the future');
    return [row];
  });
}

/** Stores what fits and is new; the same id twice changes nothing. Needs a transaction. */
export async function ingest(
  em: Em,
  input: z.infer<typeof ingestSchema>,
  course: Course,
  courseId: number,
  now: Instant,
): Promise<IngestAnswer> {
  const refused: Problem[] = [];
  const events = readRows('events', input.events, eventSchema, course, now, refused);
  const grades = readRows('grades', input.grades, gradeSchema, course, now, refused);
  const newEvents = await onlyNew(em, 'activity_event', courseId, events);
  const newGrades = await onlyNew(em, 'grade', courseId, grades);
  if (newEvents.length > 0) {
    await em.insertMany(
      EventRow,
      newEvents.map((e) => ({
        course: courseId,
        eventId: e.id,
        person: e.person,
        kind: e.kind,
        item: e.item ?? null,
        at: e.at,
      })),
    );
  }
  if (newGrades.length > 0) {
    await em.insertMany(
      GradeRow,
      newGrades.map((g) => ({
        course: courseId,
        eventId: g.id,
        person: g.person,
        item: g.item,
        criterion: g.criterion ?? null,
        points: g.points,
        at: g.at,
      })),
    );
  }
  const taken = newEvents.length + newGrades.length;
  return {
    taken,
    repeated: events.length + grades.length - taken,
    refused: refused.map(({ path, message }) => ({ path, message })),
  };
}

async function onlyNew<T extends Row>(em: Em, table: string, course: number, rows: readonly T[]): Promise<T[]> {
  const seen = new Set<string>();
  for (let i = 0; i < rows.length; i += 500) {
    const ids = rows.slice(i, i + 500).map((r) => r.id);
    const query = em.getKnex()(table).select('event_id').where({ course }).whereIn('event_id', ids);
    const known = await rowsOf<{ event_id: string }>(em, query);
    for (const k of known) seen.add(k.event_id);
  }
  return rows.filter((r) => !seen.has(r.id) && seen.add(r.id));
}
