/** A course's own data: changed by hand, brought in files, told by a platform; each change kept and undone. */
import { z } from 'zod';
import { EVENT_KINDS } from '../activity/event.ts';
import { BOUNDS } from '../course/bounds.ts';
import { courseDetailsSchema, groupWeightsSchema, itemEditSchema, personEditSchema } from '../course/edit.ts';
import { addressSchema } from '../course/entry.ts';
import type {
  CalendarDueAnswer,
  ChangedAnswer,
  ChangesAnswer,
  UndoAnswer,
  DataAnswer,
  FromFileAnswer,
  ImportPreview,
  StudentFactsAnswer,
  WaitingGroup,
} from '../imports/take/exchange.ts';
import { IMPORT_KINDS } from '../imports/read/headers.ts';
import { VERB_MEANINGS, type CourseMeanings } from '../imports/take/xapi.ts';
import { localDateSchema } from '../time/localDate.ts';
import { breakSchema } from '../rounds/decide/courseLimits.ts';
import type { IngestAnswer } from '../exchange/wire.ts';
import { documentOf } from './documents.ts';
import { created, file, get, json, nothing, post, put, remove } from './endpoint.ts';
import { gradePoints } from './fields.ts';

const text = z.string().max(500);
const itemChoice = z.union([z.literal('new'), z.literal('nothing'), z.strictObject({ item: text })]);

/** What somebody decided about a file. */
export const decisionsSchema = z.strictObject({
  kind: z.enum(IMPORT_KINDS).optional(),
  told: z.record(text, text).optional(),
  sheet: text.optional(),
  header: z.number().int().positive().optional(),
  isSure: z.boolean().optional(),
  outOf: z.record(text, z.number().positive().max(1e9)).optional(),
  dayOrders: z.record(text, z.enum(['monthFirst', 'dayFirst', 'unknown'])).optional(),
  choices: z
    .strictObject({
      people: z.record(text, text).optional(),
      items: z.record(text, itemChoice).optional(),
      over: z.record(text, z.enum(['take', 'leave'])).optional(),
    })
    .optional(),
  isCorrection: z.boolean().optional(),
  missing: z.enum(['keep', 'inactive']).optional(),
  add: z.strictObject({ people: z.boolean().optional(), items: z.boolean().optional() }).optional(),
  mended: z.record(z.string().regex(/^\d{1,9}$/), z.record(text, z.string().max(2000))).optional(),
  asOf: z.number().int().optional(),
});

const entryId = z.string().trim().min(1).max(200).nullable();
/**
 * Fields of an entry as they were before they were changed: what somebody else changed in the meantime stays, and what both changed is told.
 * Without it, the new value wins. `seen`, after a refusal: the fields as the other person saved them, which the new value replaces.
 */
const was = z.record(z.string().max(50), z.unknown()).optional();
/** What is changed of a course in one go. */
const editSchema = z.strictObject({
  people: z
    .array(z.strictObject({ id: entryId, set: personEditSchema.partial(), was, seen: was }))
    .max(5000)
    .default([]),
  items: z
    .array(z.strictObject({ id: entryId, set: itemEditSchema.partial().nullable(), was, seen: was }))
    .max(2000)
    .default([]),
  order: z.array(z.string()).max(5000).optional(),
  details: courseDetailsSchema.optional(),
  breaks: z.array(breakSchema).max(BOUNDS.breaks).optional(),
  /** Breaks as they were before they were changed. */
  breaksWere: z.array(breakSchema).max(BOUNDS.breaks).optional(),
  breaksSeen: z.array(breakSchema).max(BOUNDS.breaks).optional(),
  groupWeights: groupWeightsSchema.optional(),
  /** With people who are set to be paused: the first day on which they are nudged again, or the end of the term; else until they are resumed. */
  pausedUntil: z.union([localDateSchema, z.literal('term')]).optional(),
});

const fileName = z.object({ name: z.string().trim().min(1, 'A file needs a name').max(300) });

/** The most rows in one delivery. */
export const MOST_EVENTS = 10_000;

