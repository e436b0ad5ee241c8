/** Networks that are never called: each range at both ends, just outside of it, and as an IPv4-mapped address (RFC 6890, from memory). */
import { describe, expect, test } from '@jest/globals';
import { isInsideAddress } from './outgoing.ts';

/** First and last address of a range, and one before and one after it; null where that is in another range of the list. */
const RANGES: readonly (readonly [string, string, string | null, string | null])[] = [
  ['0.0.0.0', '0.255.255.255', null, '1.0.0.0'],
  ['10.0.0.0', '10.255.255.255', '9.255.255.255', '11.0.0.0'],
  ['100.64.0.0', '100.127.255.255', '100.63.255.255', '100.128.0.0'],
  ['127.0.0.0', '127.255.255.255', '126.255.255.255', '128.0.0.0'],
  ['169.254.0.0', '169.254.255.255', '169.253.255.255', '169.255.0.0'],
  ['172.16.0.0', '172.31.255.255', '172.15.255.255', '172.32.0.0'],
  ['192.0.0.0', '192.0.0.255', '191.255.255.255', '192.0.1.0'],
  ['192.0.2.0', '192.0.2.255', '192.0.1.255', '192.0.3.0'],
  ['192.168.0.0', '192.168.255.255', '192.167.255.255', '192.169.0.0'],
  ['198.18.0.0', '198.19.255.255', '198.17.255.255', '198.20.0.0'],
  ['198.51.100.0', '198.51.100.255', '198.51.99.255', '198.51.101.0'],
  ['203.0.113.0', '203.0.113.255', '203.0.112.255', '203.0.114.0'],
  ['224.0.0.0', '255.255.255.255', '223.255.255.255', null],
];
const RANGES_OF_SIX: readonly (readonly [string, string, string | null, string | null])[] = [
  ['::', '::ffff:ffff', null, '0:0:0:0:0:1::'],
  ['64:ff9b::', '64:ff9b::ffff:ffff', '64:ff9a:ffff:ffff:ffff:ffff:ffff:ffff', '64:ff9b:0:0:0:1::'],
  ['64:ff9b:1::', '64:ff9b:1:ffff:ffff:ffff:ffff:ffff', '64:ff9b:0:ffff:ffff:ffff:ffff:ffff', '64:ff9b:2::'],
  ['100::', '100::ffff:ffff:ffff:ffff', 'ff:ffff:ffff:ffff:ffff:ffff:ffff:ffff', '100:0:0:1::'],
  ['2001::', '2001:1ff:ffff:ffff:ffff:ffff:ffff:ffff', '2000:ffff:ffff:ffff:ffff:ffff:ffff:ffff', '2001:200::'],
  ['2002::', '2002:ffff:ffff:ffff:ffff:ffff:ffff:ffff', '2001:ffff:ffff:ffff:ffff:ffff:ffff:ffff', '2003::'],
  ['fc00::', 'fdff:ffff:ffff:ffff:ffff:ffff:ffff:ffff', 'fbff:ffff:ffff:ffff:ffff:ffff:ffff:ffff', 'fe00::'],
  ['fe80::', 'febf:ffff:ffff:ffff:ffff:ffff:ffff:ffff', 'fe7f:ffff:ffff:ffff:ffff:ffff:ffff:ffff', 'fec0::'],
  ['ff00::', 'ffff:ffff:ffff:ffff:ffff:ffff:ffff:ffff', 'feff:ffff:ffff:ffff:ffff:ffff:ffff:ffff', null],
];

describe.each([...RANGES, ...RANGES_OF_SIX])('from %s to %s', (first, last, before, after) => {
  test('nothing is called, and its neighbors are', () => {
    for (const inside of [first, last]) expect([inside, isInsideAddress(inside)]).toEqual([inside, true]);
    for (const outside of [before, after])
      if (outside !== null) expect([outside, isInsideAddress(outside)]).toEqual([outside, false]);
  });
});

test.each(RANGES)('from %s to %s as mapped addresses, in either way of writing them', (first, last, before, after) => {
  const hex = (address: string) => {
    const [a, b, c, d] = address.split('.').map((n) => Number(n).toString(16).padStart(2, '0'));
    return `::ffff:${a}${b}:${c}${d}`;
  };
  for (const write of [(address: string) => `::ffff:${address}`, hex]) {
    for (const inside of [first, last])
      expect([write(inside), isInsideAddress(write(inside))]).toEqual([write(inside), true]);
    for (const outside of [before, after])
      if (outside !== null) expect([write(outside), isInsideAddress(write(outside))]).toEqual([write(outside), false]);
  }
});
