/** What was decided in one course, carried into another: looked at, done, gone through, undone. */
import { z } from 'zod';
import { BOUNDS } from '../course/bounds.ts';
import type { CarriedList, CarryFile, CarryPreview, CarryUndone } from '../exchange/carry.ts';
import { created, get, json, nothing, post } from './endpoint.ts';

const id = z.string().max(BOUNDS.line);
const chosen = z.array(id).max(BOUNDS.rules).nullable().default(null);
const choicesSchema = z.strictObject({
  /** The course that it comes from, one of one's own; or a file that was brought, as `file-12`. */
  from: z.union([z.number().int(), z.string().regex(/^file-[1-9]\d{0,14}$/)]),
  told: z
    .record(id, id.nullable())
    .refine((told) => Object.keys(told).length <= BOUNDS.items, `At most ${BOUNDS.items} items`)
    .default({}),
  withItems: z.boolean().default(false),
  rules: chosen,
  views: chosen,
  settings: z
    .record(id, z.boolean())
    .refine((chosen) => Object.keys(chosen).length <= 1000, 'At most 1,000 settings')
    .default({}),
  /** Its sender and signature come along. */
  sender: z.boolean().default(false),
  asTheyAre: z.array(z.string().max(300)).max(5000).default([]),
});

export const carry = {
  bring: post('/courses/{course}/carry/files', 'settings.write', 'Bring rules in as a file', {
    upload: true,
    query: z.object({ name: z.string().trim().min(1, 'A file needs a name').max(300) }),
    answer: created<CarryFile>(),
  }),
  files: get('/courses/{course}/carry/files', 'course.read', 'Files of rules that were brought', {
    answer: json<CarryFile[]>(),
  }),
  preview: post('/courses/{course}/carry/preview', 'settings.write', 'What would come along from another course', {
    body: choicesSchema,
    answer: json<CarryPreview>(),
  }),
  over: post('/courses/{course}/carry', 'settings.write', 'Carry over from another course: nothing of it rings', {
    body: choicesSchema,
    answer: created<CarriedList>(),
  }),
  lists: get('/courses/{course}/carry', 'course.read', 'What was carried over and is still to be looked at', {
    answer: json<CarriedList[]>(),
  }),
  tick: post(
    '/courses/{course}/carry/{carry}/tick',
    'drafts.write',
    'Say of a line that it is done, or that it is not',
    {
      body: z.strictObject({
        kind: z.enum(['rule', 'wording', 'sender', 'setting']),
        name: id.default(''),
        done: z.boolean(),
      }),
      answer: json<CarriedList>(),
    },
  ),
  dismiss: post('/courses/{course}/carry/{carry}/dismiss', 'drafts.write', 'Put the checklist away', {
    answer: nothing,
  }),
  undo: post('/courses/{course}/carry/{carry}/undo', 'settings.write', 'Take back what was carried over', {
    body: z.strictObject({
      /** What was changed since goes too. */
      changedToo: z.boolean().default(false),
    }),
    answer: json<CarryUndone>(),
  }),
};
