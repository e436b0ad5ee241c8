/** Messy sheets in a browser: each can become a course, and the worst one leads to a rehearsed rule. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
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
const messy = (name: string): string => fileURLToPath(new URL(`../examples/import/messy/${name}`, import.meta.url));
const CHOOSER = 'input[type=file][aria-label="Choose your sheet"]';
const card = (name: string) => `article[aria-label="${name}"]`;
const DIALOG = '[role=dialog]';
const HEADERS = '[role=radiogroup][aria-label="Which row is the header"]';

/** Whether the page offers to create the course. */
const isOffered = () => scene.page.$eval('button[type=submit]', (b) => !b.disabled);

test('the worst of them becomes a course and a rehearsed rule in twelve presses', async () => {
  const me = new JobRun(scene);
  await scene.type('input[name=name]', 'R. Ostrander');
  await scene.type('input[name=email]', 'ostrander@saltmarsh.example');
  await scene.type('input[name=password]', 'eight bells and all is well');
  await me.press('Create account');
  await me.press('Create your first course');
  await scene.upload(CHOOSER, messy('everything-at-once.xlsx'));
  const WORST = card('everything-at-once.xlsx');
  await me.see(WORST, /Header: row 5, and row 4 names the groups of its items/);
  await me.see(WORST, /3 people are new\. 5 rows name nobody and are left out\./);
  await me.see(WORST, /in the groups Essays and Quizzes.*Nothing says out of how many points Map quiz is/);
  await me.see(WORST, /Quizzes total \(a computed total\), Total \(a computed total\)/);
  // One number is asked for, and the percents follow.
  await scene.type('aria/Map quiz: out of how many points?[role="textbox"]', '10');
  await scene.press('Enter');
  await me.see(WORST, /7 of 10 \(70%\)/);
  await scene.setDate('First day', date(-40));
  await scene.setDate('Last day', date(60));
  await me.press('Create course with 3 people and 5 items', 'main');
  await me.see('main', /4 items have no due date/);
  // What the titles and their order say, looked over in one table.
  await me.see(
    '[aria-label="Due dates"]',
    /Essay 1.*from its number in the series.*Map quiz.*from the order of the items/,
  );
  await me.press('Fill in 4 proposed dates', '[aria-label="Due dates"]');
  await me.press('Save 4 due dates', '[aria-label="Due dates"]');
  await scene.page.waitForSelector('a[href$="rules?new"]');
  await me.pressOn('a[href$="rules?new"]');
  await me.press('Two items are missing', DIALOG);
  await me.see('main', /of 3 match/);
  await me.press('Rehearse', 'main');
  await me.see(DIALOG, /student|match|Nobody/);
  me.doneIn(12);
  await scene.press('Escape');
});

test('any of the first rows is the header by one press, and a doubt is asked before a course is offered', async () => {
  await scene.go(`${stage.base}/new`);
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-own-'));
  const written = (name: string, text: string): string => {
    writeFileSync(join(folder, name), text);
    return join(folder, name);
  };
  await scene.upload(CHOOSER, written('unnamed.csv', 'Name,Quiz 1 (10),,\nAbel Thorne,7,8,9\n'));
  await scene.see(card('unnamed.csv'), /Is row 1 the header\? 2 of 4 columns have no name in it\./);
  expect(await isOffered()).toBe(false);
  await scene.clickText('Row 1 is right', card('unnamed.csv'));
  await scene.see('form', /Create course with 1 person and 1 item/);
  await scene.page.waitForSelector('button[type=submit]:not([disabled])');
  await scene.upload(
    CHOOSER,
    written('own-words.csv', 'Rivers,Winter\nPupil,Reach them,Quiz 1,,\nAbel Thorne,abel@river.example,7,8,9\n'),
  );
  const OWN = card('own-words.csv');
  await scene.see(OWN, /Nothing in this file says who or what its rows are about/);
  await scene.see(HEADERS, /row 2.*Pupil.*Reach them/);
  expect(await isOffered()).toBe(false);
  await scene.clickLabelled('Row 2: Pupil');
  await scene.see(OWN, /Header: row 2/);
  // Its words are nobody's but the sheet's: one says which column has the names.
  await scene.select('aria/How to read Pupil[role="combobox"]', 'Whole name');
  await scene.see('form', /Create course with 1 person and 2 items/);
  await scene.page.waitForSelector('button[type=submit]:not([disabled])');
  rmSync(folder, { recursive: true });
});

test.each([
  ['groups-merged.xlsx', /Header: row 2, and row 1 names.*4 items are new: 2 assignments and 2 quizzes/],
  ['attendance-dates.xlsx', /3 items are new: 3 sessions.*5 marks and 1 excused/],
  ['last-seen-ages.csv', /A list like this says when each student was last seen, not how often they visit/],
  ['second-table.xlsx', /2 people are new\. 3 rows name nobody and are left out\./],
])('%s is read as it is on the command line', async (name, says) => {
  await scene.go(`${stage.base}/new`);
  await scene.upload(CHOOSER, messy(name));
  await scene.see(card(name), says);
});
