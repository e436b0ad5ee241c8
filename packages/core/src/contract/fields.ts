/** Fields of requests with bounds that a form shows: the page has the requests themselves without their schemas. */
import { z } from 'zod';
import { MOST_SEND_DELAY } from '../exchange/sendings.ts';

export const noteText = z.string().trim().min(1, 'Type a note').max(4000, 'A note has at most 4,000 characters');

/** Why somebody is set aside. */
export const asideNote = z.string().trim().max(2000, 'A note has at most 2,000 characters').default('');

/** To a reply. */
export const answerText = z
  .string()
  .trim()
  .min(1, 'Type your answer')
  .max(20_000, 'An answer has at most 20,000 characters');

/** How long what is sent by hand waits, in seconds. */
export const sendDelay = z.number().int().min(0).max(MOST_SEND_DELAY, `At most ${MOST_SEND_DELAY} seconds`);

export const gradePoints = z
  .number('Type the points')
  .min(0, 'Points are 0 or more')
  .max(100_000, 'Points are at most 100,000');
