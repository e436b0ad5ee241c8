/** One rule or wording for several courses: what it is in each, used in others, changed in them too. */
import { z } from 'zod';
import { BOUNDS } from '../course/bounds.ts';
import type { SetAnswer, SetCandidate, SetCard, SetOutcome } from '../exchange/sets.ts';
import { get, json, nothing, post } from './endpoint.ts';

const MOST_COURSES = 60;

const id = z.string().max(BOUNDS.line);
const picks = z
  .record(z.string().max(400), z.enum(['here', 'there']))
  .refine((all) => Object.keys(all).length <= 100, 'At most 100 parts')
  .default({});
const yes = { confirmed: z.boolean().default(false), outside: z.array(z.string().max(320)).max(2000).default([]) };
export const sets = {
  all: get('/courses/{course}/sets', 'course.read', 'What of this course other courses have too', {
    answer: json<SetCard[]>(),
  }),
  look: post('/courses/{course}/sets/{kind}/{key}', 'course.read', 'One of them, course by course', {
    body: z.strictObject({
      /** What is chosen so far, by course. */
      picks: z
        .record(z.string().max(12), picks)
        .refine((all) => Object.keys(all).length <= MOST_COURSES, `At most ${MOST_COURSES} courses`)
        .default({}),
    }),
    answer: json<SetAnswer>(),
  }),
  candidates: get(
    '/courses/{course}/sets/{kind}/{key}/candidates',
    'course.read',
    'The courses that could have it too',
    { answer: json<SetCandidate[]>() },
  ),
  use: post('/courses/{course}/sets/{kind}/{key}/use', 'drafts.write', 'Use it in other courses too', {
    body: z.strictObject({
      courses: z
        .array(z.strictObject({ course: z.number().int(), join: id.nullable().default(null) }))
        .min(1)
        .max(MOST_COURSES),
    }),
    answer: json<SetOutcome[]>(),
  }),
  match: post('/courses/{course}/sets/match', 'drafts.write', 'Say which items are the same in another course', {
    body: z.strictObject({
      other: z.number().int(),
      /** This course's items by the other's; null: it has none there. */
      told: z
        .record(id, id.nullable())
        .refine((told) => Object.keys(told).length <= BOUNDS.items, `At most ${BOUNDS.items} items`),
    }),
    answer: nothing,
  }),
  take: post(
    '/courses/{course}/sets/{kind}/{key}/take',
    'drafts.write',
    'Change it in other courses too: as drafts, or confirmed',
    {
      body: z.strictObject({
        courses: z
          .array(
            z.strictObject({
              course: z.number().int(),
              /** The version there that was looked at. */
              version: z.number().int(),
              picks,
              confirm: z.boolean(),
              ...yes,
            }),
          )
          .min(1)
          .max(MOST_COURSES),
      }),
      answer: json<SetOutcome[]>(),
    },
  ),
  settle: post('/courses/{course}/sets/{kind}/{key}/settle', 'drafts.write', 'Take or leave a change that waits', {
    body: z.strictObject({ version: z.number().int(), picks, take: z.boolean(), ...yes }),
    answer: json<SetOutcome>(),
  }),
  leave: post('/courses/{course}/sets/{kind}/{key}/leave', 'drafts.write', 'Keep this copy apart from the others', {
    answer: nothing,
  }),
};
