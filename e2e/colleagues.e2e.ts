/** What colleagues change, and why they say they did; and the decisions of all one's courses in one list. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { openStage, signedIn, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
let owner: Scene;
let colleague: Scene;
const DIALOG = '[role=dialog]';
const WHY = 'The quiz moved to Friday, so five days were too early';

beforeAll(async () => {
  stage = await openStage();
  owner = await stage.openDemo();
  colleague = await signedIn(stage, 'p.adeyemi');
  await colleague.see('body', /Today/);
});
afterAll(async () => {
  expect([...owner.complaints, ...colleague.complaints]).toEqual([]);
  await stage.stop();
});

test('a co-instructor says why a running rule changes, and the others read it', async () => {
  await colleague.go(`${stage.base}/c/1/rules/quiet`);
  await colleague.clickText('not visited the course for 5 days', '[aria-label="The rule"]');
  const field = await colleague.page.waitForSelector('aria/compared with[role="textbox"]');
  await field!.click({ count: 3 });
  await field!.type('7');
  await colleague.press('Escape');
  await colleague.clickText('Confirm changes', 'main');
  await colleague.see(DIALOG, /What you changed/);
  await colleague.clickAt('aria/Why? (optional: it stands with the change, and your colleagues see it on Today)');
  await colleague.page.keyboard.type(WHY);
  await colleague.see(DIALOG, /In the next check.*(nudged|matches|No student|same)/);
  await colleague.clickText('Confirm changes', `${DIALOG} footer`);
  await colleague.clickText('Here only', DIALOG);
  await colleague.gone(DIALOG);

  await owner.go(`${stage.base}/c/1/today`);
  await owner.see('[aria-label="Your colleagues changed"]', new RegExp(`Quiet for five days.*${WHY}.*Adeyemi`));
  await owner.clickText('Quiet for five days', '[aria-label="Your colleagues changed"]');
  await owner.see('main', /Quiet for five days/);
  await owner.clickText('Versions', 'main');
  await owner.see('[aria-label="Versions"]', new RegExp(WHY));
  await owner.go(`${stage.base}/c/1/course/changes`);
  await owner.see('[aria-label="Changes"]', new RegExp(`Changed the rule “Quiet for five days”.*${WHY}`));
  // It tells others: who wrote it knows it.
  await colleague.go(`${stage.base}/c/1/today`);
  await colleague.see('main', /Falling through|Waiting for you|Nothing is waiting/);
  expect(await colleague.page.$('[aria-label="Your colleagues changed"]')).toBeNull();
});

test('the Tray of all courses is decided with the same keys', async () => {
  await owner.go(`${stage.base}/c/1/tray`);
  await owner.clickText('Everywhere (', 'main');
  await owner.see('main', /6 nudges waiting, the most urgent first.*NAV 120 Kofi Marsh/);
  await owner.press('d');
  await owner.see(DIALOG, /Dismiss/);
  await owner.press('Escape');
  await owner.gone(DIALOG);
  await owner.press('x', 'ArrowDown', 'x', 's');
  await owner.see('body', /2 nudges are on their way/);
  await owner.see('main', /4 nudges waiting/);
});
