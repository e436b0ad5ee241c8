/** Wordings, their files and letters, and fair trials of their texts. */
import { z } from 'zod';
import type { FileRef } from '../wording/wording.ts';
import type { TrialAnswer } from '../exchange/trial.ts';
import { TRIAL_POINTS } from '../outcomes/fairTrial.ts';
import type {
  AwkwardAnswer,
  FieldExamples,
  MailTestAnswer,
  PreviewAnswer,
  WordingAnswer,
  WordingResultsAnswer,
} from '../exchange/wire.ts';
import { why } from './why.ts';
import { documentOf } from './documents.ts';
import { created, file, get, json, nothing, post, put, remove } from './endpoint.ts';

const version = z.number().int();
const previewSchema = z.strictObject({
  wording: documentOf('Wording'),
  student: z.string(),
  /** The audience of the words: the student, or a third party as a step names it. */
  reader: z.string().max(260).default('student'),
  when: documentOf('Condition'),
  /** Which of its texts. */
  variant: z.number().int().min(0).default(0),
});

export const wording = {
  all: get('/courses/{course}/wordings', 'course.read', 'The library of wordings', { answer: json<WordingAnswer[]>() }),
  results: get('/courses/{course}/wordings/results', 'course.read', 'What came of each wording', {
    answer: json<WordingResultsAnswer>(),
  }),
  make: post('/courses/{course}/wordings', 'drafts.write', 'Make a wording', {
    body: z.strictObject({ wording: documentOf('Wording') }),
    answer: created<WordingAnswer>(),
  }),
  change: put('/courses/{course}/wordings/{wording}', 'drafts.write', 'Change a wording', {
    body: z.strictObject({ wording: documentOf('Wording'), version, why }),
    answer: json<WordingAnswer>(),
  }),
  publish: post(
    '/courses/{course}/wordings/{wording}/publish',
    'rules.run',
    'Publish what was drafted beside a wording',
    { body: z.strictObject({ version, why }), answer: json<WordingAnswer>() },
  ),
  dropDraft: remove(
    '/courses/{course}/wordings/{wording}/draft',
    'drafts.write',
    'Drop what was drafted beside a wording',
    { answer: nothing },
  ),
  remove: post('/courses/{course}/wordings/{wording}/remove', 'drafts.write', 'Remove a wording that no rule uses', {
    body: z.strictObject({ version }),
    answer: nothing,
  }),
  trial: get('/courses/{course}/wordings/{wording}/trial', 'course.read', 'Its fair trial', {
    answer: json<TrialAnswer>(),
  }),
  startTrial: post('/courses/{course}/wordings/{wording}/trial', 'rules.run', 'Begin a fair trial of its texts', {
    body: z.strictObject({
      /** The difference that it should show, in points of a hundred. */
      points: z.union(TRIAL_POINTS.map((n) => z.literal(n))),
      /** Further courses that take part. */
      courses: z.array(z.number().int()).max(50).default([]),
    }),
    answer: created<undefined>(),
  }),
  endTrial: post('/courses/{course}/wordings/{wording}/trial/end', 'rules.run', 'End its trial', { answer: nothing }),
  test: post('/courses/{course}/wordings/test', 'drafts.write', 'A preview as a mail to yourself', {
    body: previewSchema,
    answer: json<MailTestAnswer>(),
  }),
  preview: post('/courses/{course}/wordings/preview', 'course.read', 'A text as one reader will read it', {
    body: previewSchema,
    answer: json<PreviewAnswer>(),
  }),
  examples: post('/courses/{course}/wordings/examples', 'course.read', 'What each merge field says of a student', {
    body: previewSchema.pick({ student: true, when: true }),
    answer: json<FieldExamples>(),
  }),
  awkward: post('/courses/{course}/wordings/awkward', 'course.read', 'At whom a text would break first', {
    body: previewSchema.omit({ student: true }),
    answer: json<AwkwardAnswer>(),
  }),
  letters: post('/courses/{course}/wordings/letters', 'course.read', 'Letters of students as a PDF or a ZIP archive', {
    body: previewSchema.omit({ student: true, reader: true }).extend({ students: z.array(z.string()).min(1).max(500) }),
    answer: file,
  }),
  bringFile: post('/courses/{course}/files', 'drafts.write', 'Bring in a file that goes with messages', {
    upload: true,
    query: z.object({ name: z.string().min(1).max(300) }),
    answer: created<FileRef>(),
  }),
  file: get('/courses/{course}/files/{file}', 'course.read', 'A file that goes with messages', { answer: file }),
};
