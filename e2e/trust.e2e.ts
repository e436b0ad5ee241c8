/** What an instructor does with many rules at once, and what keeps a course from writing when it should not. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
let scene: Scene;
beforeEach(async () => {
  stage = await openStage();
  scene = await stage.openDemo();
  await scene.see('main', /Quiet for five days/);
});
afterEach(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
});

const DIALOG = '[role=dialog]';
const go = (path: string) => scene.go(`${stage.base}/c/1/${path}`);
const names = () => scene.page.$$eval('main h2 a', (links) => links.map((l) => l.textContent));
const clock = async (move: string, wanted: RegExp) => {
  await scene.gone(DIALOG);
  await scene.clickAt('[aria-label^="Demo clock"]:not([disabled])');
  await scene.clickText(move, '[role=menu]');
  await scene.see('body', wanted, 30_000);
};

test('the list: order by keys and by drag, labels, several paused and turned on at once, archive with undo', async () => {
  const { page } = scene;
  expect((await names()).slice(0, 2)).toEqual(['Quiet for five days', 'Drifting after the tide quiz']);
  await (await page.waitForSelector('[aria-label^="Move Quiet for five days"]'))!.focus();
  await scene.press('Space');
  await scene.see('[id^=DndLiveRegion]', /over droppable area quiet/i);
  await scene.press('ArrowDown');
  await scene.see('[id^=DndLiveRegion]', /was moved over droppable area drift/i);
  await scene.press('Space');
  await scene.until(() => document.querySelector('main h2 a')?.textContent === 'Drifting after the tide quiz');
  await go('rules');
  expect((await names()).slice(0, 2)).toEqual(['Drifting after the tide quiz', 'Quiet for five days']);

  await scene.clickText('Support', '[aria-label="Show rules with a label"]');
  await scene.until(() => document.querySelectorAll('main h2 a').length === 2);
  await scene.clickLabelled('Choose Quiet for five days');
  await scene.clickLabelled('Choose Drifting after the tide quiz');
  await scene.clickText('Pause 2', 'main');
  await scene.see('main', /paused.*paused/);
  await scene.see('body', /2 rules: each is paused/);
  await scene.clickLabelled('Choose Quiet for five days');
  await scene.clickLabelled('Choose Drifting after the tide quiz');
  await scene.clickText('Turn on 2', 'main');
  await scene.see(DIALOG, /All of them are turned on, or none.*Drifting.*match(es)?: .*Quiet.*match(es)?: /);
  await scene.clickText('Turn on 2', `${DIALOG} footer`);
  await scene.see('body', /2 rules: each is on/);

  await scene.clickLabelled('More about Quiet for five days');
  await scene.clickText('Archive', '[role=menu]');
  await scene.see('main', /Archive: 1 rule/);
  await scene.see('body', /“Quiet for five days” is in the archive/);
  await scene.until(() => document.querySelectorAll('main h2 a').length === 1);
  await page.evaluate(() => {
    const toasts = [...document.querySelectorAll('[data-sonner-toast]')];
    const mine = toasts.find((t) => t.textContent.includes('is in the archive'))!;
    mine.querySelector<HTMLButtonElement>('[data-button]')!.click();
  });
  await scene.see('main', /Quiet for five days/);
});

test('all mail of the course is stopped, says what waits, and starts again', async () => {
  await go('course');
  await scene.clickText('Stop all mail', 'main');
  await scene.see(DIALOG, /From this moment no message leaves/);
  await scene.clickText('Stop all mail', `${DIALOG} footer`);
  await scene.see('[data-testid=standing]', /All mail of this course has been stopped since Mon Oct 26, 8:02 AM/);
  await clock('Move one day ahead', /It is now Tue Oct 27/);
  await scene.see('main', /No message is waiting, and 2 rules missed a check/);
  await scene.clickText('Start mail again', 'main');
  await scene.see(
    DIALOG,
    /Checks missed by 2 rules: Quiet for five days, A chart lab is missing.*Run missed rules now, once/,
  );
  await scene.clickText('Start mail again', `${DIALOG} footer`);
  await scene.see('main', /Mail is going out/);
  await go('today');
  await scene.see('main', /Quiet for five days.*Tue Oct 27, 8:02 AM, late: it made up for 1 missed check/);
});

test('rounds wait while the platform tells nothing, and are made up for when it does', async () => {
  await clock('Stop data from the learning platform', /sends no data now/);
  for (const day of [27, 28, 29]) await clock('Move one day ahead', new RegExp(`It is now .*Oct ${day}`));
  await scene.see(
    '[data-testid=standing]',
    /Rules and mail are waiting: the learning platform has sent no data since Mon Oct 26/,
  );
  await go('today');
  await scene.see('main', /Waiting for you.*Rules and mail are waiting for new data from the learning platform/);
  await go('rules/quiet');
  await scene.clickText('Check now', '[aria-label="The rule"]');
  await scene.see(DIALOG, /would be nudged|match/);
  await scene.clickText('Check now', `${DIALOG} footer`);
  await scene.see('body', /older than its limit allows.*Nothing was sent/);
  await scene.press('Escape');
  await scene.gone(DIALOG);
  await clock('Let the learning platform send data again', /has sent everything it had held/);
  await go('today');
  await scene.see('main', /late: it made up for \d missed checks?/);
  expect(await scene.page.$('[data-testid=standing]')).toBeNull();
});

test('a budget that is changed says what it would have done in the last four weeks, and holds from then on', async () => {
  await go('course');
  await scene.see('main', /sent at once \d+ \d+/);
  const field = await scene.page.waitForSelector('aria/within[role="textbox"]');
  await field!.click({ count: 3 });
  await field!.type('0');
  await scene.see('main', /At least 1/);
  await field!.click({ count: 3 });
  await field!.type('28');
  await scene.see('main', /\d+ nudges would have been different.*sent Mon Sep 28.*held back: message budget used up/);
  await scene.clickText('Save limits', 'main');
  await scene.see('body', /These limits now apply to every rule of this course/);
  await go('rules/quiet');
  await scene.see('[data-testid=notice]', /Message budget: 1 nudge a student in 28 days/);
});
