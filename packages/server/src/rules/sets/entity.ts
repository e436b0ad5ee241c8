import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import type { ConfirmedMatches } from '@zest-bell/core/carry';
import { SET_KINDS } from '@zest-bell/core/exchange';
import type { PartChoices } from '@zest-bell/core/sets';
import { instantColumn, oneOf } from '../../platform/database/columns.ts';
import { actorColumn } from '../../access/entity.ts';
import { account, holds, key, personIds, plain, words } from '../../platform/database/holds.ts';
import { withoutExcepted } from '../entity.ts';

/** A rule or a wording that several courses have from one origin. Each has a copy of its own, which decides and logs alone. */
export const SetRow = defineEntity({
  name: 'SetRow',
  tableName: 'course_set',
  properties: {
    id: p.integer().primary(),
    kind: oneOf(SET_KINDS),
    /** The latest of its versions. */
    version: p.integer(),
  },
});
export type SetRow = Readonly<InferEntity<typeof SetRow>>;

/** What the set said at a version, in the terms of the course that said so. */
export const SetVersionRow = defineEntity({
  name: 'SetVersionRow',
  tableName: 'course_set_version',
  properties: {
    id: p.integer().primary(),
    set: p.integer(),
    version: p.integer(),
    course: p.integer(),
    /** The rule format without its status, or a wording. */
    document: p.json<object>(),
    at: instantColumn(),
    by: actorColumn(),
  },
  uniques: [{ properties: ['set', 'version'] }],
});
export type SetVersionRow = Readonly<InferEntity<typeof SetVersionRow>>;

/** A change that waits for a yes there: what it would become is worked out from the versions each time. */
export interface PendingSetChange {
  readonly to: number;
  readonly picks: PartChoices;
}

/** One course's copy. */
export const SetMemberRow = defineEntity({
  name: 'SetMemberRow',
  tableName: 'course_set_member',
  properties: {
    id: p.integer().primary(),
    set: p.integer().index(),
    kind: oneOf(SET_KINDS),
    course: p.integer(),
    /** Of the rule or the wording there. */
    key: p.string(),
    /** The version that it came from. */
    from: p.integer().fieldName('from_version'),
    pending: p.json<PendingSetChange | null>().nullable(),
  },
  uniques: [{ properties: ['course', 'kind', 'key'] }],
});
export type SetMemberRow = Readonly<InferEntity<typeof SetMemberRow>>;

/** Which items of one course somebody said are which of another. */
export const CourseMatchRow = defineEntity({
  name: 'CourseMatchRow',
  tableName: 'course_match',
  properties: { id: p.integer().primary(), course: p.integer(), other: p.integer(), told: p.json<ConfirmedMatches>() },
  uniques: [{ properties: ['course', 'other'] }],
});
export type CourseMatchRow = Readonly<InferEntity<typeof CourseMatchRow>>;

export const setHolds = holds(SetRow, { owner: ['course'], columns: { id: key, kind: plain, version: plain } });
export const setVersionHolds = holds(SetVersionRow, {
  owner: ['course'],
  columns: {
    id: key,
    set: key,
    version: plain,
    course: key,
    at: plain,
    by: account,
    document: personIds.searched(withoutExcepted<object>),
  },
});
export const setMemberHolds = holds(SetMemberRow, {
  owner: ['course'],
  columns: { id: key, set: key, kind: plain, course: key, key: key, from: plain, pending: plain },
});
export const courseMatchHolds = holds(CourseMatchRow, {
  owner: ['course'],
  columns: { id: key, course: key, other: key, told: words },
});
