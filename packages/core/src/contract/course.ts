/** A course: begun, read, its limits, its sender, its mail switch. */
import { z } from 'zod';
import { addressOrEmptySchema, addressSchema, filledSchema } from '../course/entry.ts';
import { BOUNDS } from '../course/bounds.ts';
import { courseDetailsSchema } from '../course/edit.ts';
import { breakSchema } from '../rounds/decide/courseLimits.ts';
import {
  MISSED_CHOICES,
  STARTING_ANEW,
  type CourseAnswer,
  type CourseCard,
  type LimitsEffectAnswer,
  type MailTestAnswer,
  type StandingAnswer,
  type TermAnswer,
} from '../exchange/wire.ts';
import type { SetupAnswer } from '../imports/take/exchange.ts';
import type { Item } from '../course/item.ts';
import type { Person } from '../course/person.ts';
import { why } from './why.ts';
import { documentOf } from './documents.ts';
import { created, get, json, nothing, post, put } from './endpoint.ts';

const senderSchema = z.strictObject({
  name: filledSchema('A sender needs a name', 120),
  /** Empty: messages come from the installation's own address. */
  address: addressOrEmptySchema,
  replyTo: addressSchema,
  signature: z.string().trim().max(1000).default(''),
  officeHours: z.string().trim().max(300).default(''),
  bookingUrl: z
    .union([
      z.literal(''),
      z.url({ protocol: /^https?$/, error: 'Type a web address such as https://booking.college.example' }),
    ])
    .default(''),
  domains: z
    .array(
      z
        .string()
        .trim()
        .toLowerCase()
        .regex(/^[a-z0-9-]+(\.[a-z0-9-]+)+$/, 'Type a domain such as college.example'),
    )
    .max(20, 'At most twenty domains')
    .default([]),
  answers: z.enum(['own', 'server']).default('own'),
});
const ownSenderSchema = senderSchema.omit({ domains: true, answers: true });
const version = z.number().int();
/** A page of a list: so many, after the one that a page before ended with. */
const pageQuery = z.object({
  limit: z.coerce.number<number | string>().int().min(1).max(500).default(100),
  after: z.string().max(200).optional(),
});

export interface Page<T> {
  readonly entries: readonly T[];
  /** What to ask on after; null at the end. */
  readonly next: string | null;
}

export const course = {
  all: get('/courses', 'signedIn', 'Your courses', { answer: json<CourseCard[]>() }),
  begin: post('/courses', 'signedIn', 'Begin a course', {
    /** What it is called, and its days. */
    body: z.strictObject({ details: courseDetailsSchema, breaks: z.array(breakSchema).max(BOUNDS.breaks).default([]) }),
    answer: created<{ readonly id: number }>(),
  }),
  beginFromScenario: post('/courses/scenario', 'signedIn', 'Begin a course from a scenario file', {
    upload: true,
    answer: created<{ readonly id: number }>(),
  }),
  read: get('/courses/{course}', 'course.read', 'A course with its people and items', { answer: json<CourseAnswer>() }),
  people: get('/courses/{course}/people', 'course.read', 'People of the roster, in pages', {
    query: pageQuery,
    answer: json<Page<Person>>(),
  }),
  items: get('/courses/{course}/items', 'course.read', 'Items, in pages', {
    query: pageQuery,
    answer: json<Page<Item>>(),
  }),
  confirmDays: post('/courses/{course}/days/confirm', 'settings.write', 'Confirm its days and time zone', {
    answer: nothing,
  }),
  setup: get('/courses/{course}/setup', 'course.read', 'What of setting it up is done', {
    answer: json<SetupAnswer>(),
  }),
  term: get('/courses/{course}/term', 'course.read', 'Its term, day by day', { answer: json<TermAnswer>() }),
  standing: get('/courses/{course}/standing', 'course.read', 'What keeps its mail or its rules waiting', {
    answer: json<StandingAnswer>(),
  }),
  limitsEffect: post('/courses/{course}/limits/effect', 'course.read', 'What other limits would have changed', {
    body: z.strictObject({ limits: documentOf('Limits') }),
    answer: json<LimitsEffectAnswer>(),
  }),
  limits: put('/courses/{course}/limits', 'settings.write', 'Change its limits', {
    body: z.strictObject({ limits: documentOf('Limits'), version, why }),
    answer: nothing,
  }),
  sender: put('/courses/{course}/sender', 'settings.write', 'Change its sender', {
    body: z.strictObject({ sender: senderSchema, version }),
    answer: nothing,
  }),
  ownSender: put(
    '/courses/{course}/sender/own',
    'nudges.decide',
    'Sign with your own name here, or with the course’s',
    { body: z.strictObject({ sender: ownSenderSchema.nullable() }), answer: nothing },
  ),
  testMail: post('/courses/{course}/mail/test', 'settings.write', 'Send a test to yourself', {
    answer: json<MailTestAnswer>(),
  }),
  testOwnMail: post('/courses/{course}/sender/own/test', 'nudges.decide', 'Send a test from yourself to yourself', {
    answer: json<MailTestAnswer>(),
  }),
  stopMail: post('/courses/{course}/mail/stop', 'settings.write', 'Stop all mail', { answer: json<StandingAnswer>() }),
  startMail: post('/courses/{course}/mail/start', 'settings.write', 'Start mail again', {
    body: z.strictObject({ queued: z.enum(STARTING_ANEW), missed: z.enum(MISSED_CHOICES) }),
    answer: json<StandingAnswer>(),
  }),
  archive: post(
    '/courses/{course}/archive',
    'settings.write',
    'Archive a course: its mail stops, and it is only read',
    { answer: nothing },
  ),
  unarchive: post(
    '/courses/{course}/unarchive',
    'settings.write',
    'Take a course out of the archive; its mail stays stopped',
    { inArchive: true, answer: nothing },
  ),
  retryMail: post('/courses/{course}/mail/retry', 'settings.write', 'Try mail again that the server did not take', {
    answer: json<StandingAnswer>(),
  }),
  retryRounds: post('/courses/{course}/rounds/retry', 'rules.run', 'Try rounds again that failed', {
    answer: json<StandingAnswer>(),
  }),
};
