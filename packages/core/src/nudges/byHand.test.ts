import { expect, test } from '@jest/globals';
import { mailingOf, wordingKeyOf } from './byHand.ts';

test('a mailing is found by the key that its nudges carry, and no wording of the library is taken for one', () => {
  expect(mailingOf(wordingKeyOf(120))).toBe(120);
  expect(['gentle', 'mailing', 'mailing:', 'mailing:x', 'mailing:12x', 'my mailing:12'].map(mailingOf)).toEqual(
    Array.from({ length: 6 }, () => null),
  );
});
