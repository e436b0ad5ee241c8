/** What of a course has changed, told to anyone who holds it in memory or is about to write it. */
import type { Tx } from '../platform/database/orm.ts';
import { run } from '../platform/database/query.ts';
import { courseHolds } from './entity.ts';
import { segmentHolds } from './activity/entity.ts';

export interface CourseAspects {
  /** Something that facts are computed from: who is in it, items, days, marks, weights. An address or a pause is not. */
  readonly facts?: boolean;
  /** Its sender or its limits: a dialog that shows them is old. */
  readonly settings?: boolean;
}

export async function bumpVersions(
  tx: Tx<'course'>,
  course: number,
  { facts = false, settings = false }: CourseAspects = {},
): Promise<void> {
  const more = { version: 1, ...(facts ? { facts_version: 1 } : {}), ...(settings ? { settings_version: 1 } : {}) };
  await run(tx, courseHolds, tx.getKnex()('course').where({ id: course }).increment(more));
}

/** Facts are gone for good: what lies in memory, and the columns beside the rows, hold them still and are worth nothing. */
export async function dropHistory(tx: Tx<'course'>, course: number): Promise<void> {
  await run(tx, courseHolds, tx.getKnex()('course').where({ id: course }).increment({ retractions: 1 }));
  await run(tx, segmentHolds, tx.getKnex()('activity_segment').where({ course }).delete());
  await bumpVersions(tx, course, { facts: true });
}
