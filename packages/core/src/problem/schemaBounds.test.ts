import { expect, test } from '@jest/globals';
import { z } from 'zod';
import { numberFrom, wholeFrom } from './range.ts';
import { numberIn } from './rangeSchema.ts';
import { longest, rangeIn } from './schemaBounds.ts';

test('the longest text is read through what stands around it', () => {
  const text = z.string().trim().min(1).max(40, 'At most 40 characters');
  expect(
    [text, text.default(''), text.nullable(), text.optional(), text.transform((s) => s.length)].map(longest),
  ).toEqual([40, 40, 40, 40, 40]);
  expect(() => longest(z.string())).toThrow('without a longest length');
  expect(() => longest(z.number())).toThrow();
});

test('a range that was written into a schema is read back', () => {
  for (const range of [wholeFrom(1, 60), numberFrom(0, 100_000), numberFrom(null, 5), numberFrom(null, null)]) {
    expect(rangeIn(numberIn(range).nullable())).toEqual(range);
  }
  expect(rangeIn(z.number().int().min(2).max(9))).toEqual(wholeFrom(2, 9));
  expect(() => rangeIn(z.string())).toThrow('takes no number');
});
