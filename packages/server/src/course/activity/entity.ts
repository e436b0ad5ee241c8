import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { EVENT_KINDS } from '@zest-bell/core/activity';
import { instantColumn, oneOf } from '../../platform/database/columns.ts';
import { actorColumn } from '../../access/entity.ts';
import {
  account,
  by,
  bytes,
  everyRow,
  facts,
  holds,
  key,
  notTold,
  personId,
  plain,
  words,
} from '../../platform/database/holds.ts';

/** One act of a person. `id` is the order of arrival: a process reads on from the last one it has seen. */
export const EventRow = defineEntity({
  name: 'EventRow',
  tableName: 'activity_event',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    /** The sender's own id; the same one twice changes nothing. */
    eventId: p.string(),
    person: p.string(),
    kind: oneOf(EVENT_KINDS),
    item: p.string().nullable(),
    at: instantColumn(),
    /** The change that brought it; null for what the learning platform told. */
    change: p.integer().nullable(),
  },
  indexes: [{ properties: ['course', 'id'] }],
  uniques: [{ properties: ['course', 'eventId'] }],
});
export type EventRow = Readonly<InferEntity<typeof EventRow>>;

export const GradeRow = defineEntity({
  name: 'GradeRow',
  tableName: 'grade',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    eventId: p.string(),
    person: p.string(),
    item: p.string(),
    criterion: p.string().nullable(),
    points: p.double(),
    at: instantColumn(),
    change: p.integer().nullable(),
    /** The last import that gave the same grade; undoing the change leaves the grade while that import remains. */
    saidAgainBy: p.integer().nullable(),
  },
  indexes: [{ properties: ['course', 'id'] }],
  uniques: [{ properties: ['course', 'eventId'] }],
});
export type GradeRow = Readonly<InferEntity<typeof GradeRow>>;

/** A course's whole history as one block of columns: a cache beside the rows, made from those up to the two ids. */
export const SegmentRow = defineEntity({
  name: 'SegmentRow',
  tableName: 'activity_segment',
  properties: {
    course: p.integer().primary(),
    lastEvent: p.integer(),
    lastGrade: p.integer(),
    /** The course’s count of facts taken back when these were written; older columns are worth nothing. */
    retractions: p.integer().default(0),
    columns: p.blob(),
  },
});
export type SegmentRow = Readonly<InferEntity<typeof SegmentRow>>;

/** A fact that proved wrong: it counts no longer, and is not taken again under its id or with its content. */
export const RetractedRow = defineEntity({
  name: 'RetractedRow',
  tableName: 'retracted',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    /** The change that took it back. */
    change: p.integer(),
    /** The change that had brought it; null for what the platform told. */
    broughtBy: p.integer().nullable(),
    fact: oneOf(['event', 'grade']),
    eventId: p.string(),
    person: p.string(),
    kind: oneOf(EVENT_KINDS).nullable(),
    item: p.string().nullable(),
    criterion: p.string().nullable(),
    points: p.double().nullable(),
    at: instantColumn(),
    retractedAt: instantColumn(),
    by: actorColumn(),
    reason: p.text(),
  },
  indexes: [{ properties: ['course', 'person'] }, { properties: ['course', 'change'] }],
  uniques: [{ properties: ['course', 'fact', 'eventId'] }],
});
export type RetractedRow = Readonly<InferEntity<typeof RetractedRow>>;

const OF_FACT = { about: [by('person')], erased: 'goes', kept: 'goes' } as const;

export const eventHolds = holds(EventRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    eventId: facts.emptied(''),
    person: personId,
    kind: plain,
    item: plain,
    at: plain,
    change: key,
  },
  ...OF_FACT,
  told: 'activity',
});
export const gradeHolds = holds(GradeRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    eventId: facts.emptied(''),
    person: personId,
    item: plain,
    criterion: plain,
    points: facts.emptied(0),
    at: plain,
    change: key,
    saidAgainBy: key,
  },
  ...OF_FACT,
  told: 'grades',
});
export const segmentHolds = holds(SegmentRow, {
  owner: ['course'],
  columns: { course: key, lastEvent: plain, lastGrade: plain, retractions: plain, columns: bytes.emptied('') },
  about: [everyRow('it packs the events of all, and is made anew from the rows')],
  erased: 'goes',
  kept: 'goes',
  told: notTold('it is made from events and grades, which are told'),
});
export const retractedHolds = holds(RetractedRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    change: key,
    broughtBy: key,
    fact: plain,
    eventId: facts.emptied(''),
    person: personId,
    kind: plain,
    item: plain,
    criterion: plain,
    points: facts.emptied(null),
    at: plain,
    retractedAt: plain,
    by: account,
    reason: words,
  },
  ...OF_FACT,
  told: 'takenBack',
});
