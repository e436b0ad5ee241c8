import { z } from 'zod';

export const WORDING_PURPOSES = ['support', 'firm', 'praise', 'reminder', 'toMyself'] as const;
export type WordingPurpose = (typeof WORDING_PURPOSES)[number];

/** A reusable message: Liquid in the subject and in a text of paragraphs parted by blank lines. */
export interface Wording {
  readonly id: string;
  readonly name: string;
  readonly purpose: WordingPurpose;
  readonly subject: string;
  readonly text: string;
}

export const wordingSchema = z.strictObject({
  id: z.string().min(1).max(80),
  name: z.string().trim().min(1, 'A wording needs a name').max(80, 'A name has at most 80 characters'),
  purpose: z.enum(WORDING_PURPOSES),
  subject: z
    .string()
    .trim()
    .min(1, 'A message needs a subject')
    .max(200, 'A subject has at most 200 characters')
    .refine((s) => !/[\r\n]/.test(s), 'A subject is one line'),
  text: z.string().trim().min(1, 'A message needs a text').max(20_000, 'A text has at most 20,000 characters'),
});
