import { expect, test } from '@jest/globals';
import { runBeside } from './runBeside.ts';

test('one of a kind runs at a time, of each owner, and the next may try again what failed', async () => {
  const owner = {};
  let begun = 0;
  let fail = (_error: Error) => undefined as void;
  const first = new Promise((_resolve, reject) => (fail = reject));
  const work = () => {
    begun++;
    return first;
  };
  runBeside(owner, 'token 1', work);
  runBeside(owner, 'token 1', work);
  expect(begun).toBe(1);
  runBeside(owner, 'token 2', work);
  runBeside({}, 'token 1', work);
  expect(begun).toBe(3);
  fail(new Error('the database is busy'));
  await first.catch(() => undefined);
  await new Promise((resolve) => setImmediate(resolve));
  runBeside(owner, 'token 1', work);
  expect(begun).toBe(4);
});
