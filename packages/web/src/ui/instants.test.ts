import { expect, test } from '@jest/globals';
import { fromLocal, toLocal } from './instants.ts';

const ZONE = 'America/New_York';

test('an instant goes into a field and comes back', () => {
  const at = Date.UTC(2026, 8, 14, 3, 59);
  expect(toLocal(at, ZONE)).toBe('2026-09-13T23:59');
  expect(fromLocal('2026-09-13T23:59', ZONE)).toBe(at);
  expect(fromLocal('2026-09-13', ZONE)).toBe(Date.UTC(2026, 8, 13, 4));
});

test.each(['', '2026', '2026-09', 'T23:59', '2026-02-30T10:00x'])('%j is no instant', (text) => {
  expect(fromLocal(text, ZONE)).toBeNull();
});
