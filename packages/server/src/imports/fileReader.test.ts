/** [F19] Whatever a file does, it fails alone, with a sentence, and the next one is read. */
import { afterEach, expect, test } from '@jest/globals';
import { UnreadableFile } from '@zest-bell/core';
import { COURSE } from '../testing/stage.ts';
import { FileReader } from './fileReader.ts';

let reader: FileReader;
afterEach(() => reader.close());

const order = { decisions: {}, at: 0, now: Date.UTC(2026, 9, 26), retracted: new Set<string>() };
const text = (rows: number) => Buffer.from(`person,kind,at\n${'p1,visit,2026-10-20 10:00\n'.repeat(rows)}`);
const read = (rows: number) => reader.readForNew({ ...COURSE }, 'a.csv', text(rows), order);

test('a file is read, and its facts are plain data', async () => {
  reader = new FileReader();
  const found = await read(3);
  expect(found.report).toMatchObject({ kind: 'activity', new: 1, same: 2, refused: [] });
  expect(found.facts.events).toMatchObject([{ person: 'p1', kind: 'visit' }]);
  expect(await reader.headers('a.csv', text(1))).toEqual(['person', 'kind', 'at']);
  expect(await reader.headers('a.csv', Buffer.alloc(0))).toBeNull();
});

test('a file that takes too long is ended, and the next one is read by another thread', async () => {
  reader = new FileReader({ time: 1 });
  await expect(read(200_000)).rejects.toThrow(/takes too long/);
  await reader.close();
  reader = new FileReader();
  expect((await read(2)).report.new).toBe(1);
});

test('a file that takes too much memory is a sentence, and the next one is read', async () => {
  reader = new FileReader({ memory: 32 });
  const rows = Array.from({ length: 150_000 }, (_, i) => `n${i},First${i},Last${i},n${i}@x.example`).join('\n');
  const large = Buffer.from(`id,First name,Last name,Email\n${rows}\n`);
  const failed = await reader.readForNew({ ...COURSE }, 'b.csv', large, order).catch((error: unknown) => error);
  expect(failed).toBeInstanceOf(UnreadableFile);
  expect((failed as Error).message).toMatch(/too much memory|too long/);
  expect((await read(2)).report.new).toBe(1);
});
