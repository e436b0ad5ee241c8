/** Jobs that are said instead of pressed together: at most six presses each, what is typed counting as one. */
import { afterAll, beforeAll, beforeEach, expect, test } from '@jest/globals';
import { openStage, type BrowserStage } from '../harness.ts';
import type { Scene } from '../scene.ts';
import { DIALOG, FILTER, JobRun, REACH, RULE, SENTENCE } from './story.ts';

const FIELD = '[data-testid=saying] input';
const UNDERSTOOD = '[data-testid=understood]';
const MOST = 6;

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
beforeEach(() => scene.go(`${stage.base}/c/1/rules`));

/** Types a rule in the dialog of a new rule, sees whom it finds, and takes it. */
async function sayRule(me: JobRun, text: string, understood: RegExp): Promise<void> {
  await me.press('New rule', 'main');
  await me.fill(FIELD, text);
  await me.see(UNDERSTOOD, understood);
  await me.see(UNDERSTOOD, /\d+ of 42 match(es)? now/);
  await me.keys('Enter');
  await me.see(RULE, /Turn on/);
}

test.each<[string, string, RegExp]>([
  [
    'away five days, every weekday morning',
    'away 5 days, weekdays at 9:30, once each time',
    /every weekday at 9:30 AM.*not visited the course for 5 days.*once each time/,
  ],
  [
    'low on a quiz and away, with a copy',
    'away 3 days who scored at most half on Currents quiz, weekdays at 10, twice this term, copy me',
    /not visited the course for 3 days and scored 50% or less on Currents quiz.*at most 2 times this term, and copy the instructor/,
  ],
  [
    'never opened the syllabus, Sundays and Tuesdays',
    'never opened the syllabus, Sundays and Tuesdays at 6 pm until Nov 10',
    /every Tuesday and Sunday at 6 PM.*to Nov 10.*never opened Syllabus/,
  ],
  [
    'missing labs, until they reply',
    'missing 2 labs or more, Fridays at noon, at most once a week, until they reply',
    /every Friday at 12 PM.*2 or more missing items in Labs.*at most every 7 days and until they reply/,
  ],
])('%s', async (_, text, sentence) => {
  const me = new JobRun(scene);
  await sayRule(me, text, sentence);
  await me.see(REACH, /match(es)? now/);
  me.doneIn(MOST);
});

test('a word that is misspelled is mended by one press', async () => {
  const me = new JobRun(scene);
  await me.press('New rule', 'main');
  await me.fill(FIELD, 'never opened the syllabos, daily at 9 am');
  await me.see(DIALOG, /“syllabos” is not known here/);
  await me.press('Syllabus', '[data-testid=saying]');
  await me.see(UNDERSTOOD, /never opened Syllabus/);
  await me.press('Create draft', DIALOG);
  await me.see(SENTENCE, /never opened Syllabus/);
  me.doneIn(MOST);
});

test('without typing: a sentence that is offered', async () => {
  const me = new JobRun(scene);
  await me.press('New rule', 'main');
  await me.press('away 5 days, weekdays at 9:30', DIALOG);
  await me.see(UNDERSTOOD, /not visited the course for 5 days/);
  await me.press('Create draft', DIALOG);
  await me.see(SENTENCE, /not visited the course for 5 days/);
  me.doneIn(MOST);
});

test('students by a whole condition, from Ctrl K and in the table', async () => {
  const me = new JobRun(scene);
  await scene.page.keyboard.down('Control');
  await me.keys('k');
  await scene.page.keyboard.up('Control');
  await me.fill('[cmdk-input]', 'away 5 days');
  await me.see('[cmdk-list]', /Students who have not visited the course for 5 days \d+ of 42 match(es)? now/);
  await me.keys('Enter');
  await me.see(FILTER, /not visited the course for 5 days/);
  await me.press('+ condition', 'main');
  await me.fill('[cmdk-input]', 'missing 2 labs or more');
  await me.see('[cmdk-list]', /Use: students who have 2 or more missing items in Labs \d+ of 42 match(es)? now/);
  await me.keys('Enter');
  await me.see(FILTER, /5 days.* and .*2 or more missing items in Labs/);
  me.doneIn(MOST);
});

test('when it runs and how often, typed where they are changed', async () => {
  await scene.go(`${stage.base}/c/1/rules/quiet`);
  const me = new JobRun(scene);
  await me.press('every weekday at 9:30 AM', SENTENCE);
  await me.fill(FIELD, 'Sundays and Tuesdays at 6 pm until Nov 10');
  await me.keys('Enter');
  await me.see(SENTENCE, /every Tuesday and Sunday at 6 PM, Sep 8 to Nov 10/);
  me.doneIn(MOST);
});

test('those who have not opened a page, from the class overview', async () => {
  await scene.go(`${stage.base}/c/1/students/class`);
  const me = new JobRun(scene);
  await me.see('#done', /Syllabus 30 of 42 opened/);
  await me.press('Write to the 12 who have not', '#done');
  await me.see('main', /and 9 more students/);
  me.doneIn(MOST);
});

test('by the order in which a screen reader meets it, and on a phone', async () => {
  await scene.page.setViewport({ width: 390, height: 844 });
  const me = new JobRun(scene);
  await me.press('New rule', 'main');
  await scene.tabTo(/Say whom, when and how often/);
  await scene.page.keyboard.type('nobody knows this');
  await me.see('[data-testid=saying] [role=status]', /problem.*is not known here/);
  await me.fill(FIELD, 'away 5 days, daily at 9 am');
  await me.see('[data-testid=saying] [role=status]', /not visited the course for 5 days.*match(es)? now/);
  await scene.tabTo(/^Create draft$/);
  await me.keys('Enter');
  await me.see(SENTENCE, /not visited the course for 5 days/);
  expect(await scene.page.evaluate(() => document.documentElement.scrollWidth <= window.innerWidth)).toBe(true);
  me.doneIn(MOST);
});
