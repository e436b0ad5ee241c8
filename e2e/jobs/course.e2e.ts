/** Jobs about a course as a whole: its voice and limits, what would have happened, its replies, a phone. */
import { afterAll, beforeAll, beforeEach, expect, test } from '@jest/globals';
import { openStage, type BrowserStage } from '../harness.ts';
import type { Scene } from '../scene.ts';
import { DIALOG, RULE, JobRun } from './story.ts';

let stage: BrowserStage;
let scene: Scene;
beforeAll(async () => {
  stage = await openStage();
  scene = await stage.openDemo({ place: '' });
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
});
beforeEach(() => scene.go(`${stage.base}/c/1/today`));

test('signing in opens Today, with one list of what waits', async () => {
  await scene.see('h1', /Today/);
  await scene.see('[aria-label="Waiting for you"]', /6 nudges are waiting for your decision.*MET 115/);
});

test('10 · “At most one message in two weeks, from all rules; and I decide what waits.”', async () => {
  const me = new JobRun(scene);
  await me.goTo('Course');
  await me.press('At most one message in two weeks, from all rules', 'main');
  // What still passes it is said beside the numbers.
  await me.see('main', /What may exceed it/);
  await me.press('Save limits', 'main');
  await me.see('body', /These limits now apply to every rule of this course/);
  await me.goTo('Tray');
  const before = Number(/(\d+) nudges? waiting/.exec(await me.see('main', /\d+ nudges? waiting/))![1]);
  await me.press('Send to', '[role=toolbar]');
  await me.see('main', new RegExp(`${before - 1} nudges? waiting`));
  me.doneIn(19);
});

test('14 · “Ten days away as a rule of its own: what do the two do together, over the whole term?”', async () => {
  const me = new JobRun(scene);
  await me.goTo('Replay');
  await me.see('[aria-label=Totals]', /Nudges/);
  await me.choose('main select', 'Quiet for five days');
  await me.see('[aria-label=Totals]', /Nudges [1-9]\d* /);
  await me.press('not visited the course for 5 days', '[data-testid=what-if]');
  await me.fill(`${DIALOG} input`, '10');
  await me.keys('Escape');
  await me.see('[aria-label="What would change"]', /nudges? fewer/);
  await me.press('Replay it together with the other rules that are on', 'main');
  await me.see('[aria-label="What would change"]', /As it is As tried/);
  me.doneIn(14);
});

test('17 · “I answer a reply; then: why did this one hear nothing, and are five days better than seven?”', async () => {
  const me = new JobRun(scene);
  await me.pressCalled('Answer Wren Abbot');
  await me.fill(`${DIALOG} textarea`, 'Good to have you back.');
  await me.press('Send answer', DIALOG);
  await me.see('body', /Your answer to Wren Abbot is on its way/);
  await scene.gone(DIALOG);
  await scene.go(`${stage.base}/c/1/students/n19`);
  await me.press('Rules', 'main');
  await me.see('main', /Quiet for five days matches.*Held back/);
  await me.goTo('Replay');
  await me.press('Who it found', 'main');
  await me.choose('main select', 'quiet');
  await me.see('[data-testid=shares]', /Share found: \d+% \(\d+ of 11/);
  await me.see('main', /At \d+ the rule finds four of five or more|At none of these values/);
  me.doneIn(12);
});

test('18 · “On my phone: I read what waits, and decide; and I turn a rule off.”', async () => {
  const me = new JobRun(scene);
  await scene.page.setViewport({ width: 390, height: 800 });
  try {
    await scene.go(`${stage.base}/c/1/tray`);
    const list = '[aria-label="Waiting nudges"]';
    await me.see(list, /has practiced/);
    await me.pressOn(`${list} [aria-pressed]`);
    // The message is above its buttons, and the list has given way.
    const [letter, bar] = await Promise.all(
      ['[aria-label="The nudge"] h2', '[role=toolbar]'].map(
        async (s) => (await (await scene.page.waitForSelector(s))!.boundingBox())!,
      ),
    );
    expect(letter!.y).toBeLessThan(bar!.y);
    await me.press('Dismiss', '[role=toolbar]');
    await me.press('I spoke with the student', DIALOG);
    await me.see('body', /1 nudge dismissed/);
    await scene.go(`${stage.base}/c/1/rules/quiet`);
    await me.press('Pause', RULE);
    await me.see('main', /paused/);
  } finally {
    await scene.page.setViewport({ width: 1280, height: 800 });
  }
  me.doneIn(4);
});
