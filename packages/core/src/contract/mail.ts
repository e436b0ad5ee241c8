/** Requests about mail: direct messages, the Tray, replies, and the Send log. */
import { z } from 'zod';
import { filledSchema, lineSchema } from '../course/entry.ts';
import { wordingSchema } from '../wording/wording.ts';
import { localDateSchema } from '../time/localDate.ts';
import {
  LOG_STATES,
  type LogAnswer,
  type LogDetail,
  type OutcomesAnswer,
  type WithheldLine,
} from '../exchange/sendLog.ts';
import type { SendingAnswer, SendingResult } from '../exchange/sendings.ts';
import type { TrayAnswer, TrayDecided } from '../exchange/tray.ts';
import type { SheetAnswer, SheetCard, WritePreview, WrittenAnswer } from '../imports/take/exchange.ts';
import { created, file, get, json, nothing, post, put, remove } from './endpoint.ts';
import { answerText } from './fields.ts';

/** Rows of a sheet to write from. */
export const MOST_SHEET_ROWS = 5000;

const LONGEST_SUBJECT = 300;

const toSchema = z.strictObject({
  sheet: z.number().int().nullable(),
  rows: z.array(z.number().int().min(0)).max(MOST_SHEET_ROWS).default([]),
  students: z.array(z.string().max(200)).max(MOST_SHEET_ROWS).default([]),
  student: z.boolean().default(true),
  contacts: z.array(z.string().min(1).max(60)).max(20).default([]),
  columns: z.array(z.string().max(300)).max(20).default([]),
});
export type WriteToRead = z.output<typeof toSchema>;

const writeSchema = z.strictObject({
  to: toSchema,
  subject: filledSchema('A message needs a subject', LONGEST_SUBJECT),
  text: z.string().trim().min(1, 'A message needs a text').max(20_000),
  /** Attachments, as they were uploaded. */
  files: wordingSchema.shape.files,
  letter: wordingSchema.shape.letter,
  /** Readers who get it although a field of it has no value for them. */
  withBlanks: z.array(z.string().max(300)).max(MOST_SHEET_ROWS).default([]),
  /** The instructor agreed to write to much of the class. */
  confirmed: z.boolean().default(false),
  passBudget: z.boolean().default(false),
  notBefore: z.number().int().nullable().default(null),
  outside: z.array(z.string().max(254)).max(1000).default([]),
});

const nudges = z.array(z.number().int()).min(1).max(300);
/** Which lines of the log are wanted. */
export const logFilter = z.object({
  search: z.string().trim().max(200).default(''),
  rule: z.string().max(80).optional(),
  state: z.enum(LOG_STATES).optional(),
  date: localDateSchema.optional(),
});
const logQuery = logFilter.extend({
  skip: z.coerce.number<number | string>().int().min(0).max(10_000_000).default(0),
  take: z.coerce.number<number | string>().int().min(1).max(200).default(100),
});
export type LogQuery = z.output<typeof logQuery>;

export interface Began {
  readonly sending: SendingAnswer | null;
}

