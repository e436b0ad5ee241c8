/** The Tray: what waits, decided on by keys, and one who came back in the meantime. */
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { openLetterBox, type LetterBox } from './letterBox.ts';
import { openStage, setSendDelay, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';
import { INSTRUCTOR, setUpKnots, TOKEN } from './knotsCourse.ts';

let box: LetterBox;
let stage: BrowserStage;
let scene: Scene;
beforeAll(async () => {
  box = await openLetterBox();
  stage = await openStage(async (folder) => {
    await setUpKnots(
      join(folder, 'zest-bell.db'),
      ['Imani', 'Teo', 'Runa', 'Berit'],
      { perSpell: 1 },
      { deliver: 'hold' },
    );
    return { ZEST_DEMO: 'off', ZEST_SMTP_URL: box.url };
  });
  scene = await stage.open();
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
  await box.close();
});

const LIST = '[aria-label="Waiting nudges"]';
const DETAIL = '[aria-label="The nudge"]';
const waiting = (count: number) =>
  scene.until((list, n) => document.querySelectorAll(`${list} > li`).length === n, LIST, count);
const closed = () => scene.until(() => !document.querySelector('[role=dialog]'));

test('a round whose step asks first leaves its nudges in the Tray, with evidence and message', async () => {
  await scene.type('input[type=email]', INSTRUCTOR.email);
  await scene.type('input[type=password]', INSTRUCTOR.password);
  await scene.click('button', 'Sign in');
  await scene.see('main', /[Ww]aiting for you/);
  await setSendDelay(scene, 0);
  await scene.clickText('Rules', 'header');
  await scene.clickText('Quiet for five days', 'main');
  await scene.clickText('Check now', 'main');
  await scene.see('[role=dialog]', /Check “/);
  await scene.clickText('Check now', '[role=dialog] footer');
  await scene.go(`${stage.base}/c/1/today`);
  await scene.see('main', /4 nudges are waiting for your decision/);
  await scene.clickText('Decide on 4', 'main');
  await scene.see('main', /4 nudges waiting, the most urgent first/);
  await scene.see(DETAIL, /This step of the rule asks you before it sends.*Why: no visit yet/);
});

test('by keys alone: a text of one’s own, one put off, one dismissed, the rest sent but for the one who came back', async () => {
  const first = await scene.text(`${LIST} > li:first-child strong`);
  await scene.press('e');
  await scene.page.waitForSelector('[role=dialog] [aria-label=Text]');
  await scene.clickAt('[role=dialog] [aria-label=Text]');
  await scene.page.keyboard.down('Control');
  await scene.press('Home');
  await scene.page.keyboard.up('Control');
  await scene.page.keyboard.type('A word from me. ');
  await scene.clickText('Save text', '[role=dialog] footer');
  await scene.see(DETAIL, /A word from me\./);
  await closed();
  // The next key counts from when the list shows what is left, whatever else is still asked for.
  const letGo = await scene.holdBack((path) => !path.includes('/tray'));
  await scene.press('s');
  await scene.see('body', /1 nudge is on its way/);
  await waiting(3);
  expect(box.letters).toHaveLength(1);
  expect(box.letters[0]!.text).toContain('A word from me.');
  expect(first).not.toBe('');

  await scene.press('l');
  await scene.see('[role=dialog]', /comes back here on that day/);
  await letGo();
  await scene.press('Tab', 'Enter');
  await waiting(2);
  await closed();
  await scene.see('main', /Show 1 nudge put off/);

  // One of the two comes back before they are sent.
  const back = await scene.read(`${LIST} > li:last-child`, (li) => li.querySelector('strong')!.textContent ?? '');
  const id = { Imani: 'p1', Teo: 'p2', Runa: 'p3', Berit: 'p4' }[back.split(' ')[0]!]!;
  const told = await fetch(`${stage.base}/api/v1/activity`, {
    method: 'POST',
    headers: { authorization: `Bearer ${TOKEN}`, 'content-type': 'application/json' },
    body: JSON.stringify({ events: [{ id: 'v1', person: id, kind: 'visit', at: new Date().toISOString() }] }),
  });
  expect(told.ok).toBe(true);
  await scene.press('x', 'ArrowDown', 'x');
  await scene.see('main', /2 chosen/);
  await scene.press('s');
  await scene.see('body', new RegExp(`1 nudge is on its way.*Not sent\\. ${back}: came back before it left`));
  await scene.see('main', /Nothing is waiting for you/);
  expect(box.letters).toHaveLength(2);
});

test('what was put off is dismissed with a reason, which the log keeps', async () => {
  await scene.clickText('Show 1 nudge put off');
  await waiting(1);
  const name = await scene.text(`${LIST} strong`);
  await scene.press('d');
  await scene.clickText('I spoke with the student', '[role=dialog]');
  await scene.see('main', /Nothing is put off|Nothing is waiting for you/);
  await scene.go(`${stage.base}/c/1/log?view=withdrawn`);
  await scene.clickText(name, '[aria-label=Nudges]');
  await scene.see(DETAIL, /Dismissed by .*: I spoke with the student/);
});
