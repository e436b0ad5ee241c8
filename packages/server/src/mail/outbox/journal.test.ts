import { afterEach, expect, jest, test } from '@jest/globals';
import { CONNECTIONS } from '../../platform/mail/mail.ts';
import { LEASE } from '../../platform/work/lease.ts';
import type { ClaimedMessage } from './claim.ts';
import { Journal } from './journal.ts';

afterEach(() => void jest.restoreAllMocks());

const claimed = (id: number) => ({ message: { id } }) as ClaimedMessage;
const all = (begins: readonly ClaimedMessage[]) => Promise.resolve(new Set(begins));
const none = () => false;
/** Until nothing more is asked of the writing. */
const settled = () => new Promise((later) => setImmediate(later));

test('what asks together is written together, and a quick server has few on their way', async () => {
  const written: number[] = [];
  const journal = new Journal((begins) => (written.push(begins.length), all(begins)), none);
  const begun = [1, 2, 3, 4].map((id) => journal.begin(claimed(id)));
  let more = 0;
  void begun[2]!.then(() => more++);
  const [first] = await Promise.all(begun.slice(0, 2));
  await settled();
  expect([written.reduce((a, b) => a + b), more]).toEqual([2, 0]);
  first!();
  expect(await begun[2]).not.toBeNull();
});

test('a slow server gets as many as there are lines, and one that hangs keeps no other from being begun', async () => {
  const journal = new Journal(all, none);
  // None of these is ever answered.
  const begun = await Promise.all(Array.from({ length: CONNECTIONS }, (_, i) => journal.begin(claimed(i))));
  expect(begun.every((b) => b !== null)).toBe(true);
});

test('what the writing does not let go, or what cannot be written, does not leave', async () => {
  expect(await new Journal(() => Promise.resolve(new Set()), none).begin(claimed(1))).toBeNull();
  let fails = true;
  const journal = new Journal((begins) => (fails ? Promise.reject(new Error('no disk')) : all(begins)), none);
  expect(await journal.begin(claimed(1))).toBeNull();
  fails = false;
  expect(await journal.begin(claimed(2))).not.toBeNull();
});

test('a process that slept for half a lease until it was told does not send', async () => {
  const now = performance.now.bind(performance);
  let slept = 0;
  jest.spyOn(performance, 'now').mockImplementation(() => now() + slept);
  const journal = new Journal((begins) => ((slept += LEASE / 2 + 1), all(begins)), none);
  expect(await journal.begin(claimed(1))).toBeNull();
});

test('answers are written until none is left, and a failure is told to who waits for them', async () => {
  let answers = 3;
  const journal = new Journal(
    (begins) => (answers--, all(begins)),
    () => answers > 0,
  );
  await journal.flush();
  expect(answers).toBe(0);
  const broken = new Journal(
    () => Promise.reject(new Error('no disk')),
    () => true,
  );
  await expect(broken.flush()).rejects.toThrow('no disk');
});

test('a failure that nobody waited for is told to the next who does, once', async () => {
  let fails = true;
  const journal = new Journal((begins) => (fails ? Promise.reject(new Error('no disk')) : all(begins)), none);
  await journal.begin(claimed(1));
  fails = false;
  await expect(journal.flush()).rejects.toThrow('no disk');
  await expect(journal.flush()).resolves.toBeUndefined();
});
