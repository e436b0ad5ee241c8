/** One act and one grade, as a platform tells them by the format of Zest Bell's own. */
import { z } from 'zod';
import { gradeShape } from '../course/entry.ts';
import { instantSchema } from '../time/instantSchema.ts';
import { EVENT_KINDS, NEEDS_ITEM } from './event.ts';

const id = z.string().min(1, 'An id is missing').max(200);

export const toldEventSchema = z
  .strictObject({
    id,
    person: z.string(),
    kind: z.enum(EVENT_KINDS, 'There is no such kind of activity'),
    item: z.string().nullish(),
    at: instantSchema,
  })
  .refine((e) => e.item != null || !NEEDS_ITEM.has(e.kind), { path: ['item'], message: 'This kind needs an item' });

export const toldGradeSchema = z.strictObject({ id, ...gradeShape(instantSchema) });
