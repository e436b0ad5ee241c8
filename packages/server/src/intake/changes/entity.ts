import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import type { CourseChanges } from '@zest-bell/core/course';
import { instantColumn, oneOf } from '../../platform/database/columns.ts';
import { actorColumn } from '../../access/entity.ts';
import {
  account,
  facts,
  type ErasedStudent,
  holds,
  key,
  plain,
  redactedIn,
  text,
} from '../../platform/database/holds.ts';
import { withoutThem } from '../../course/entity.ts';

export const CHANGE_KINDS = ['edit', 'import', 'correction', 'undo'] as const;

/** One change of a course's own data: who made it, when, and field by field what it did, so that it can be undone. */
export const ChangeRow = defineEntity({
  name: 'ChangeRow',
  tableName: 'course_change',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    kind: oneOf(CHANGE_KINDS),
    at: instantColumn(),
    by: actorColumn(),
    /** What was done, as a sentence without its full stop. */
    title: p.text(),
    changes: p.json<CourseChanges>(),
    /** Facts that it brought, and those that it took back. */
    events: p.integer().default(0),
    grades: p.integer().default(0),
    retracted: p.integer().default(0),
    /** Rows of the facts it brought lie between these, both included. */
    firstEvent: p.integer().nullable(),
    lastEvent: p.integer().nullable(),
    firstGrade: p.integer().nullable(),
    lastGrade: p.integer().nullable(),
    /** The change that undid this one. */
    undoneBy: p.integer().nullable(),
  },
  indexes: [{ properties: ['course', 'id'] }],
});
export type ChangeRow = Readonly<InferEntity<typeof ChangeRow>>;

/** Changes of others stay, so that they can be undone, and say nothing of them. */
function changesWithout(changes: CourseChanges, gone: ErasedStudent): CourseChanges {
  const items = changes.items.map((c) => ({
    ...c,
    before: c.before && redactedIn(withoutThem(c.before, gone.id), gone),
    after: c.after && redactedIn(withoutThem(c.after, gone.id), gone),
  }));
  return { ...changes, people: changes.people.filter((c) => c.id !== gone.id), items };
}
const NO_CHANGES: CourseChanges = { people: [], items: [], details: null, order: null };

export const changeHolds = holds(ChangeRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    kind: plain,
    at: plain,
    by: account,
    events: plain,
    grades: plain,
    retracted: plain,
    firstEvent: key,
    lastEvent: key,
    firstGrade: key,
    lastGrade: key,
    undoneBy: key,
    title: text.both('A change', redactedIn),
    changes: facts.both(NO_CHANGES, changesWithout),
  },
  kept: 'emptied',
  told: 'changes',
});
