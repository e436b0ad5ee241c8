import { afterAll, expect, test } from '@jest/globals';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Letters, type StoredLetter } from './letters.ts';

const folder = mkdtempSync(join(tmpdir(), 'zest-bell-letters-'));
afterAll(() => rmSync(folder, { recursive: true }));

test('what is forgotten is in no mailbox and not in the file; all else is as it was, also after a start', () => {
  const file = join(folder, 'letters.jsonl');
  const letters = new Letters(file);
  const letter = (id: string, to: string) =>
    ({ id, to, at: 1, subject: `To ${to}`, text: '' }) as unknown as StoredLetter;
  letters.add(letter('a', 'Ann@x.example'));
  letters.add(letter('b', 'bo@x.example'));
  letters.add(letter('c', 'ann@x.example'));
  letters.markRead('a');
  letters.markRead('b');
  letters.forget(({ to }) => to.toLowerCase() === 'ann@x.example');
  for (const known of [letters, new Letters(file)]) {
    expect([known.count, known.of('ann@x.example'), known.get('a'), known.get('b')?.read]).toEqual([1, [], null, true]);
  }
  expect(readFileSync(file, 'utf8')).not.toMatch(/ann/i);
  letters.add(letter('d', 'bo@x.example'));
  expect(new Letters(file).of('bo@x.example').map((l) => l.id)).toEqual(['b', 'd']);
});
