/** The morning page: who falls through and what is done about it, and the tour of a first visit. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { openStage, setSendDelay, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
let scene: Scene;
beforeAll(async () => {
  stage = await openStage();
  scene = await stage.open('/', { tour: true });
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
});

const FALLING = '[aria-label="Falling through"]';
const DIALOG = '[role=dialog]';

test('a first visit is offered a tour that points at real controls, and is not offered twice', async () => {
  await scene.clickText('Open the demo as Dr. Ostrander');
  await scene.see('[aria-label=Tour]', /five stops/);
  await setSendDelay(scene, 0);
  await scene.clickText('Start the tour', '[aria-label=Tour]');
  const stops = ['Start your day here', 'The whole term at a glance', 'A rule is one sentence', 'Whom it reaches'];
  for (const [i, title] of stops.entries()) {
    await scene.see('[aria-label^="Tour:"]', new RegExp(`${title}.*${i + 1} of 5`));
    await scene.page.waitForSelector('[data-tour=here]');
    await scene.clickText('Next', '[aria-label^="Tour:"]');
  }
  await scene.see('[aria-label^="Tour:"]', /Make time pass.*5 of 5/);
  await scene.clickText('Finish', '[aria-label^="Tour:"]');
  await scene.go(`${stage.base}/c/1/today`);
  await scene.see('main', /[Ww]aiting for you/);
  expect(await scene.page.$('[aria-label=Tour]')).toBeNull();
});

test('a student who was written to once, long ago, is written to now, and the log says by whom', async () => {
  await scene.go(`${stage.base}/c/1/today`);
  const said = await scene.see(FALLING, /Javier Montenegro limit reached .* \d+ d Write now/);
  expect(said).toMatch(/Desta Tekle no email address .* \d+ d Add an address/);
  // That a rule may pass a pause is never proposed first.
  expect(said).toMatch(/Uchenna Nwosu paused nudges .* \d+ d Set aside/);
  await scene.clickAt('[data-testid=falling-n19] [aria-expanded]');
  await scene.see('[data-testid=falling-n19]', /Still matches “Quiet for five days”/);
  await scene.clickText('Write now', '[data-testid=falling-n19]');
  await scene.see(DIALOG, /Write to Javier Montenegro now.*Javier, I have not seen you in Coastal Navigation/);
  await scene.clickText('Send to Javier now', `${DIALOG} footer`);
  await scene.see('body', /The message to Javier is sent/);
  await scene.until(() => !document.querySelector('[data-testid=falling-n19]'));
  await scene.go(`${stage.base}/c/1/students/n19`);
  await scene.clickText('Quiet for five days', 'main ol');
  await scene.see('[aria-label="The nudge"]', /Sent by Dr\. .*Ostrander, past these limits: already nudged this time/);
});

test('a student without an address gets one, or is set aside until a day with a note', async () => {
  await scene.go(`${stage.base}/c/1/today`);
  await scene.clickLabelled('More about Desta Tekle');
  await scene.clickText('Set aside', '[role=menu]');
  await scene.type(`${DIALOG} textarea`, 'Called on Friday');
  await scene.clickText('Set aside', `${DIALOG} form`);
  await scene.see(FALLING, /1 student set aside/);
  await scene.until(() => !document.querySelector('[data-testid=falling-n39]'));
  await scene.clickText('1 student set aside', FALLING);
  await scene.see(FALLING, /Desta Tekle until .*“Called on Friday” \(Dr\. .*Ostrander\)/);
  await scene.clickText('Bring back', FALLING);

  await scene.clickText('Add an address', '[data-testid=falling-n39]');
  await scene.type(`${DIALOG} input[type=email]`, 'desta');
  await scene.clickText('Save address', DIALOG);
  await scene.see(DIALOG, /Type one address, such as/);
  await scene.type(`${DIALOG} input[type=email]`, '.tekle@saltmarsh.example');
  await scene.clickText('Save address', DIALOG);
  await scene.see('body', /Desta Tekle can be reached at desta\.tekle@saltmarsh\.example/);
  await scene.until(() => !document.querySelector('[data-testid=falling-n39]'));
});

test('a limit is raised where it is set, with its effect beside it', async () => {
  await scene.go(`${stage.base}/c/1/today`);
  await scene.clickLabelled('More about Dilnoza Karimova');
  await scene.clickText('Raise the limit', '[role=menu]');
  await scene.see('[role=dialog]', /Each time, each step/);
  await scene.see('[data-testid=reach]', /would be nudged/);
});

test('the palette finds a student, an item’s rules and an action', async () => {
  const open = async (words: string) => {
    await scene.page.keyboard.down('Control');
    await scene.page.keyboard.press('k');
    await scene.page.keyboard.up('Control');
    await scene.pick(words);
  };
  await scene.go(`${stage.base}/c/1/today`);
  await open('Javier');
  await scene.see('main', /Javier Montenegro.*Work and grades/);
  await open('Tide tables quiz');
  await scene.see('main', /1 rule looks at Tide tables quiz/);
});
