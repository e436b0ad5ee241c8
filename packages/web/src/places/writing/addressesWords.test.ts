import { expect, test } from '@jest/globals';
import { addressesWords } from './addressesWords.ts';

test('a message for each student says nothing more; others who read it are counted', () => {
  expect(addressesWords({ student: 5 })).toBeNull();
  expect(addressesWords({})).toBeNull();
  expect(addressesWords({ student: 5, 'contact:parent': 4 })).toBe('9 emails: to 5 students and 4 parents');
  expect(addressesWords({ 'contact:advisor': 1, 'address:dean@saltmarsh.example': 2 })).toBe(
    '3 emails: to 1 advisor and 2 other addresses',
  );
  expect(addressesWords({ student: 6, 'contact:Parent address': 4 }, ['Parent address'])).toBe(
    '10 emails: to 6 students and 4 addresses in “Parent address”',
  );
});
