/** What somebody types about a course, its people and its items, read strictly: each problem at its own field. */
import { z } from 'zod';
import { isAddress } from './address.ts';
import { BOUNDS } from './bounds.ts';
import { isLocalDate } from '../time/localDate.ts';
import { isZone } from '../time/zone.ts';
import { dayNumberOf } from '../time/calendar.ts';
import { ITEM_KINDS } from './item.ts';
import { ROLES } from './person.ts';

const line = (most: number) =>
  z
    .string()
    .trim()
    .max(most, `At most ${most} characters`)
    .refine((s) => !/[\r\n\0]/.test(s), 'Write it in one line');
const filled = (most: number, missing: string) => line(most).refine((s) => s !== '', missing);
const optional = (most: number) => line(most).transform((s) => (s === '' ? null : s));

/** An address as it is typed; blank for none. */
const emailOrNone = line(254)
  .transform((s) => (s === '' ? null : s))
  .refine((s) => s === null || isAddress(s), 'Type an address such as ada@college.edu');
const email = line(254).refine((s) => isAddress(s), 'Type an address such as ada@college.edu');
const instant = z
  .number()
  .int()
  .min(0, 'Choose a day after 1970')
  .max(Date.UTC(2101, 0, 1), 'Choose a day before 2101');

export const personEditSchema = z.strictObject({
  firstName: line(120),
  lastName: line(120),
  email: emailOrNone.nullable(),
  role: z.enum(ROLES),
  section: optional(120).nullable(),
  active: z.boolean(),
  enrolledAt: instant,
  paused: z.boolean(),
  contacts: z
    .array(
      z.strictObject({
        kind: filled(60, 'A contact needs a kind, such as advisor').toLowerCase(),
        name: line(160),
        email,
      }),
    )
    .max(BOUNDS.contacts, `At most ${BOUNDS.contacts} contacts`),
  fields: z.record(z.string().max(120), z.union([z.string().max(2000), z.number()])),
});
export type PersonEdit = z.infer<typeof personEditSchema>;

export const itemEditSchema = z.strictObject({
  title: filled(300, 'An item needs a title'),
  kind: z.enum(ITEM_KINDS),
  group: optional(120).nullable(),
  points: z.number('Type a number').min(0, 'Points cannot be negative').max(1e9, 'At most a billion').nullable(),
  opensAt: instant.nullable(),
  dueAt: instant.nullable(),
  topics: z.array(filled(120, 'A topic needs a name')).max(BOUNDS.topics, `At most ${BOUNDS.topics} topics`),
  excused: z.array(z.string()).max(BOUNDS.excused),
  extensions: z
    .array(
      z
        .strictObject({ person: z.string().optional(), section: z.string().optional(), dueAt: instant })
        .refine(
          (e) => (e.person === undefined) !== (e.section === undefined),
          'An extension is for a person or a section',
        ),
    )
    .max(20_000),
  url: line(2000)
    .transform((s) => (s === '' ? null : s))
    .refine((s) => s === null || /^https?:\/\/\S+$/i.test(s), 'Type a page address that begins with https://')
    .nullable(),
});
export type ItemEdit = z.infer<typeof itemEditSchema>;

const day = z.string().refine(isLocalDate, 'Choose a day');
const LONGEST_COURSE = BOUNDS.days;

/** Days that are none are a problem of their own. */
const hasDays = (c: { readonly start: string; readonly end: string }): boolean =>
  isLocalDate(c.start) && isLocalDate(c.end);

export const courseDetailsSchema = z
  .strictObject({
    code: filled(40, 'A course needs a code, such as NAV 120'),
    title: filled(200, 'A course needs a title'),
    timeZone: z.string().refine(isZone, 'There is no such time zone. Choose one from the list'),
    start: day,
    end: day,
    url: z
      .string()
      .trim()
      .max(2000)
      .transform((s) => (s === '' ? null : s))
      .refine((s) => s === null || /^https?:\/\/\S+$/i.test(s), 'Type a page address that begins with https://')
      .nullable()
      .default(null),
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
