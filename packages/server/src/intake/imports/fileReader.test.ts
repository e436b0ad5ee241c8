/** [F19] Whatever a file does, it fails alone, with a sentence, and the next one is read. */
import { afterEach, expect, test } from '@jest/globals';
import { UnreadableFile } from '@zest-bell/core/imports';
import { COURSE } from '../../testing/stage.ts';
import { FileReader } from './fileReader.ts';

let reader: FileReader;
afterEach(() => reader.close());

const order = { decisions: {}, at: 0, now: Date.UTC(2026, 9, 26), retracted: new Set<string>() };
const text = (rows: number) => Buffer.from(`person,kind,at\n${'p1,visit,2026-10-20 10:00\n'.repeat(rows)}`);
const read = (rows: number) => reader.readForNew({ ...COURSE }, { name: 'a.csv', bytes: text(rows) }, order);

test('a file is read, and its facts are plain data', async () => {
  reader = new FileReader();
  const found = await read(3);
  expect(found.report).toMatchObject({ kind: 'activity', new: 1, same: 2, refused: [] });
  expect([...found.facts.events]).toMatchObject([{ person: 'p1', kind: 'visit' }]);
  expect(await reader.headers({ name: 'a.csv', bytes: text(1) })).toEqual(['person', 'kind', 'at']);
  expect(await reader.headers({ name: 'a.csv', bytes: Buffer.alloc(0) })).toBeNull();
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
  const failed = await reader
    .readForNew({ ...COURSE }, { name: 'b.csv', bytes: large }, order)
    .catch((error: unknown) => error);
  expect(failed).toBeInstanceOf(UnreadableFile);
  expect((failed as Error).message).toMatch(/too much memory|too long/);
  expect((await read(2)).report.new).toBe(1);
});

test('a scenario file is read here too, and says what does not fit by its path', async () => {
  reader = new FileReader();
  const bad = await reader.scenario(Buffer.from(JSON.stringify({ format: 'zest-bell/scenario@1', people: 1 })));
  expect(bad.ok ? [] : bad.problems.map((p) => p.path)).toContain('people');
  const none = await reader.scenario(Buffer.from('no json'));
  expect(none).toMatchObject({ ok: false, problems: [{ path: 'file', code: 'json' }] });
});
