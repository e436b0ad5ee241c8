/** The shelf of the institution: put there in one course, found and taken in another. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
let scene: Scene;
const DIALOG = '[role=dialog]';

beforeAll(async () => {
  stage = await openStage();
  scene = await stage.openDemo();
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
});

test('what names things of the course is named before, and does not go', async () => {
  await scene.go(`${stage.base}/c/1/rules/drift`);
  await scene.clickLabelled('More about this rule');
  await scene.clickText('Put on the shelf …', '[role=menu]');
  await scene.see(DIALOG, /an item: .*People, addresses, files, and what a rule names cannot go along/);
  await scene.clickText('Cancel', DIALOG);
});

test('a wording goes with a note on when to use it', async () => {
  await scene.go(`${stage.base}/c/1/wording`);
  await scene.clickLabelled('Put on the shelf: Where you stand');
  await scene.type(`${DIALOG} textarea`, 'Before the first half of the term is over.');
  await scene.see(DIALOG, /It names nobody and nothing of this course|All of this fits any course/);
  const asks = await scene.page.$(`${DIALOG} input[type=checkbox]`);
  await asks?.click();
  await scene.clickText('Put it on the shelf', `${DIALOG} footer`);
  await scene.see('body', /On the shelf. Every course finds it under Saltmarsh College/);
});

test('another course finds it, counts its matches, and takes a draft of its own', async () => {
  await scene.go(`${stage.base}/c/2/rules?new`);
  await scene.see(
    '[aria-label="On the shelf"]',
    /Saltmarsh College.*Quiet for five days.*\d+ of \d+ now.*From the second week on/,
  );
  await scene.clickText('Quiet for five days', '[aria-label="On the shelf"]');
  await scene.see('main', /This rule is a draft|draft/);
  await scene.go(`${stage.base}/c/2/shelf`);
  await scene.see('main', /Shelf of Saltmarsh College.*Where you stand.*Before the first half of the term is over/);
  await scene.see('main', /Quiet for five days.*Already here/);
});

test('a newer version is told where a course has it; what it has stays', async () => {
  await scene.go(`${stage.base}/c/2/wording`);
  await scene.see('main', /A newer version is on the shelf of Saltmarsh College.*Yours stays as it is/);
  await scene.clickText('Keep mine', 'main');
  await scene.until(() => !document.body.textContent.includes('A newer version is on the shelf'));
});

test('what is retired is offered no longer, and courses that have it keep it', async () => {
  await scene.go(`${stage.base}/c/2/shelf`);
  await scene.clickText('Starters', '[aria-label=Show]');
  await scene.clickText('Retire', 'main li');
  await scene.see('main', /retired.*Already here.*Offer it again/);
  await scene.go(`${stage.base}/c/1/rules?new`);
  await scene.see(DIALOG, /Away for five days, firmer at ten/);
  expect(await scene.page.$('[aria-label="On the shelf"]')).toBeNull();
});
