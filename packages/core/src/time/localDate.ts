import { z } from 'zod';
import { dateOf, dayNumberOf } from './calendar.ts';

/** Whether a text is a date that exists, written `YYYY-MM-DD`. */
export function isLocalDate(text: string): boolean {
  if (!/^\d{4}-\d{2}-\d{2}$/.test(text)) return false;
  const day = dayNumberOf(text);
  return !Number.isNaN(day) && dateOf(day) === text;
}

export const localDateSchema = z.string().refine(isLocalDate, 'Write a date as 2026-09-08');
