import { expect, test } from '@jest/globals';
import { wilson } from './proportion.ts';
import { rangedShareWords, rangeWords, shareWords } from './shareWords.ts';

// Wilson's interval for 6 of 11 is 28.0% to 78.7% (R 4.3, prop.test(6, 11, correct = FALSE)$conf.int; from memory).
const six = wilson(6, 11);

test('a share has its percent, its counts, and its range', () => {
  expect(shareWords(six)).toBe('55% (6 of 11)');
  expect(rangedShareWords(six)).toBe('55% (6 of 11; with so few students, it could be 28% to 79%)');
  expect(rangeWords(six)).toBe('28% to 79%');
  expect(rangedShareWords(wilson(600, 1100))).toMatch(/^55% \(600 of 1,100; it could be 5\d% to 5\d%\)$/);
});

test('a share that is nearly none or nearly all is not rounded to it', () => {
  expect(shareWords(wilson(999, 1000))).toBe('99% (999 of 1,000)');
  expect(shareWords(wilson(1, 1000))).toBe('1% (1 of 1,000)');
  expect(shareWords(wilson(0, 4))).toBe('0% (0 of 4)');
  expect(shareWords(wilson(4, 4))).toBe('100% (4 of 4)');
});

test('a share of nothing has no words', () => {
  expect(() => shareWords(wilson(0, 0))).toThrow(RangeError);
});
