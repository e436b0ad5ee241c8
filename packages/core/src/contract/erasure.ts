/** What is known of a student as one file, and erasing it on request. */
import { z } from 'zod';
import type { ErasedAnswer, StudentData } from '../exchange/erasure.ts';
import { get, json, nothing, post, put } from './endpoint.ts';

export const erasure = {
  kept: get('/courses/{course}/kept', 'course.read', 'How long what is known of students is kept', {
    answer: json<{ readonly months: number; readonly own: number | null; readonly until: string }>(),
  }),
  keep: put('/courses/{course}/kept', 'data.erase', 'Keep it shorter than everywhere', {
    inArchive: true,
    body: z.strictObject({
      months: z.number().int().min(1, 'At least one month').max(120, 'At most ten years').nullable(),
    }),
    answer: nothing,
  }),
  data: get('/courses/{course}/students/{student}/data', 'data.erase', 'Everything that is known of a student', {
    answer: json<StudentData>(),
  }),
  erase: post(
    '/courses/{course}/students/{student}/erase',
    'data.erase',
    'Erase everything that is known of a student',
    {
      inArchive: true,
      body: z.strictObject({
        /** Their id again, so that nobody is erased by a slip. */
        student: z.string().max(200),
      }),
      answer: json<ErasedAnswer>(),
    },
  ),
  erased: get('/courses/{course}/erased', 'data.erase', 'Students that were erased', {
    answer: json<ErasedAnswer[]>(),
  }),
  allow: post('/courses/{course}/erased/{erased}/allow', 'data.erase', 'Let an erased student be brought again', {
    inArchive: true,
    answer: nothing,
  }),
};
