/** Jobs that end with a rule that is on. */
import { afterAll, beforeAll, beforeEach, expect, test } from '@jest/globals';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { openStage, type BrowserStage } from '../harness.ts';
import type { Scene } from '../scene.ts';
import { DIALOG, REACH, RULE, SENTENCE, JobRun } from './story.ts';

let stage: BrowserStage;
let scene: Scene;
const files = mkdtempSync(join(tmpdir(), 'zest-bell-jobs-'));

beforeAll(async () => {
  stage = await openStage();
  scene = await stage.openDemo({ place: '' });
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
  rmSync(files, { recursive: true, force: true });
});
beforeEach(() => scene.go(`${stage.base}/c/1/today`));

/** From Today to a draft that a starter begins. */
async function startFrom(me: JobRun, starter: string, sentence: RegExp): Promise<void> {
  await me.goTo('Rules');
  await me.press('New rule', 'main');
  await me.press(starter, `${DIALOG} li`);
  await me.see(SENTENCE, sentence);
}

/** Turned on, with a yes where a large part of the class would be written to. */
async function turnOn(me: JobRun): Promise<void> {
  await me.press('Turn on', RULE);
  const asked = await me.see(DIALOG, /From now on this rule runs and sends by itself.*match(es)? \d+ (would|alerts?)/);
  if (/Zest Bell asks you above/.test(asked)) await me.press('Allow nudges about', DIALOG);
  await me.press('Turn on', `${DIALOG} footer`);
  await scene.gone(DIALOG);
  await me.see('main', /● on/);
}

test('1 · “Whoever has not been in for five days hears from me, every weekday morning.”', async () => {
  const me = new JobRun(scene);
  await startFrom(me, 'Away for five days, firmer at ten', /not visited the course for 5 days/);
  await me.pressOn('button[title="Remove this step"]');
  await me.see(RULE, /once each time|Turn on/);
  await turnOn(me);
  me.doneIn(8);
});

test('4 · “Whoever has not completed the quiz hears from me, and so does their advisor.”', async () => {
  const me = new JobRun(scene);
  await startFrom(me, 'Not completed two weeks after enrollment', /not completed the course/);
  await me.press('not completed the course', SENTENCE);
  await me.choose('[aria-label=Condition] select', /Tide tables quiz/);
  await me.keys('Escape');
  await me.see(SENTENCE, /not completed Tide tables quiz/);
  await me.pressCalled('To whom');
  await me.press('advisor', DIALOG);
  await me.keys('Escape');
  await me.see(RULE, /advisor/);
  await turnOn(me);
  me.doneIn(10);
});

test('5 · “Nothing submitted yet: I write twice a week, with the instructions as a PDF.”', async () => {
  const me = new JobRun(scene);
  await startFrom(me, 'Nothing submitted, twice a week until it is due', /not submitted Chart lab 4/);
  await me.pressCalled('Wording: ');
  await me.press('Change the text');
  const path = join(files, 'instructions.pdf');
  writeFileSync(path, '%PDF-1.4\n%%EOF\n');
  await scene.upload('input[aria-label="Attached files"]', path);
  await me.see(DIALOG, /instructions\.pdf/);
  await me.press('Save wording', DIALOG);
  await scene.gone(DIALOG);
  await turnOn(me);
  me.doneIn(13);
});

test('6 · “Away and low, then: away or low.”', async () => {
  const me = new JobRun(scene);
  await startFrom(me, 'Away for five days, firmer at ten', /not visited the course for 5 days/);
  await me.press('+ condition', SENTENCE);
  await me.pick('course grade');
  await me.keys('Escape');
  const and = Number(/(\d+)\D+of 42/.exec(await me.see(REACH, /\d+ of 42 match/))![1]);
  await me.pressCalled('and: change how');
  await me.press('any of these is true', '[role=menu]');
  await me.see(SENTENCE, /5 days or have a course grade/);
  await scene.until((was) => Number(document.querySelector('[data-testid=matching]')?.textContent) > was, and);
  me.doneIn(7);
});

test('9 · “Before the weekly discussion closes I remind whoever has not posted, and try two texts.”', async () => {
  const me = new JobRun(scene);
  await startFrom(me, 'The day before a weekly discussion closes', /something in Discussions due by tomorrow/);
  await me.pressCalled('Wording: ');
  await me.press('Change the text');
  await me.press('+ another text', DIALOG);
  await me.see(DIALOG, /Text 2/);
  await me.press('Save wording', DIALOG);
  await scene.gone(DIALOG);
  await me.press('Rehearse', RULE);
  // Which text is shown is said beside it.
  await me.see(DIALOG, /Nothing is sent/);
  me.doneIn(9);
});

test('11 · “Nobody is written to but me: a list before class.”', async () => {
  const me = new JobRun(scene);
  await startFrom(me, 'An alert to yourself before class', /Look every/);
  await me.see(RULE, /to the instructor/);
  await me.see(REACH, /\d+ alerts? to others/);
  await turnOn(me);
  me.doneIn(9);
});

test('15 · “The Saturday before the discussion closes, also when the clocks change that night.”', async () => {
  const me = new JobRun(scene);
  await startFrom(
    me,
    'The day before a weekly discussion closes',
    /Oct 31 to Dec 18.*something in Discussions due by tomorrow/,
  );
  await me.press('Turn on', RULE);
  await me.see(DIALOG, /First Sat Oct 31, 10:00 AM.*[1-9]\d* match/);
  me.doneIn(8);
});
