/** What a schema takes, for the field in which it is typed: nobody writes a bound down twice. */
import { z } from 'zod';
import type { Range } from './range.ts';

/** What is inside of a default, an optional, a nullable or a transformed one. */
function inner(schema: z.ZodType): z.ZodType {
  if (schema instanceof z.ZodDefault || schema instanceof z.ZodOptional || schema instanceof z.ZodNullable) {
    return inner(schema.unwrap() as z.ZodType);
  }
  return schema instanceof z.ZodPipe ? inner(schema.in as z.ZodType) : schema;
}

/** The most characters of a text. Throws where the schema has no such bound: a field without one would take anything. */
export function longest(schema: z.ZodType): number {
  const text = inner(schema);
  if (text instanceof z.ZodString && text.maxLength !== null) return text.maxLength;
  throw new Error('A text without a longest length');
}

/** The numbers that a schema takes. Throws where it takes none. */
export function rangeIn(schema: z.ZodType): Range {
  const number = inner(schema);
  if (!(number instanceof z.ZodNumber)) throw new Error('A schema that takes no number');
  const { minValue, maxValue, format } = number;
  const bound = (n: number | null) => (n === null || !Number.isFinite(n) ? null : n);
  return { whole: format !== null && format.includes('int'), min: bound(minValue), max: bound(maxValue) };
}
