/** What is read across the others: Today, the inbox, Lookout, a student; and what somebody keeps there for themselves. */
import { z } from 'zod';
import type { CountsAnswer } from '../exchange/counts.ts';
import type { EveryLogAnswer, EveryLookoutAnswer, EveryRule } from '../exchange/everywhere.ts';
import type { InboxAnswer } from '../exchange/inbox.ts';
import type { LookoutLogAnswer, LookoutRulesAnswer, NoteLine, OwnRemarks, SavedView } from '../exchange/lookout.ts';
import type { AheadAnswer, FallingAnswer, BackAnswer, TodayAnswer } from '../exchange/today.ts';
import type { ClockAnswer, StudentAnswer } from '../exchange/wire.ts';
import type { Hint } from '../lookout/hints.ts';
import type { ClassOverview } from '../lookout/overview.ts';
import { logFilter } from './mail.ts';
import { documentOf } from './documents.ts';
import { columns, created, get, json, nothing, post, put, remove } from './endpoint.ts';
import { asideNote, noteText } from './fields.ts';

const students = z.array(z.string().max(200)).min(1).max(5000);
/** The instant that is asked about; now, unless told otherwise. */
const atQuery = z.object({ at: z.coerce.number<number | string>().int().optional() });

export const desk = {
  clock: get('/clock', 'signedIn', 'What time it is, and when the next round is', { answer: json<ClockAnswer>() }),
  inbox: get('/inbox', 'signedIn', 'Replies and what waits, over all courses', { answer: json<InboxAnswer>() }),
  everyRule: get('/rules', 'signedIn', 'The rules of all your courses', { answer: json<readonly EveryRule[]>() }),
  everyLog: get('/log', 'signedIn', 'The send log of all your courses', {
    query: logFilter.omit({ rule: true }).extend({
      take: z.coerce.number<number | string>().int().min(1).max(200).default(100),
      /** The last line that is known: its instant and its nudge. */
      beforeAt: z.coerce.number<number | string>().int().optional(),
      beforeNudge: z.coerce.number<number | string>().int().optional(),
    }),
    answer: json<EveryLogAnswer>(),
  }),
  everyLookout: post('/courses/{course}/lookout/everywhere', 'course.read', 'A view, asked of all your courses', {
    body: z.strictObject({ view: documentOf('View'), search: z.string().trim().max(200).default('') }),
    answer: json<EveryLookoutAnswer>(),
  }),
  counts: get('/courses/{course}/counts', 'counts.read', 'A course in counts, without anybody', {
    answer: json<CountsAnswer>(),
  }),
  today: get('/courses/{course}/today', 'course.read', 'What rang, and what came back', {
    answer: json<TodayAnswer>(),
  }),
  back: get('/courses/{course}/back', 'course.read', 'Who came back after what was sent since a moment', {
    query: z.object({ since: z.coerce.number<number | string>().int() }),
    answer: json<BackAnswer>(),
  }),
  ahead: get('/courses/{course}/today/ahead', 'course.read', 'What rings in the coming days', {
    answer: json<AheadAnswer>(),
  }),
  falling: get('/courses/{course}/falling', 'course.read', 'Who is falling through', { answer: json<FallingAnswer>() }),
  hints: get('/courses/{course}/hints', 'course.read', 'Hints for the week', { answer: json<Hint[]>() }),
  aside: put('/courses/{course}/lookout/aside', 'drafts.write', 'Set students aside until a day', {
    body: z.strictObject({
      students,
      /** Null: no longer set aside. */
      until: z.iso.date('Choose the day on which these students come back').nullable(),
      note: asideNote,
    }),
    answer: nothing,
  }),
  takeBackAside: remove('/courses/{course}/students/{student}/aside', 'drafts.write', 'No longer set aside', {
    answer: nothing,
  }),

  columns: get('/courses/{course}/columns', 'course.read', 'One measure of all students', {
    query: z.object({
      /** A measure with its parameters, as JSON. */
      call: z.string().max(20_000),
      /** The instant of the facts; the values are over all time. */
      at: z.coerce.number<number | string>().int().min(-8.64e15).max(8.64e15),
      /** Only the values at that instant, without facts: for the table of a large class. */
      only: z.stringbool().default(false),
    }),
    answer: columns,
  }),
  log: get('/courses/{course}/lookout/log', 'course.read', 'What was sent to whom, for the table of students', {
    query: atQuery,
    answer: json<LookoutLogAnswer>(),
  }),
  rules: get('/courses/{course}/lookout/rules', 'course.read', 'Whom rules match', {
    /** Ids of rules, with commas between them. */
    query: atQuery.extend({ rules: z.string().max(12_000) }),
    answer: json<LookoutRulesAnswer>(),
  }),
  activity: get('/courses/{course}/lookout/activity', 'course.read', 'Activity of all students, day by day', {
    answer: columns,
  }),
  gradebook: get('/courses/{course}/lookout/gradebook', 'course.read', 'The gradebook', {
    query: atQuery,
    answer: columns,
  }),
  overview: get('/courses/{course}/lookout/overview', 'course.read', 'The class as a whole', {
    query: atQuery,
    answer: json<ClassOverview>(),
  }),
  criteria: get('/courses/{course}/criteria', 'course.read', 'The criteria of rubrics that have points', {
    answer: json<readonly string[]>(),
  }),
  remarks: get('/courses/{course}/lookout/remarks', 'course.read', 'Your pins and notes, and who is set aside', {
    answer: json<OwnRemarks>(),
  }),
  pins: put('/courses/{course}/lookout/pins', 'drafts.write', 'Pin students, or no longer', {
    body: z.strictObject({ students, pinned: z.boolean() }),
    answer: nothing,
  }),
  views: get('/courses/{course}/lookout/views', 'course.read', 'Saved views', { answer: json<SavedView[]>() }),
  saveView: post('/courses/{course}/lookout/views', 'drafts.write', 'Save a view', {
    body: z.strictObject({
      name: z.string().trim().min(1, 'Give the view a name').max(80, 'A name has at most 80 characters'),
      view: documentOf('View'),
    }),
    answer: created<SavedView>(),
  }),
  removeView: remove('/courses/{course}/lookout/views/{view}', 'drafts.write', 'Remove a view', { answer: nothing }),

  student: get('/courses/{course}/students/{student}', 'course.read', 'One student', { answer: json<StudentAnswer>() }),
  notes: get('/courses/{course}/students/{student}/notes', 'course.read', 'Your notes on a student', {
    answer: json<NoteLine[]>(),
  }),
  addNote: post('/courses/{course}/students/{student}/notes', 'drafts.write', 'Note something for yourself', {
    body: z.strictObject({ text: noteText }),
    answer: nothing,
  }),
  removeNote: remove('/courses/{course}/students/{student}/notes/{note}', 'drafts.write', 'Remove a note', {
    answer: nothing,
  }),
};
