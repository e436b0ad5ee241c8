import { expect, test } from '@jest/globals';
import { clearWords } from './Waiting.tsx';

test('course data is current only where some has come in and somebody watches it', () => {
  expect(clearWords({ hasHeard: false, staleHours: 48 })).toMatch(/No course data has come in yet\.$/);
  expect(clearWords({ hasHeard: true, staleHours: null })).not.toMatch(/current/);
  expect(clearWords({ hasHeard: true, staleHours: 48 })).toMatch(/course data is current/);
});
