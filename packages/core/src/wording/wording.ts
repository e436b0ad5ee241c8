import { z } from 'zod';

export const WORDING_PURPOSES = ['support', 'firm', 'praise', 'reminder', 'toMyself'] as const;
export type WordingPurpose = (typeof WORDING_PURPOSES)[number];

/** One of the texts of a wording. */
export interface Variant {
  readonly subject: string;
  readonly text: string;
}

/** A reusable message: Liquid in the subject and in a text of paragraphs parted by blank lines. */
export interface Wording extends Variant {
  readonly id: string;
  readonly name: string;
  readonly purpose: WordingPurpose;
  /** Other texts that say the same, so that a student never reads one twice running. */
  readonly variants?: readonly Variant[] | undefined;
}

const subject = z
  .string()
  .trim()
  .min(1, 'A message needs a subject')
  .max(200, 'A subject has at most 200 characters')
  .refine((s) => !/[\r\n]/.test(s), 'A subject is one line');
const text = z.string().trim().min(1, 'A message needs a text').max(20_000, 'A text has at most 20,000 characters');

export const wordingSchema = z.strictObject({
  id: z.string().min(1).max(80),
  name: z.string().trim().min(1, 'A wording needs a name').max(80, 'A name has at most 80 characters'),
  purpose: z.enum(WORDING_PURPOSES),
  subject,
  text,
  variants: z.array(z.strictObject({ subject, text })).max(8, 'At most eight further texts').default([]),
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
