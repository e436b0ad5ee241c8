import { expect, test } from '@jest/globals';
import { atMoment } from './atMoment.ts';

const before = { queryKey: ['student', 1, 'ada', 5_000] };

test('the answer of the moment before stands until the next one is there', () => {
  const asked = atMoment(['student', 1, 'ada'], 6_000);
  expect(asked.queryKey).toEqual(['student', 1, 'ada', 6_000]);
  expect(asked.placeholderData('what she did', before)).toBe('what she did');
});

test('never the answer of another question, nor one where none was', () => {
  expect(atMoment(['student', 1, 'ben'], 5_000).placeholderData('what she did', before)).toBeUndefined();
  expect(atMoment(['student', 1, 'ada'], 5_000).placeholderData('what she did')).toBeUndefined();
});
