import { expect, test } from '@jest/globals';
import { amongClass } from '../catalogue/amongClass.ts';

test('a value is said to be more or less than most where three quarters lie on one side', () => {
  const class8 = [1, 2, 3, 4, 5, 6, 7, 8];
  expect(amongClass(7, class8)).toBe('more than most of the class');
  expect(amongClass(6, class8)).toBeNull();
  expect(amongClass(2, class8)).toBe('less than most of the class');
  expect(amongClass(3, class8)).toBeNull();
  expect(amongClass(9, class8.slice(1))).toBeNull();
  expect(amongClass(0, Array(20).fill(0))).toBeNull();
});
