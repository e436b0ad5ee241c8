import { describe, expect, test } from '@jest/globals';
import { domainsOf, isOnSenderList, mailFrom } from './sender.ts';

describe('the list of addresses that an installation sends from', () => {
  test.each([
    ['ada@uni.example', [], true],
    ['ada@uni.example', ['uni.example'], true],
    ['Ada@UNI.example', ['uni.example'], true],
    ['ada@math.uni.example', ['uni.example'], false],
    ['ada@math.uni.example', ['*.uni.example'], true],
    ['ada@uni.example', ['*.uni.example'], false],
    ['ada@myuni.example', ['uni.example', '*.uni.example'], false],
    ['ada@uni.example', ['bo@uni.example'], false],
    ['bo@uni.example', ['bo@uni.example'], true],
    ['bo@uni.example@elsewhere.example', ['uni.example'], false],
  ])('%s with %j: %s', (address, list, allowed) => expect(isOnSenderList(address, list)).toBe(allowed));
});

test('a sender without an address writes from the installation’s, and says so', () => {
  const installation = { address: 'bell@uni.example' };
  expect(mailFrom({ name: 'Ada Lind', address: '' }, installation)).toEqual({
    name: 'Ada Lind, via Zest Bell',
    address: 'bell@uni.example',
  });
  expect(mailFrom({ name: 'Ada Lind', address: 'ada@uni.example' }, installation)).toEqual({
    name: 'Ada Lind',
    address: 'ada@uni.example',
  });
});

test('without a list and an address of its own, the domain of replies is inside the institution', () => {
  const sender = { name: '', address: '', replyTo: 'ada@uni.example', signature: '', officeHours: '' };
  expect(domainsOf(sender)).toEqual(['uni.example']);
});
