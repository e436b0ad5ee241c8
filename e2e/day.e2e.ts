/** A day that begins on Today, over all courses, and ends with nothing left. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
let scene: Scene;
beforeAll(async () => {
  stage = await openStage();
  scene = await stage.openDemo();
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
});

const DIALOG = '[role=dialog]';
const closed = () => scene.gone(DIALOG);

test('Today says what waits in every course', async () => {
  await scene.go(`${stage.base}/c/1/today`);
  await scene.see(
    '[aria-label="Waiting for you"]',
    /6 nudges are waiting for your decision.*MET 115 1 student falling through/,
  );
  await scene.see('[aria-label="Worth a message this week"]', /did well on Chart lab 3 and got no message/);
});

test('one reply is answered from here, in its thread; the other is settled', async () => {
  await scene.clickLabelled('Answer Wren Abbot');
  await scene.see(DIALOG, /To wren\.abbot@saltmarsh\.example/);
  await scene.type(`${DIALOG} textarea`, 'Good to have you back. Shall we look at lab 2 on Tuesday?');
  await scene.clickText('Send answer', DIALOG);
  await scene.see('body', /Your answer to Wren Abbot is on its way/);
  await closed();
  await scene.clickLabelled('Mark as settled: the reply from Hana Petrov');
  await scene.until(() => !document.querySelector('[data-testid^=reply-]'));
  await scene.go(`${stage.base}/c/1/students`);
  await scene.type('[aria-label="Search students"]', 'wren');
  await scene.clickText('Wren Abbot', '[role=table]');
  await scene.see('[aria-label=Entries]', /You answered .*Good to have you back/);
});

test('the six in the Tray are decided on by keys', async () => {
  await scene.go(`${stage.base}/c/1/tray`);
  await scene.see('main', /6 nudges waiting, the most urgent first/);
  await scene.press('x', 'ArrowDown', 'x', 'ArrowDown', 'x', 'ArrowDown', 'x', 'ArrowDown', 'x', 'ArrowDown', 'x');
  await scene.see('main', /6 chosen/);
  await scene.press('s');
  await scene.see('body', /6 nudges are on their way/);
  await scene.see('main', /Nothing is waiting for you/);
});

test('those who fall through are set aside, in each course, and nothing is left', async () => {
  for (const course of [1, 2]) {
    await scene.go(`${stage.base}/c/${course}/today`);
    await scene.page.waitForSelector('[data-testid^=falling-]');
    for (;;) {
      const line = await scene.page.evaluate(
        () => document.querySelector('[data-testid^=falling-]')?.getAttribute('data-testid') ?? null,
      );
      if (line === null) break;
      await scene.clickAt(`[data-testid=${line}] [aria-label^="More about"]`);
      await scene.clickText('Set aside', '[role=menu]');
      await scene.clickText('Set aside', `${DIALOG} form`);
      await closed();
      await scene.until((id) => !document.querySelector(`[data-testid=${id}]`), line);
    }
  }
  await scene.see('main', /Nothing is waiting for your decision Mail is going out/);
});

test('a summary by email is asked for once, and comes in the morning of a day on which something waits', async () => {
  await scene.go(`${stage.base}/account`);
  await scene.select('select:has(option[value=weekly])', 'daily');
  await scene.see('body', /Zest Bell sends you a summary at 7 AM every day/);
});
