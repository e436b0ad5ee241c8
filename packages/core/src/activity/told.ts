/** One act and one grade, as a platform tells them by the format of Zest Bell's own. */
import { z } from 'zod';
import { gradeShape } from '../course/entry.ts';
import { instantSchema } from '../time/instantSchema.ts';
import { EVENT_KINDS, itemTrouble } from './event.ts';

const id = z.string().min(1, 'An id is missing').max(200);

export const toldEventSchema = z
  .strictObject({
    id,
    person: z.string(),
    kind: z.enum(EVENT_KINDS, 'There is no such kind of activity'),
    item: z.string().nullish(),
    at: instantSchema,
  })
  .superRefine(({ kind, item }, ctx) => {
    const message = itemTrouble(kind, item);
    if (message !== null) ctx.addIssue({ code: 'custom', path: ['item'], message });
  });

export const toldGradeSchema = z.strictObject({ id, ...gradeShape(instantSchema) });
