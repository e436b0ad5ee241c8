/** The shelf: starters and texts of the institution, offered to all courses. */
import { z } from 'zod';
import {
  LONGEST_SHELF_NOTE,
  SHELF_KINDS,
  type ShelfAnswer,
  type ShelfLook,
  type ShelfStanding,
} from '../exchange/shelf.ts';
import { created, get, json, nothing, post } from './endpoint.ts';

const what = { kind: z.enum(SHELF_KINDS), key: z.string().max(80) };

export const shelf = {
  all: get('/courses/{course}/shelf', 'course.read', 'What is on the shelf, as it would be in a course', {
    answer: json<ShelfAnswer>(),
  }),
  standing: get(
    '/courses/{course}/shelf/standing',
    'course.read',
    'What of a course came from the shelf, and what is newer',
    { answer: json<ShelfStanding>() },
  ),
  look: post(
    '/courses/{course}/shelf/look',
    'course.read',
    'What would go on the shelf, and what of it is of the course',
    { body: z.strictObject(what), answer: json<ShelfLook>() },
  ),
  put: post('/courses/{course}/shelf', 'drafts.write', 'Put a rule or a wording on the shelf, or a new version of it', {
    body: z.strictObject({
      ...what,
      note: z
        .string()
        .trim()
        .min(1, 'Say when to use it')
        .max(LONGEST_SHELF_NOTE, `At most ${LONGEST_SHELF_NOTE} characters`),
      /** Of which this is a new version; left out for something new. */
      item: z.number().int().optional(),
      /** A yes to words that may be of the course alone. */
      keepWords: z.boolean().default(false),
    }),
    answer: created<{ readonly id: number; readonly version: number }>(),
  }),
  take: post('/courses/{course}/shelf/{item}/take', 'drafts.write', 'Take something from the shelf, as a draft', {
    answer: created<{ readonly kind: (typeof SHELF_KINDS)[number]; readonly key: string }>(),
  }),
  seen: post(
    '/courses/{course}/shelf/{item}/seen',
    'drafts.write',
    'Leave a copy as it is: its newer version was looked at',
    { body: z.strictObject(what), answer: nothing },
  ),
  retire: post('/shelf/{item}/retire', 'signedIn', 'Offer something no longer, or again', {
    body: z.strictObject({ isRetired: z.boolean() }),
    answer: nothing,
  }),
};
