/** An instant as files and requests write it. */
import { z } from 'zod';
import { parseInstant, type Instant } from './instant.ts';

export const instantSchema = z.string().transform((text, ctx): Instant => {
  try {
    return parseInstant(text);
  } catch {
    ctx.addIssue({ code: 'custom', message: 'Write an instant with its offset, as 2026-09-21T09:30:00-04:00' });
    return z.NEVER;
  }
});
