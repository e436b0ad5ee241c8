/** Taking in activity: row by row what fits and what does not, and all that fits in one transaction. */
import { setImmediate as nextTurn } from 'node:timers/promises';
import type { ZodType } from 'zod';
import { problemsOfIssues, type Problem } from '@zest-bell/core/problem';
import type { Instant } from '@zest-bell/core/time';
import type { Course } from '@zest-bell/core/course';
import { toldEventSchema, toldGradeSchema, latestActAt } from '@zest-bell/core/activity';
import type { IngestAnswer } from '@zest-bell/core/exchange';
import { type BodyRead, contract } from '@zest-bell/core/contract';
import type { Tx } from '../../platform/database/orm.ts';
import { appendBatch, type EventToStore, type GradeToStore } from '../../course/activity/store.ts';

type Input = BodyRead<typeof contract.intake.activity>;

type IngestRow = { id: string; person: string; item?: string | null | undefined; at: Instant };

/** Rows that are read before other requests get their turn. */
const SLICE = 250;

/** What fits of `rows`; the rest goes to `refused`, each field at its path. */
async function readRows<T extends IngestRow>(
  name: 'events' | 'grades',
  rows: readonly unknown[],
  schema: ZodType<T>,
  course: Course,
  now: Instant,
  refused: Problem[],
): Promise<T[]> {
  const taken: T[] = [];
  for (const [i, draft] of rows.entries()) {
    if (i % SLICE === SLICE - 1) await nextTurn();
    const base = `${name}[${i}]`;
    const parsed = schema.safeParse(draft);
    if (!parsed.success) {
      refused.push(...problemsOfIssues(parsed.error.issues, base));
      continue;
    }
    const problem = problemOf(parsed.data, course, now);
    if (problem) refused.push({ ...problem, path: `${base}.${problem.path}` });
    else taken.push(parsed.data);
  }
  return taken;
}

function problemOf(row: IngestRow, course: Course, now: Instant): Problem | null {
  if (!course.personIndex.has(row.person)) {
    return { path: 'person', code: 'notInCourse', message: `There is no person “${row.person}” in this course` };
  }
  if (row.item != null && !course.itemIndex.has(row.item)) {
    return { path: 'item', code: 'notInCourse', message: `There is no item “${row.item}” in this course` };
  }
  return row.at > latestActAt(now) ? { path: 'at', code: 'future', message: 'This lies in the future' } : null;
}

export interface ReadInput {
  readonly events: readonly EventToStore[];
  readonly grades: readonly GradeToStore[];
  readonly refused: readonly Problem[];
}

/** What of a delivery can be stored, and what is wrong with the rest, row by row. Other requests get their turn in the meantime. */
export async function readInput(input: Input, course: Course, now: Instant): Promise<ReadInput> {
  const refused: Problem[] = [];
  const events = await readRows('events', input.events, toldEventSchema, course, now, refused);
  const grades = await readRows('grades', input.grades, toldGradeSchema, course, now, refused);
  return {
    events: events.map((e) => ({ ...e, item: e.item ?? null })),
    grades: grades.map((g) => ({ ...g, criterion: g.criterion ?? null })),
    refused,
  };
}

/** Stores what was read. */
export async function ingest(em: Tx<'course'>, read: ReadInput, course: number): Promise<IngestAnswer> {
  const stored = await appendBatch(em, course, read);
  const taken = stored.events + stored.grades;
  return {
    taken,
    repeated: read.events.length + read.grades.length - taken,
    refused: read.refused.map(({ path, message }) => ({ path, message })),
  };
}
