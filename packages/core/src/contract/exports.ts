/** Requests for files that are made in the background, and for a calendar behind a secret address. */
import { z } from 'zod';
import { EXPORT_FORMATS, EXPORT_WHAT, type ExportState, type FeedState } from '../exchange/exports.ts';
import { created, file, get, json, nothing, post, remove } from './endpoint.ts';
import { logFilter } from './mail.ts';

export const exports = {
  start: post('/courses/{course}/exports', 'course.read', 'Make a file of the send log, or of the course', {
    body: logFilter.extend({ what: z.enum(EXPORT_WHAT), as: z.enum(EXPORT_FORMATS) }),
    answer: created<ExportState>(),
  }),
  state: get('/courses/{course}/exports/{export}', 'course.read', 'How far a file is', { answer: json<ExportState>() }),
  file: get('/courses/{course}/exports/{export}/file', 'course.read', 'A file that is done', { answer: file }),
  stop: remove('/courses/{course}/exports/{export}', 'course.read', 'Stop making a file, or forget it', {
    answer: nothing,
  }),
  rules: post('/courses/{course}/exports/rules', 'course.read', 'Rules and wordings as a file', {
    body: z.strictObject({
      /** Ids of the rules; null for all that are not put away. */
      rules: z.array(z.string().max(80)).max(1000).nullable().default(null),
    }),
    answer: file,
  }),
  feed: get('/courses/{course}/feed', 'course.read', 'Whether there is a calendar that others read', {
    answer: json<FeedState>(),
  }),
  newFeed: post(
    '/courses/{course}/feed',
    'settings.write',
    'A new secret address for the calendar; the last one ends',
    { answer: created<{ readonly path: string }>() },
  ),
  endFeed: remove('/courses/{course}/feed', 'settings.write', 'End the calendar’s address', { answer: nothing }),
};
