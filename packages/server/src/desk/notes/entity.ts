/** What an instructor keeps about a student for themselves alone. */
import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { instantColumn } from '../../platform/database/columns.ts';
import { by, holds, key, notTold, personId, plain, redactedIn, text } from '../../platform/database/holds.ts';

/** A student on whom somebody keeps an eye. */
export const PinRow = defineEntity({
  name: 'PinRow',
  tableName: 'pin',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    student: p.string(),
    /** The owner of the pin; nobody else sees it. */
    account: p.integer(),
    at: instantColumn(),
  },
  uniques: [{ properties: ['course', 'account', 'student'] }],
});
export type PinRow = Readonly<InferEntity<typeof PinRow>>;

/** A private remark. */
export const NoteRow = defineEntity({
  name: 'NoteRow',
  tableName: 'note',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    student: p.string(),
    /** Who wrote it; nobody else sees it. */
    account: p.integer(),
    at: instantColumn(),
    text: p.text(),
  },
  indexes: [{ properties: ['course', 'account', 'student'] }],
});
export type NoteRow = Readonly<InferEntity<typeof NoteRow>>;

const OF_STUDENT = { owner: ['course', 'account'], about: [by('student')], erased: 'goes', kept: 'goes' } as const;

export const pinHolds = holds(PinRow, {
  ...OF_STUDENT,
  columns: { id: key, course: key, student: personId, account: key, at: plain },
  told: notTold('that somebody keeps an eye on them is that person’s own mark'),
});
export const noteHolds = holds(NoteRow, {
  ...OF_STUDENT,
  columns: { id: key, course: key, student: personId, account: key, at: plain, text: text.both('', redactedIn) },
  told: 'notes',
});
