/** Replay, the week ahead, hindsight, and what came of it. Nothing of it is sent or saved. */
import { z } from 'zod';
import { courseSettingsSchema } from '../rounds/decide/courseLimits.ts';
import { localDateSchema } from '../time/localDate.ts';
import { CAME_BY } from '../outcomes/cameOfIt.ts';
import type {
  CameOfItAnswer,
  ComingAnswer,
  GroupMessages,
  HindsightAnswer,
  ReplayAnswer,
  ReplayEvidence,
  SignsAnswer,
  ThresholdHint,
} from '../exchange/replay.ts';
import type { NamedTrial } from '../exchange/trial.ts';
import type { SignStudent } from '../outcomes/signs/students.ts';
import type { VariedReplay } from '../outcomes/variedReplay.ts';
import { documentOf } from './documents.ts';
import { get, json, lines, nothing, post, put } from './endpoint.ts';

/** Values that one number may be given in one request. */
const MOST_VALUES = 25;
const values = z.array(z.number()).min(1).max(MOST_VALUES);

/** Courses that are counted together. */
const MOST_COURSES = 20;
/** An outcome, when it is read, and when signs of it are. */
const signsOf = { outcome: documentOf('Condition'), at: z.number().int(), by: z.number().int() };
const groupBySchema = z.discriminatedUnion('of', [
  z.strictObject({ of: z.literal('section') }),
  z.strictObject({ of: z.literal('field'), name: z.string().min(1).max(200) }),
]);

/** What is tried. */
const triedSchema = z.strictObject({
  /** Null: all rules that are on. */
  rule: z.string().nullable(),
  /** In place of the rule as it is saved. */
  changed: documentOf('Rule').optional(),
  /** As if it had been on since that day; since the course's first day unless told otherwise. */
  since: localDateSchema.optional(),
  /** With the other rules that are on, as the message budget is common to all. */
  together: z.boolean().default(false),
  /** In place of the course's message budget; null for none. */
  budget: courseSettingsSchema.shape.budget.optional(),
});
export type TriedRule = z.output<typeof triedSchema>;

export const rounds = {
  replay: post('/courses/{course}/replay', 'course.read', 'What rules would have done over the term', {
    body: triedSchema,
    answer: lines<ReplayAnswer>(),
  }),
  vary: post('/courses/{course}/replay/vary', 'course.read', 'One number of a rule over several values', {
    body: triedSchema.extend({ rule: z.string(), path: z.string().max(300), values }),
    answer: lines<VariedReplay[]>(),
  }),
  hindsight: post(
    '/courses/{course}/replay/hindsight',
    'course.read',
    'How well a rule finds those one worries about',
    {
      body: z.strictObject({
        rule: z.string(),
        outcome: documentOf('Condition'),
        at: z.number().int(),
        vary: z
          .strictObject({ path: z.string().max(300), values })
          .nullable()
          .default(null),
        /** Within each section, or each value of an own column. */
        by: groupBySchema.nullable().default(null),
      }),
      answer: lines<HindsightAnswer>(),
    },
  ),
  groupMessages: post('/courses/{course}/replay/messages', 'course.read', 'Who of each group was sent what', {
    body: z.strictObject({ by: groupBySchema }),
    answer: json<GroupMessages[]>(),
  }),
  signs: post('/courses/{course}/replay/signs', 'course.read', 'What told early whom one worries about', {
    body: z.strictObject({
      ...signsOf,
      /** Other courses that contribute students to these counts. */
      with: z.array(z.number().int()).max(MOST_COURSES).default([]),
    }),
    answer: lines<SignsAnswer>(),
  }),
  signStudents: post('/courses/{course}/replay/signs/students', 'course.read', 'Whom a condition finds, read early', {
    body: z.strictObject({ ...signsOf, when: documentOf('Condition') }),
    answer: json<SignStudent[]>(),
  }),
  thresholdHint: post('/courses/{course}/replay/threshold', 'course.read', 'What thresholds would have found early', {
    body: z.strictObject({ when: documentOf('Condition'), values: z.array(z.number()).min(1).max(5) }),
    answer: json<ThresholdHint | null>(),
  }),
  setWorry: put('/courses/{course}/worry', 'settings.write', 'Say whom one worries about in this course', {
    body: z.strictObject({ outcome: documentOf('Condition') }),
    answer: nothing,
  }),
  evidence: post('/courses/{course}/replay/evidence', 'course.read', 'Why a rule would have found a student', {
    body: z.strictObject({
      rule: z.string(),
      changed: documentOf('Rule').optional(),
      student: z.string(),
      at: z.number().int(),
      step: z.number().int().min(0),
    }),
    answer: json<ReplayEvidence>(),
  }),
  outcomes: get('/courses/{course}/replay/outcomes', 'course.read', 'What came of it', {
    query: z.object({ by: z.enum(CAME_BY).default('rule') }),
    answer: json<CameOfItAnswer>(),
  }),
  ahead: get('/courses/{course}/replay/ahead', 'course.read', 'The coming days, replayed on', {
    query: z.object({ days: z.coerce.number<number | string>().int().min(1).max(28).default(7) }),
    answer: json<ComingAnswer>(),
  }),
  trials: get('/courses/{course}/replay/trials', 'course.read', 'Fair trials of this course', {
    answer: json<NamedTrial[]>(),
  }),
};
