/** [F19] Whatever a file does, it fails alone, with a sentence, and the next one is read. */
import { afterEach, expect, test } from '@jest/globals';
import { UnreadableFile } from '@zest-bell/core/imports';
import { COURSE } from '../../testing/stage.ts';
import { EventEmitter } from 'node:events';
import { setImmediate as nextTurn } from 'node:timers/promises';
import type { Response } from 'express';
import { RequestQueue } from '../../platform/turns/requestQueue.ts';
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
  expect(await reader.head({ name: 'a.csv', bytes: text(1) })).toMatchObject({ headers: ['person', 'kind', 'at'] });
  expect(await reader.head({ name: 'a.csv', bytes: Buffer.alloc(0) })).toBeNull();
});

test('a file that takes too long is ended, and the next one is read by another thread', async () => {
  reader = new FileReader({ time: 1 });
  await expect(read(200_000)).rejects.toThrow(/takes too long/);
  await reader.close();
  reader = new FileReader();
  expect((await read(2)).report.new).toBe(1);
});

test('a file that takes too much memory is a sentence, and the next one is read', async () => {
  reader = new FileReader({ memory: 20 });
  const rows = Array.from({ length: 60_000 }, (_, i) => `n${i},First${i},Last${i},n${i}@x.example`).join('\n');
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

/** Somebody who waits for what `work` reads, until they leave. */
function asked<T>(work: () => Promise<T>) {
  const waits = Object.assign(new EventEmitter(), { closed: false, destroyed: false });
  const result = new RequestQueue().run('a', waits as unknown as Response, work);
  const leave = () => {
    waits.closed = true;
    waits.emit('close');
  };
  return { result, leave };
}

test('a small file never waits for a large one', async () => {
  reader = new FileReader();
  const ended: string[] = [];
  const wide = Buffer.from(`person,kind,at,note\n${`p1,visit,2026-10-20 10:00,${'-'.repeat(200)}\n`.repeat(30_000)}`);
  await read(1);
  const large = reader
    .readForNew({ ...COURSE }, { name: 'large.csv', bytes: wide }, order)
    .finally(() => ended.push('large'));
  await read(2);
  ended.push('small');
  await large;
  expect(ended).toEqual(['small', 'large']);
});

test('what nobody waits for ends at once, and the next file is read', async () => {
  reader = new FileReader();
  const { result, leave } = asked(() => read(60_000));
  const waiting = asked(() => read(50_000));
  const last = read(1);
  waiting.leave();
  await expect(waiting.result).rejects.toMatchObject({ code: 'busy' });
  leave();
  await expect(result).rejects.toMatchObject({ code: 'busy' });
  expect((await last).report.new).toBe(1);
});

test('closing ends even if the person waiting for a file leaves in the middle of it', async () => {
  reader = new FileReader();
  await read(1);
  const { result, leave } = asked(() => read(60_000));
  await nextTurn();
  const closed = reader.close();
  leave();
  await expect(result).rejects.toMatchObject({ code: 'busy' });
  await closed;
});
