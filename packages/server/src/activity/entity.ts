import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { EVENT_KINDS } from '@zest-bell/core';
import { instantColumn, oneOf } from '../platform/columns.ts';

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
  },
  indexes: [{ properties: ['course', 'id'] }],
  uniques: [{ properties: ['course', 'eventId'] }],
});
export type EventRow = InferEntity<typeof EventRow>;

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
  },
  indexes: [{ properties: ['course', 'id'] }],
  uniques: [{ properties: ['course', 'eventId'] }],
});
export type GradeRow = InferEntity<typeof GradeRow>;

/** A course's whole history as one block of columns: a cache beside the rows, made from those up to the two ids. */
export const SegmentRow = defineEntity({
  name: 'SegmentRow',
  tableName: 'activity_segment',
  properties: {
    course: p.integer().primary(),
    lastEvent: p.integer(),
    lastGrade: p.integer(),
    columns: p.blob(),
  },
});
export type SegmentRow = InferEntity<typeof SegmentRow>;