export const mail = {
  previewWriting: post('/courses/{course}/write/preview', 'course.read', 'What becomes of a message by hand', {
    body: writeSchema.extend({
      subject: lineSchema(LONGEST_SUBJECT),
      text: z.string().max(20_000),
      /** Which reader is shown, by their place. */
      at: z.number().int().min(0).default(0),
    }),
    answer: json<WritePreview>(),
  }),
  write: post('/courses/{course}/write', 'nudges.decide', 'Send a message by hand', {
    body: writeSchema,
    answer: created<WrittenAnswer>(),
  }),
  bringSheet: post('/courses/{course}/sheets', 'nudges.decide', 'Bring in a sheet to write from', {
    upload: true,
    query: z.object({ name: z.string().trim().min(1, 'A file needs a name').max(300) }),
    answer: created<{ readonly id: number }>(),
  }),
  sheets: get('/courses/{course}/sheets', 'course.read', 'Sheets to write from', {
    answer: json<readonly SheetCard[]>(),
  }),
  sheet: get('/courses/{course}/sheets/{sheet}', 'course.read', 'A sheet, row by row', { answer: json<SheetAnswer>() }),
  sheetFile: get('/courses/{course}/sheets/{sheet}/file', 'course.read', 'A sheet back, with what was sent when', {
    answer: file,
  }),
  removeSheet: remove('/courses/{course}/sheets/{sheet}', 'nudges.decide', 'Remove a sheet', { answer: nothing }),

  tray: get('/courses/{course}/tray', 'course.read', 'Nudges that wait for a yes', { answer: json<TrayAnswer>() }),
  decideTray: post('/courses/{course}/tray/decide', 'nudges.decide', 'Decide on nudges that wait', {
    body: z.discriminatedUnion('as', [
      z.strictObject({ as: z.literal('send'), nudges }),
      z.strictObject({
        as: z.literal('dismiss'),
        nudges,
        reason: z.string().trim().min(1, 'Say in a few words why').max(300),
      }),
      /** Null: it waits now, after all. */
      z.strictObject({ as: z.literal('later'), nudges, until: z.number().int().nullable() }),
      z.strictObject({ as: z.literal('restore'), nudges }),
    ]),
    answer: json<TrayDecided>(),
  }),
  trayText: put(
    '/courses/{course}/tray/{nudge}/text',
    'nudges.decide',
    'A text for one nudge alone, or another wording',
    {
      body: z.strictObject({
        /** Null: the wording’s own again. */
        text: z
          .strictObject({
            subject: filledSchema('A message needs a subject', LONGEST_SUBJECT),
            text: z.string().trim().min(1, 'A message needs a text').max(20_000),
          })
          .nullable(),
        wording: z.string().max(80).optional(),
      }),
      answer: nothing,
    },
  ),

  letThrough: post('/courses/{course}/falling/{student}/write', 'nudges.decide', 'Send a nudge past its limits', {
    body: z.strictObject({ rule: z.string(), wording: z.string().nullable().default(null) }),
    answer: json<Began>(),
  }),
  answerReply: post('/courses/{course}/replies/{reply}/answer', 'nudges.decide', 'Answer a reply', {
    body: z.strictObject({ text: answerText }),
    answer: json<Began>(),
  }),
  settleReply: put('/courses/{course}/replies/{reply}', 'nudges.decide', 'Mark a reply as settled, or open again', {
    body: z.strictObject({ settled: z.boolean() }),
    answer: nothing,
  }),

  sendings: get('/sendings', 'signedIn', 'What waits of your own sending by hand', { answer: json<SendingAnswer[]>() }),
  sending: get('/sendings/{sending}', 'signedIn', 'What became of one that has left', {
    answer: json<SendingResult>(),
  }),
  undoSending: post('/sendings/{sending}/undo', 'signedIn', 'Take back what waits', { answer: json<SendingAnswer>() }),
  sendNow: post('/sendings/{sending}/now', 'signedIn', 'Send what waits at once', { answer: nothing }),

  log: get('/courses/{course}/log', 'course.read', 'The send log', { query: logQuery, answer: json<LogAnswer>() }),
  withheld: get('/courses/{course}/log/withheld', 'course.read', 'Who was not written to, and why', {
    query: logQuery,
    answer: json<WithheldLine[]>(),
  }),
  outcomes: get('/courses/{course}/log/outcomes', 'course.read', 'Who came back and who replied', {
    answer: json<OutcomesAnswer>(),
  }),
  logged: get('/courses/{course}/log/{nudge}', 'course.read', 'One nudge with its messages', {
    answer: json<LogDetail>(),
  }),
  decide: post('/courses/{course}/log/{nudge}/decide', 'nudges.decide', 'A yes or no to messages that wait', {
    body: z.strictObject({
      as: z.enum(['send', 'dismiss']),
      /** Which of the nudge's messages: what a button says is what happens. */
      messages: z.array(z.number().int()).min(1).max(100),
    }),
    answer: json<LogDetail>(),
  }),
  settle: post(
    '/courses/{course}/log/messages/{message}/settle',
    'nudges.decide',
    'What became of an unclear message',
    { body: z.strictObject({ as: z.enum(['arrived', 'sendAgain']) }), answer: json<LogDetail>() },
  ),
};
