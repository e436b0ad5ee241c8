/** A course from the sheet that everybody has, on the first page: one file, and a rule that is rehearsed. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { fileURLToPath } from 'node:url';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';
import { JobRun } from './jobs/story.ts';

let stage: BrowserStage;
let scene: Scene;
beforeAll(async () => {
  stage = await openStage(() => Promise.resolve({ ZEST_DEMO: 'off' }));
  scene = await stage.open();
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
});

const date = (days: number): string => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);
const SHEET = fileURLToPath(new URL('../examples/import/sheet.xlsx', import.meta.url));
const CARD = 'article[aria-label="sheet.xlsx"]';
const DIALOG = '[role=dialog]';

test('from signing in to a rehearsed rule in twelve presses', async () => {
  const me = new JobRun(scene);
  await scene.type('input[name=name]', 'R. Ostrander');
  await scene.type('input[name=email]', 'ostrander@saltmarsh.example');
  await scene.type('input[name=password]', 'eight bells and all is well');
  await me.press('Create account');
  await me.press('Create your first course');
  await scene.upload('input[type=file][aria-label="Choose your sheet"]', SHEET);
  // What is above the header proposes the name; every column says what it is, every group what it would do.
  await me.see(CARD, /The person 4 people are new\. 1 row names nobody and is left out\./);
  await me.see(
    CARD,
    /Grades 5 items are new: 2 assignments and 3 quizzes, none has a due date, in the groups Essays, Quizzes and Exams\. 15 grades and 1 excused\./,
  );
  await me.see(CARD, /Left out Total \(a computed total\), Notes \(remarks\)/);
  await me.see(CARD, /57 of 100 \(57%\) 57%/);
  expect(await scene.read('aria/Title[role="textbox"]', (e) => e.value)).toBe('Coastal Navigation');
  expect(await scene.read('aria/Code[role="textbox"]', (e) => e.value)).toBe('NAV 120');
  await scene.setDate('First day', date(-40));
  await scene.setDate('Last day', date(60));
  await me.press('Create course with 4 people and 5 items', 'main');
  await me.see('main', /Set up Coastal Navigation.*5 items have no due date/);
  await scene.page.waitForSelector('a[href$="rules?new"]');
  await me.pressOn('a[href$="rules?new"]');
  await me.press('Two items are missing', DIALOG);
  await me.see('main', /of 4 match/);
  await me.press('Rehearse', 'main');
  await me.see(DIALOG, /student|match|Nobody/);
  me.doneIn(12);
});

test('due dates are typed in one table, and a score that was wrong in the sheet is mended before it is taken', async () => {
  await scene.go(`${stage.base}/c/1/course/data`);
  await scene.see('[aria-label="Due dates"]', /5 items have no due date.*Essay 1/);
  await scene.upload(
    'input[type=file][aria-label="Choose a calendar"]',
    fileURLToPath(new URL('../examples/import/term.ics', import.meta.url)),
  );
  await scene.see(
    '[aria-label="Due dates"]',
    /term\.ics names no item that has no due date\. 2 other events in it name no item/,
  );
  await scene.upload(
    'input[type=file][aria-label="Choose files"]',
    ...[fileURLToPath(new URL('../examples/import/last-visits-ages.csv', import.meta.url))],
  );
  const VISITS = 'article[aria-label="last-visits-ages.csv"]';
  await scene.see(VISITS, /Last seen 2 dates\..*Ages count back from/);
  await scene.clickText('Take this file', VISITS);
  await scene.see('main', /last-visits-ages\.csv.*2 new/);
});
