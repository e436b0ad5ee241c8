import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import type { Variant } from '@zest-bell/core/wording';
import { TRIAL_POINTS } from '@zest-bell/core/outcomes';
import { instantColumn } from '../../platform/database/columns.ts';
import { actorColumn } from '../../access/entity.ts';
import { account, by, holds, key, notTold, personId, plain, text } from '../../platform/database/holds.ts';

/** A fair trial of the texts of a wording: which one a student gets is drawn by lot (engine O5). */
export const TrialRow = defineEntity({
  name: 'TrialRow',
  tableName: 'trial',
  properties: {
    id: p.integer().primary(),
    /** With the course's number, what the draws are made from. */
    seed: p.string(),
    /** As they stood when it began; they do not change while it runs. */
    texts: p.json<readonly Variant[]>(),
    /** The difference that it should show, in points of a hundred. */
    points: p.integer().$type<(typeof TRIAL_POINTS)[number]>(),
    /** Students that each text needs for that. */
    needed: p.integer(),
    startedAt: instantColumn(),
    startedBy: actorColumn(),
    /** Null while it runs. */
    endedAt: instantColumn().nullable(),
  },
});
export type TrialRow = Readonly<InferEntity<typeof TrialRow>>;

/** A course that takes part, and its wording with these texts. */
export const TrialCourseRow = defineEntity({
  name: 'TrialCourseRow',
  tableName: 'trial_course',
  properties: { id: p.integer().primary(), trial: p.integer(), course: p.integer(), wording: p.string() },
  uniques: [{ properties: ['trial', 'course'] }],
  indexes: [{ properties: ['course', 'wording'] }],
});
export type TrialCourseRow = Readonly<InferEntity<typeof TrialCourseRow>>;

/** Which text was drawn for a student; it stays theirs while the trial runs. */
export const TrialDrawRow = defineEntity({
  name: 'TrialDrawRow',
  tableName: 'trial_draw',
  properties: {
    id: p.integer().primary(),
    trial: p.integer(),
    course: p.integer(),
    /** In the order of the course's draws, from 0. */
    place: p.integer(),
    student: p.string(),
    text: p.integer(),
    at: instantColumn(),
  },
  uniques: [{ properties: ['trial', 'course', 'student'] }, { properties: ['trial', 'course', 'place'] }],
});
export type TrialDrawRow = Readonly<InferEntity<typeof TrialDrawRow>>;

export const trialHolds = holds(TrialRow, {
  owner: ['course'],
  columns: {
    id: key,
    seed: key,
    points: plain,
    needed: plain,
    startedAt: plain,
    startedBy: account,
    endedAt: plain,
    texts: text.stays('they are those of wordings, and do not change while the trial runs'),
  },
});
export const trialCourseHolds = holds(TrialCourseRow, {
  owner: ['course'],
  columns: { id: key, trial: key, course: key, wording: key },
});
export const trialDrawHolds = holds(TrialDrawRow, {
  // A draw is written by the transaction that claims its message; a unique index decides between two.
  owner: ['course', 'claim'],
  columns: { id: key, trial: key, course: key, place: plain, student: personId, text: plain, at: plain },
  about: [by('student')],
  told: notTold('which text they got is in the mail'),
});
