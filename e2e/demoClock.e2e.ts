/** Time passes in the demo: students act, rules ring at their own instants, and mail leaves, without a hand. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
let scene: Scene;
beforeAll(async () => {
  stage = await openStage();
  scene = await stage.openDemo();
  await scene.see('header', /Mon Oct 26, 8:02 AM/);
});
afterAll(() => stage.stop());

async function move(words: string): Promise<void> {
  await scene.clickLabelled('Demo clock');
  await scene.clickText(words, '[role=menu]');
}

test('to the next round: it rings, and the list says whom it reached', async () => {
  await move('Move to the next check');
  // The other course looks first, at 8:45; then this one at 9:30.
  await scene.see('header', /Mon Oct 26, 8:45 AM/);
  await scene.until(() => !document.querySelector('header [disabled]'));
  await move('Move to the next check');
  await scene.see('header', /Mon Oct 26, 9:30 AM/);
  await scene.see('main', /Last check Mon Oct 26: \d+ match, [1-9]\d* nudged/);
});

test('a day on: every round of the day was held at its own instant', async () => {
  await scene.until(() => !document.querySelector('header [disabled]'));
  await move('Move one day ahead');
  await scene.see('header', /Tue Oct 27, 9:30 AM/, 30_000);
  await scene.see('main', /Last check Tue Oct 27/);
  const held = await scene.page.$$eval('main time', (times) => times.map((t) => t.dateTime.slice(0, 16)));
  expect(held).toEqual(expect.arrayContaining(['2026-10-27T09:30', '2026-10-26T18:00']));
});

test('the term strip leads to the sends of a day', async () => {
  const strip = (await scene.page.$('[data-testid=term-strip]'))!;
  await strip.focus();
  await scene.press('ArrowLeft', 'Enter');
  await scene.clickText('Read the');
  await scene.see('main', /Send log.*Mon Oct 26 ✕/);
  await scene.see('main', /All nudges [1-9]/);
  expect(scene.complaints).toEqual([]);
});
