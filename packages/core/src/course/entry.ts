/**
 * What a person, an item, a grade and an address are: the same for scenario files, imports, dialogs and routes (engine §6). Instants are
 * written differently at each door, and are read by the schema that it hands in.
 */
import { z } from 'zod';
import { isAddress } from './address.ts';
import { BOUNDS } from './bounds.ts';
import { ITEM_KINDS } from './item.ts';
import { ROLES } from './person.ts';
import { numberWords } from '../time/words.ts';

/** Characters of an address (RFC 5321, 4.5.3.1.3), of a page's address, and of a cell of an own column. */
const LONGEST_ADDRESS = 254;
const LONGEST_URL = 2000;
export const LONGEST_CELL = 2000;
const MOST_POINTS = 1e9;

const isOneLine = (s: string): boolean => !/[\r\n\0]/.test(s);

/** One line of text. */
export const lineSchema = (most: number = BOUNDS.line) =>
  z.string().trim().max(most, `At most ${most} characters`).refine(isOneLine, 'Write it in one line');
export const filledSchema = (missing: string, most?: number) => lineSchema(most).refine((s) => s !== '', missing);
const lineOrNone = lineSchema().transform((s) => (s === '' ? null : s));

export const listSchema = <T extends z.ZodType>(entry: T, most: number, of: string) =>
  z.array(entry).max(most, `At most ${numberWords(most)} ${of}`);

const TYPE_ADDRESS = 'Type one address, such as ada@college.example';
export const addressSchema = lineSchema(LONGEST_ADDRESS).refine((s) => !isOneLine(s) || isAddress(s), TYPE_ADDRESS);
/** An address, or nothing. */
export const addressOrEmptySchema = lineSchema(LONGEST_ADDRESS).refine(
  (s) => s === '' || !isOneLine(s) || isAddress(s),
  TYPE_ADDRESS,
);
const addressOrNone = lineSchema(LONGEST_ADDRESS)
  .transform((s) => (s === '' ? null : s))
  .refine((s) => s === null || !isOneLine(s) || isAddress(s), TYPE_ADDRESS);

export const urlSchema = lineSchema(LONGEST_URL)
  .transform((s) => (s === '' ? null : s))
  .refine((s) => s === null || /^https?:\/\/\S+$/i.test(s), 'Type a page address that begins with https://');

export const entryIdSchema = z
  .string()
  .min(1, 'An id is missing')
  .max(BOUNDS.line, `At most ${BOUNDS.line} characters`);

const contactSchema = z.strictObject({
  kind: filledSchema('A contact needs a kind, such as advisor').toLowerCase(),
  name: lineSchema(),
  email: addressSchema,
});

export const personShape = <T extends z.ZodType>(instant: T) => ({
  firstName: lineSchema(),
  lastName: lineSchema(),
  email: addressOrNone,
  role: z.enum(ROLES),
  section: lineOrNone,
  active: z.boolean(),
  enrolledAt: instant,
  paused: z.boolean(),
  contacts: listSchema(contactSchema, BOUNDS.contacts, 'contacts'),
  fields: z
    .record(z.string().max(BOUNDS.line), z.union([z.string().max(LONGEST_CELL), z.number()]))
    .refine((f) => Object.keys(f).length <= BOUNDS.fields, `At most ${BOUNDS.fields} own columns`),
});

const pointsSchema = z.number('Type a number').max(MOST_POINTS, 'At most a billion');

export const itemShape = <T extends z.ZodType>(instant: T) => ({
  title: filledSchema('An item needs a title'),
  kind: z.enum(ITEM_KINDS),
  group: lineOrNone,
  points: pointsSchema.min(0, 'Points cannot be negative'),
  opensAt: instant,
  dueAt: instant,
  topics: listSchema(filledSchema('A topic needs a name'), BOUNDS.topics, 'topics'),
  excused: listSchema(z.string(), BOUNDS.excused, 'people'),
  extensions: listSchema(
    z
      .strictObject({ person: z.string().optional(), section: z.string().optional(), dueAt: instant })
      .refine(
        (e) => (e.person === undefined) !== (e.section === undefined),
        'An extension is for a person or a section',
      ),
    BOUNDS.extensions,
    'extensions',
  ),
  url: urlSchema,
});

export const gradeShape = <T extends z.ZodType>(instant: T) => ({
  person: z.string(),
  item: z.string(),
  criterion: z.string().min(1).max(BOUNDS.line).nullish(),
  points: pointsSchema.min(-MOST_POINTS),
  at: instant,
});