export const intake = {
  edit: post('/courses/{course}/edit', 'data.write', 'Change people, items and days', {
    body: editSchema,
    answer: json<ChangedAnswer>(),
  }),
  changes: get('/courses/{course}/changes', 'course.read', 'Changes, the latest first', {
    query: z.object({ before: z.coerce.number<number | string>().int().positive().optional() }),
    answer: json<ChangesAnswer>(),
  }),
  undoAhead: get('/courses/{course}/changes/{change}/undo', 'data.write', 'What undoing a change would do', {
    answer: json<UndoAnswer>(),
  }),
  undo: post('/courses/{course}/changes/{change}/undo', 'data.write', 'Undo a change', {
    answer: json<{ readonly title: string }>(),
  }),

  bring: post('/courses/{course}/imports', 'data.write', 'Bring in a file; nothing changes yet', {
    upload: true,
    query: fileName,
    answer: created<{ readonly id: number }>(),
  }),
  preview: get('/courses/{course}/imports/{import}', 'data.write', 'A file as it would be read', {
    answer: json<ImportPreview>(),
  }),
  decide: put('/courses/{course}/imports/{import}', 'data.write', 'Decide how a file is read', {
    body: decisionsSchema,
    answer: nothing,
  }),
  leave: remove('/courses/{course}/imports/{import}', 'data.write', 'Leave a file', { answer: nothing }),
  take: post('/courses/{course}/imports/{import}/take', 'data.write', 'Take a file', { answer: json<ChangedAnswer>() }),
  refused: get('/courses/{course}/imports/{import}/refused', 'data.write', 'Refused rows, as a file', { answer: file }),
  lookAtSheet: post('/courses/from-file/look', 'signedIn', 'A sheet as it would begin a course', {
    upload: true,
    answer: json<FromFileAnswer>(),
  }),
  beginFromSheet: post('/courses/from-file', 'signedIn', 'Begin a course from a sheet', {
    upload: true,
    answer: created<{ readonly id: number }>(),
  }),

  calendarDue: post('/courses/{course}/due-dates/look', 'data.write', 'Due dates that a calendar names', {
    upload: true,
    query: fileName,
    answer: json<CalendarDueAnswer>(),
  }),

  data: get('/courses/{course}/data', 'course.read', 'How a course is fed', { answer: json<DataAnswer>() }),
  secret: post('/courses/{course}/data/secret', 'tokens.write', 'A new secret for the platform, shown once', {
    body: z.strictObject({ of: z.enum(['activity', 'statements']) }),
    answer: json<{ readonly secret: string }>(),
  }),
  folder: put('/courses/{course}/data/folder', 'data.write', 'Take files from a folder, or no longer', {
    body: z.strictObject({ watched: z.boolean() }),
    answer: nothing,
  }),
  meanings: get('/courses/{course}/data/meanings', 'course.read', 'What its statements mean', {
    answer: json<CourseMeanings>(),
  }),
  setMeanings: put('/courses/{course}/data/meanings', 'data.write', 'Say what statements mean', {
    body: z.strictObject({
      verbs: z.record(z.string().max(2000), z.enum(VERB_MEANINGS)).optional(),
      people: z.record(z.string().max(2000), z.string().max(500)).optional(),
      items: z.record(z.string().max(2000), itemChoice).optional(),
    }),
    answer: json<{ readonly taken: number }>(),
  }),
  waiting: get('/courses/{course}/statements/waiting', 'course.read', 'Statements that wait, by what keeps them', {
    answer: json<WaitingGroup[]>(),
  }),

  facts: get('/courses/{course}/students/{student}/facts', 'course.read', 'What is known of a student', {
    query: z.object({ before: z.coerce.number<number | string>().optional() }),
    answer: json<StudentFactsAnswer>(),
  }),
  retract: post('/courses/{course}/students/{student}/retract', 'data.write', 'Take back what is wrong', {
    body: z.strictObject({
      events: z
        .array(z.strictObject({ kind: z.enum(EVENT_KINDS), item: z.string().nullable(), at: z.number().int() }))
        .max(500)
        .default([]),
      grades: z
        .array(
          z.strictObject({
            item: z.string(),
            criterion: z.string().nullable(),
            points: z.number(),
            at: z.number().int(),
          }),
        )
        .max(500)
        .default([]),
      reason: z.string().trim().min(1, 'Say in a few words what is wrong').max(300),
    }),
    answer: json<ChangedAnswer>(),
  }),
  grade: put('/courses/{course}/students/{student}/grades/{item}', 'data.write', 'Other points, from now on', {
    body: z.strictObject({ points: gradePoints }),
    answer: json<ChangedAnswer>(),
  }),
  address: put('/courses/{course}/students/{student}/address', 'data.write', 'Give a student an address', {
    body: z.strictObject({ email: addressSchema }),
    answer: nothing,
  }),
  addressWorks: post('/courses/{course}/students/{student}/address-works', 'data.write', 'An address works again', {
    answer: nothing,
  }),
  /** Told by a platform, with the course's token. */
  activity: post('/activity', 'key', 'Tell what people did', {
    body: z.strictObject({
      events: z
        .array(documentOf('ActivityEvent'))
        .max(MOST_EVENTS, `At most ${MOST_EVENTS} events a request`)
        .default([]),
      grades: z
        .array(documentOf('ActivityGrade'))
        .max(MOST_EVENTS, `At most ${MOST_EVENTS} grades a request`)
        .default([]),
    }),
    answer: json<IngestAnswer>(),
  }),
};
