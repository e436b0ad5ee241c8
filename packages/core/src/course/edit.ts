/** What somebody types about a course, its people and its items, read strictly: each problem at its own field. */
import { z } from 'zod';
import { BOUNDS } from './bounds.ts';
import { filledSchema, itemShape, personShape, urlSchema } from './entry.ts';
import { isLocalDate } from '../time/localDate.ts';
import { isZone } from '../time/zone.ts';
import { dayNumberOf } from '../time/calendar.ts';

const instant = z
  .number()
  .int()
  .min(0, 'Choose a day after 1970')
  .max(Date.UTC(2101, 0, 1), 'Choose a day before 2101');

const person = personShape(instant);
export const personEditSchema = z.strictObject({
  ...person,
  email: person.email.nullable(),
  section: person.section.nullable(),
});
export type PersonEdit = z.infer<typeof personEditSchema>;

const item = itemShape(instant);
export const itemEditSchema = z.strictObject({
  ...item,
  group: item.group.nullable(),
  points: item.points.nullable(),
  opensAt: item.opensAt.nullable(),
  dueAt: item.dueAt.nullable(),
  url: item.url.nullable(),
});
export type ItemEdit = z.infer<typeof itemEditSchema>;

const day = z.string().refine(isLocalDate, 'Choose a day');
const LONGEST_COURSE = BOUNDS.days;

/** Days that are none are a problem of their own. */
const hasDays = (c: { readonly start: string; readonly end: string }): boolean =>
  isLocalDate(c.start) && isLocalDate(c.end);

export const courseDetailsSchema = z
  .strictObject({
    code: filledSchema('A course needs a code, such as NAV 120'),
    title: filledSchema('A course needs a title'),
    timeZone: z.string().refine(isZone, 'There is no such time zone. Choose one from the list'),
    start: day,
    end: day,
    url: urlSchema.nullable().default(null),
  })
  .refine((c) => !hasDays(c) || c.start <= c.end, {
    path: ['end'],
    message: 'The course ends before it begins. Choose a later last day',
  })
  .refine((c) => !hasDays(c) || dayNumberOf(c.end) - dayNumberOf(c.start) < LONGEST_COURSE, {
    path: ['end'],
    message: `A course lasts ${LONGEST_COURSE} days at most`,
  })
  .refine((c) => !hasDays(c) || (c.start >= BOUNDS.firstDay && c.end <= BOUNDS.lastDay), {
    path: ['start'],
    message: 'Choose days between 1990 and 2060',
  });
export type CourseDetailsEdit = z.infer<typeof courseDetailsSchema>;

export const groupWeightsSchema = z
  .record(z.string().trim().min(1), z.number('Type a number').min(0, 'A weight cannot be negative').max(1e6))
  .refine((w) => Object.keys(w).length <= 100, 'At most 100 groups')
  .nullable();
