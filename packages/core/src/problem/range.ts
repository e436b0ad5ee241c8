/** The numbers that something may be: read by the code that parses it, by its field, and by the code that drags it. */
import { z } from 'zod';

export interface Range {
  readonly whole: boolean;
  /** Both ends belong to it; null for no end. */
  readonly min: number | null;
  readonly max: number | null;
}

export const wholeFrom = (min: number, max: number | null): Range => ({ whole: true, min, max });
export const numberFrom = (min: number | null, max: number | null): Range => ({ whole: false, min, max });

/** Why a number is not of a range, in words for its field; null where it is. */
export function outOfRange(n: number, { whole, min, max }: Range): string | null {
  if (!Number.isFinite(n)) return 'Type a number';
  if (whole && !Number.isInteger(n)) return 'Type a whole number';
  if (min !== null && n < min) return `At least ${written(min)}`;
  if (max !== null && n > max) return `At most ${written(max)}`;
  return null;
}

const written = (n: number): string => n.toLocaleString('en-US');

/** The nearest number of the range. */
export function intoRange(n: number, { whole, min, max }: Range): number {
  const near = Math.min(max ?? Infinity, Math.max(min ?? -Infinity, n));
  return whole ? Math.round(near) : near;
}

/** Why what was given is no number of a range, for a choice that a number is one of; undefined leaves it to what is said else. */
export const rangeError =
  (range: Range) =>
  ({ input }: { readonly input?: unknown }): string | undefined =>
    typeof input === 'number' ? (outOfRange(input, range) ?? undefined) : undefined;

/** A number of the range, with its bounds for anyone who reads the schema. */
export function numberIn(range: Range): z.ZodNumber {
  let schema = range.whole ? z.int('Type a whole number') : z.number();
  if (range.min !== null) schema = schema.min(range.min, `At least ${written(range.min)}`);
  if (range.max !== null) schema = schema.max(range.max, `At most ${written(range.max)}`);
  return schema;
}
