/** A wording: the texts of a message, who reads which, and its attachments. */
import { z } from 'zod';

export const WORDING_PURPOSES = ['support', 'firm', 'praise', 'reminder', 'toMyself'] as const;
export type WordingPurpose = (typeof WORDING_PURPOSES)[number];

/** One of the texts of a wording. */
export interface Variant {
  readonly subject: string;
  readonly text: string;
}

/** Who reads a text for third parties: the instructor, contacts of a kind, one address, or anyone without a text of their own. */
export type CopyReader = 'anyone' | 'instructor' | `contact:${string}` | `address:${string}`;

/** A text for third parties, which they read instead of the student's own message. */
export interface Copy extends Variant {
  readonly to: CopyReader;
}

/** A file that was taken in: it goes with the message, or is in it as a picture. */
export interface FileRef {
  /** Named for what is in it, so that the same file is kept once. */
  readonly id: string;
  readonly name: string;
  readonly type: string;
  /** Bytes. */
  readonly size: number;
}

export const LETTER_PAGES = ['A4', 'Letter'] as const;
export type LetterPage = (typeof LETTER_PAGES)[number];

/** The message as a PDF beside it. */
export interface LetterSettings {
  readonly page: LetterPage;
  /** Liquid: the name of the file, without its ending. */
  readonly fileName: string;
  /** True when it goes with the message; otherwise it is downloaded. */
  readonly attach: boolean;
}

/** A reusable message: Liquid in the subject and in a text of paragraphs parted by blank lines. */
export interface Wording extends Variant {
  readonly id: string;
  readonly name: string;
  readonly purpose: WordingPurpose;
  /** Other texts that say the same, so that a student never reads one twice running. */
  readonly variants?: readonly Variant[] | undefined;
  /** Own words for third parties. */
  readonly copies?: readonly Copy[] | undefined;
  /** Its attachments. */
  readonly files?: readonly FileRef[] | undefined;
  readonly letter?: LetterSettings | null | undefined;
}

/** Bytes of one file, and of all that go with a message: under what mail servers take, common practice, no source. */
export const MOST_FILE_BYTES = 5_000_000;
export const MOST_FILES_BYTES = 10_000_000;
/** A picture is read on a phone. */
export const MOST_PICTURE_BYTES = 2_000_000;

const subject = z
  .string()
  .trim()
  .min(1, 'A message needs a subject')
  .max(200, 'A subject has at most 200 characters')
  .refine((s) => !/[\r\n]/.test(s), 'A subject is one line');
const text = z.string().trim().min(1, 'A message needs a text').max(20_000, 'A text has at most 20,000 characters');

const COPY_READER = /^(?:anyone|instructor|contact:.{1,60}|address:\S{3,200})$/;

export const wordingSchema = z.strictObject({
  id: z.string().min(1).max(80),
  name: z.string().trim().min(1, 'A wording needs a name').max(80, 'A name has at most 80 characters'),
  purpose: z.enum(WORDING_PURPOSES),
  subject,
  text,
  variants: z.array(z.strictObject({ subject, text })).max(8, 'At most eight further texts').default([]),
  copies: z
    .array(
      z.strictObject({ to: z.string().regex(COPY_READER, 'No such reader') as z.ZodType<CopyReader>, subject, text }),
    )
    .max(8, 'Own words for at most eight readers')
    .refine((all) => new Set(all.map((c) => c.to)).size === all.length, 'Each reader has one text')
    .default([]),
  files: z
    .array(
      z.strictObject({
        id: z.string().regex(/^[\w-]{1,80}$/),
        name: z.string().min(1).max(120),
        type: z.string().max(120),
        size: z.number().int().min(0),
      }),
    )
    .max(10, 'At most ten files')
    .refine(
      (all) => all.reduce((n, f) => n + f.size, 0) <= MOST_FILES_BYTES,
      'The files of a message are 10 MB at most',
    )
    .default([]),
  letter: z
    .strictObject({
      page: z.enum(LETTER_PAGES),
      fileName: z
        .string()
        .trim()
        .min(1, 'A letter needs a file name')
        .max(120, 'A file name has at most 120 characters'),
      attach: z.boolean().default(true),
    })
    .nullable()
    .default(null),
});

/** All texts of a wording, its first one first. */
export const textsOf = (wording: Wording): readonly Variant[] => [
  { subject: wording.subject, text: wording.text },
  ...(wording.variants ?? []),
];

/**
 * Which of `count` texts a student gets next: never the one they got last, each in its turn. Who has had none begins at a
 * place of their own, so that all are tried from the start.
 */
export function nextVariant(count: number, last: number | null, student: string): number {
  if (count <= 1) return 0;
  if (last !== null) return (last + 1) % count;
  let sum = 0;
  for (const letter of student) sum = (sum * 31 + letter.charCodeAt(0)) % 65_521;
  return sum % count;
}

/** The words for a reader: own ones, else those for anyone; null for the student, and where there are none. */
export const copyFor = (wording: Pick<Wording, 'copies'>, reader: string): Copy | null =>
  reader === 'student'
    ? null
    : (wording.copies?.find((c) => c.to === reader) ?? wording.copies?.find((c) => c.to === 'anyone') ?? null);
