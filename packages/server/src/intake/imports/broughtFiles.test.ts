/** [F17] Files lie on disk while they are open, and nowhere once they are settled. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { existsSync, mkdtempSync, readdirSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { BroughtFiles, LARGEST_FILE } from './broughtFiles.ts';
import { withFile } from './fileBytes.ts';

let folder: string;
let brought: BroughtFiles;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'zest-bell-brought-'));
  brought = new BroughtFiles(folder);
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

test('what is received is read a piece at a time, up to its end', async () => {
  const name = await brought.receive(Readable.from([Buffer.from('abc'), Buffer.from('def')]));
  await withFile(brought.pathOf(name), (bytes) => {
    expect(bytes.size).toBe(6);
    expect(Buffer.from(bytes.read(2, 4)).toString()).toBe('cd');
    expect(Buffer.from(bytes.read(4, 99)).toString()).toBe('ef');
    expect(bytes.read(99, 120)).toHaveLength(0);
    return Promise.resolve();
  });
  await brought.forget([name, null, 'never-there']);
  expect(readdirSync(folder)).toEqual([]);
  await expect(withFile(brought.pathOf(name), () => Promise.resolve())).rejects.toThrow(/no longer here/);
});

test('nothing is left of a file that is too large, or breaks off', async () => {
  const piece = Buffer.alloc(64 << 20);
  const tooMany = Array.from({ length: LARGEST_FILE / piece.length + 1 }, () => piece);
  await expect(brought.receive(Readable.from(tooMany))).rejects.toMatchObject({ code: 'inputTooLarge' });
  const broken = new Readable({
    read() {
      this.destroy(new Error('gone'));
    },
  });
  await expect(brought.receive(broken)).rejects.toThrow('gone');
  expect(readdirSync(folder)).toEqual([]);
});

test('what nothing names goes at a start, but for what may be coming in', async () => {
  for (const name of ['named', 'forgotten', 'coming']) writeFileSync(join(folder, name), 'x');
  const longAgo = Date.now() / 1000 - 3 * 86_400;
  for (const name of ['named', 'forgotten']) utimesSync(join(folder, name), longAgo, longAgo);
  await brought.sweep(new Set(['named']));
  expect(readdirSync(folder).toSorted()).toEqual(['coming', 'named']);
  await new BroughtFiles(join(folder, 'none')).sweep(new Set());
  expect(existsSync(join(folder, 'none'))).toBe(false);
});
