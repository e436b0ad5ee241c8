/** Numbers of a range, as a schema takes them. */
import { z } from 'zod';
import { atLeastWords, atMostWords, outOfRange, type Range } from './range.ts';

/** Why what was given is no number of a range, for a choice that a number is one of; undefined leaves it to what is said else. */
export const rangeError =
  (range: Range) =>
  ({ input }: { readonly input?: unknown }): string | undefined =>
    typeof input === 'number' ? (outOfRange(input, range) ?? undefined) : undefined;

/** A number of the range, with its bounds for anyone who reads the schema. */
export function numberIn(range: Range): z.ZodNumber {
  let schema = range.whole ? z.int('Type a whole number') : z.number();
  if (range.min !== null) schema = schema.min(range.min, atLeastWords(range.min));
  if (range.max !== null) schema = schema.max(range.max, atMostWords(range.max));
  return schema;
}
