/** Two terms side by side, from The term. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

const folder = mkdtempSync(join(tmpdir(), 'zest-bell-terms-'));
let stage: BrowserStage;
let scene: Scene;

beforeAll(async () => {
  stage = await openStage();
  scene = await stage.openDemo();
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
  rmSync(folder, { recursive: true, force: true });
});

test('from The term one chooses another course, and sees rules of one origin with their ranges', async () => {
  await scene.go(`${stage.base}/c/1/replay/term`);
  await scene.clickText('Compare with another term', 'main a');
  await scene.see('main', /Two terms side by side.*Compare NAV 120 with/);
  await scene.select('main select', /MET 115 Weather for Mariners, Aug 31/);
  await scene.see(
    '[aria-label="Rules of both terms"]',
    /Quiet for five days.*NAV 120 .*MET 115 .*could be \d+% to \d+%/,
  );
  await scene.see('[aria-label="Rules of both terms"]', /This difference could be chance\.|More than chance\./);
  await scene.see('[aria-label="Rules of both terms"]', /Who:|How often:|Name:/);
  await scene.see('[aria-label="Only in NAV 120"]', /A chart lab is missing/);
});

test('it is kept as a PDF and as a workbook', async () => {
  const session = await scene.page.createCDPSession();
  await session.send('Browser.setDownloadBehavior', {
    behavior: 'allow',
    browserContextId: stage.context.id!,
    downloadPath: folder,
  });
  const arrived = async (wanted: RegExp) => {
    for (const end = Date.now() + 30_000; Date.now() < end; await new Promise((r) => setTimeout(r, 50)))
      if (readdirSync(folder).some((name) => wanted.test(name))) return true;
    return readdirSync(folder);
  };
  await scene.clickText('Save as PDF', 'main button');
  expect(await arrived(/^NAV 120 beside MET 115\.pdf$/)).toBe(true);
  await scene.clickText('Export', 'main button');
  await scene.clickText('Workbook (XLSX)', '[role=menuitem]');
  expect(await arrived(/\.xlsx$/)).toBe(true);
});
