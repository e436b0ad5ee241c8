/** Jobs that begin with students: finding them, reading what is known of them, writing to them. */
import { afterAll, beforeAll, beforeEach, expect, test } from '@jest/globals';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { openStage, setSendDelay, type BrowserStage } from '../harness.ts';
import type { Scene } from '../scene.ts';
import { AS_READ, COUNT, DIALOG, FILTER, RULE, SENTENCE, JobRun } from './story.ts';

let stage: BrowserStage;
let scene: Scene;
const files = mkdtempSync(join(tmpdir(), 'zest-bell-jobs-'));
function file(name: string, content: string): string {
  const path = join(files, name);
  writeFileSync(path, content);
  return path;
}

beforeAll(async () => {
  stage = await openStage();
  scene = await stage.openDemo({ place: '' });
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
  rmSync(files, { recursive: true, force: true });
});
// Every job begins where the day begins.
beforeEach(async () => {
  await scene.page.evaluate(() => localStorage.removeItem('zest-bell-lookout'));
  await scene.go(`${stage.base}/c/1/today`);
});

test('2 · “Who has between 40 and 75 percent and was late twice or more? I write to them, and keep it as a rule.”', async () => {
  const me = new JobRun(scene);
  await me.goTo('Students');
  await me.press('+ condition', FILTER);
  await me.pick('course grade');
  await me.choose('aria/how[role="combobox"]', 'between');
  await me.fill('[aria-label=Condition] input[inputmode]', '75');
  await me.keys('Escape');
  await me.see(FILTER, /have a course grade between 56% and 75%/);
  await me.press('+ condition', FILTER);
  await me.pick('late');
  await me.keys('Escape');
  await me.see(COUNT, /^[1-9]\d? of 42/);
  await me.press('Write to', 'main');
  await me.fill('[aria-label=Subject]', 'Two things before Friday');
  await scene.clickAt('[aria-label=Text]');
  await scene.page.keyboard.type('Some of your work came in late. Tell me what would help.');
  await me.see(AS_READ, /Some of your work came in late/);
  await me.press('Write even to those whose message budget is used up', 'main');
  await me.send();
  await me.see('body', /(is|are) on the way/);
  await me.goTo('Students');
  await me.press('Save as a rule', 'main');
  await me.see(SENTENCE, /course grade/);
  // It begins with the text that was just written.
  await me.see(RULE, /Some of your work came in late/);
  me.doneIn(12);
});

test('3 · “Which week was the class quiet? How has Imani been doing, and what is she missing?”', async () => {
  const me = new JobRun(scene);
  await me.goTo('Students');
  await me.press('Class overview', 'main');
  await me.press('As a table', '[aria-label="Active students, week by week"]');
  await me.see('[aria-label="Active students, week by week"]', /Week Days Active students .*1 Aug 31 to Sep 6 \d+/);
  await me.press('Table', 'main');
  await me.fill('[aria-label="Search students"]', 'Imani');
  await me.press('Imani Okoro', '[role=table]');
  await me.see('main', /Imani Okoro/);
  await me.press('Work and grades', 'main');
  await me.see('table', /▲ missing/);
  me.doneIn(9);
});

test('7 · “From the gradebook: who has not turned in the lab hears from me, with the right subject.”', async () => {
  const me = new JobRun(scene);
  await me.goTo('Students');
  await me.press('Gradebook', 'main');
  await me.pressOn('[role=columnheader][id$="3"]');
  await me.see(DIALOG, /.+/);
  await me.press('Write to', DIALOG);
  await scene.page.waitForSelector('[aria-label=Text]');
  expect(await scene.text('[aria-label=Subject]')).not.toBe('');
  await scene.clickAt('[aria-label=Text]');
  await scene.page.keyboard.type('I do not have this from you yet.');
  await me.see(AS_READ, /I do not have this from you yet/);
  me.doneIn(13);
});

test('8 · “My rules as a board: who matches one or the other, and for how long? I pin them.”', async () => {
  const me = new JobRun(scene);
  await me.goTo('Students');
  await me.press('Columns', 'main');
  await me.press('All that are on', '[aria-label=Columns]');
  await me.keys('Escape');
  await me.see('[role=table]', /Quiet for five days \d+ match/);
  await me.pressOn('[aria-label^="A chart lab is missing: "][aria-label$=" match"]');
  await me.see(FILTER, /Students who match “A chart lab is missing”/);
  const one = Number(/^(\d+)/.exec(await me.see(COUNT, /^\d+ of 42/))![1]);
  await me.pressOn('[aria-label^="Strong work, worth a message: "][aria-label$=" match"]');
  await me.see(COUNT, /^0 of 42/);
  await me.pressCalled('and: ask for');
  await me.see(FILTER, /“A chart lab is missing” or match “Strong work, worth a message”/);
  const either = Number(/^(\d+)/.exec(await me.see(COUNT, /^[1-9]\d* of 42/))![1]);
  expect(either).toBeGreaterThan(one);
  await me.press('Pin', '[data-testid=chosen] ~ div');
  await me.see('body', new RegExp(`${either} students pinned`));
  me.doneIn(8);
});

test('12 · “A mail merge from my sheet, with the guide as a PDF.”', async () => {
  const me = new JobRun(scene);
  await me.goTo('Wording');
  await me.press('Mail merge from a sheet', 'main');
  await scene.upload(
    'input[aria-label="Choose a sheet"]',
    file('boats.csv', 'Student ID,Boat\nn1,Tern\nn2,Gull\nn3,\n'),
  );
  await me.see('main', /3 of 3 rows chosen/);
  await me.fill('[aria-label=Subject]', 'Your boat');
  await scene.clickAt('[aria-label=Text]');
  await scene.page.keyboard.type('You sail ');
  await me.press('+ personal value', 'main');
  await me.pick('Boat');
  await scene.backInText();
  await scene.upload('input[aria-label="Attached files"]', file('guide.pdf', '%PDF-1.4\n%%EOF\n'));
  await me.see('main', /guide\.pdf/);
  // A person's field is empty is named, and left out.
  await me.see(AS_READ, /1 message would have an empty field and is left out.*: no Boat/);
  await me.press('Write even to those whose message budget is used up', 'main');
  await me.send(2);
  await me.see('body', /2 messages are on the way/);
  me.doneIn(11);
});

test('13 · “Feedback from four columns; one name in my sheet is misspelled, and found by its address.”', async () => {
  const me = new JobRun(scene);
  await me.goTo('Wording');
  await me.press('Mail merge from a sheet', 'main');
  const rows = 'Name,Email,Plot,Log\nImani Okoro,,clean,late\nWren Abott,wren.abbot@saltmarsh.example,smudged,full\n';
  await scene.upload('input[aria-label="Choose a sheet"]', file('feedback.csv', rows));
  await me.see('main', /2 of 2 rows chosen/);
  await me.see('[aria-label="Rows"]', /Wren Abbot/);
  await me.fill('[aria-label=Subject]', 'Your feedback');
  await scene.clickAt('[aria-label=Text]');
  await scene.page.keyboard.type('Your plot: ');
  await me.press('+ personal value', 'main');
  await me.pick('Plot');
  await scene.backInText();
  await me.see(AS_READ, /Your plot: clean/);
  me.doneIn(12);
});

test('what is sent by hand can be taken back for ten seconds, and its text is where it was typed', async () => {
  await setSendDelay(scene, 10);
  const me = new JobRun(scene);
  await scene.go(`${stage.base}/c/1/write?student=n21`);
  await me.fill('[aria-label=Subject]', 'Sent too soon');
  await scene.clickAt('[aria-label=Text]');
  await scene.page.keyboard.type('This was not finished.');
  await me.press('Write even to those whose message budget is used up', 'main');
  await me.send(1);
  // It waits on every page.
  await me.see('body', /Sending 1/);
  await me.goTo('Today');
  await me.press('Undo');
  await me.see('body', /Taken back\. Nothing was sent/);
  await me.see('main', /Sent too soon.*This was not finished|This was not finished/);
  await me.goTo('Send log');
  await me.see('main', /All nudges/);
  expect(await scene.text('main')).not.toContain('Sent too soon');
  await setSendDelay(scene, 0);
  me.doneIn(5);
});

test('a text that looks unfinished is asked about before it leaves, with the words marked', async () => {
  const me = new JobRun(scene);
  await scene.go(`${stage.base}/c/1/write?student=n21`);
  // What was ticked came back with the text that was taken back.
  await me.fill('[aria-label=Subject]', 'Your score');
  await scene.clickAt('[aria-label=Text]');
  await scene.page.keyboard.type('I saw your score on [quiz name here] and');
  await me.see(
    AS_READ,
    /This looks unfinished\. Students would read: ?\[quiz name here\] ?, on \[quiz name here\] and …/,
  );
  await scene.page.waitForSelector(`${AS_READ} button:disabled::-p-text(Send 1 message)`);
  await me.press('Send it as it is', AS_READ);
  await scene.page.waitForSelector(`${AS_READ} button:enabled::-p-text(Send 1 message)`);
  // What is typed after the yes is asked about again.
  await scene.clickAt('[aria-label=Text]');
  await scene.page.keyboard.type(' TODO');
  await me.see(AS_READ, /This looks unfinished.*TODO/);
  await scene.page.waitForSelector(`${AS_READ} button:disabled::-p-text(Send 1 message)`);
});

test('from a student’s name to a message it is four keys at most, and one Tab passes all chips of the text', async () => {
  await scene.go(`${stage.base}/c/1/students`);
  const names = await scene.page.$$eval('[role=table] a[href*="/students/"]', (links) =>
    links.slice(0, 8).map((a) => a.getAttribute('href')!),
  );
  expect(names).toHaveLength(8);
  for (const href of names) {
    await scene.go(`${stage.base}/c/1/students`);
    const link = (await scene.page.waitForSelector(`[role=table] a[href="${href}"]`))!;
    await link.focus();
    await scene.press('Enter');
    await scene.see('main', /Write a message/);
    await scene.tabTo(/^Write a message$/, 2);
    await scene.press('Enter');
    await scene.page.waitForSelector('[aria-label=Text][role=textbox]');
  }
  await scene.clickAt('[aria-label=Text]');
  expect(await scene.page.$$eval('[aria-label=Text] button', (chips) => chips.length)).toBeGreaterThan(0);
  await scene.press('Tab');
  expect(await scene.focused()).not.toMatch(/^(Field|Link)/);
  // The arrow keys come to a chip; Enter opens it, and Escape goes back to the text.
  await scene.clickAt('[aria-label=Text]');
  const isChosen = () => scene.page.$('[aria-label=Text] .ProseMirror-selectednode');
  for (let i = 0; i < 10 && !(await isChosen()); i++) {
    await scene.press('ArrowRight');
    // The editor hears of the caret's new place with the next frame.
    await scene.page.evaluate(() => new Promise((done) => requestAnimationFrame(done)));
  }
  await scene.press('Enter');
  await scene.see('[aria-label="The field"]', /If the field is empty, write/);
  await scene.press('Escape');
  await scene.page.waitForFunction(() => document.activeElement?.getAttribute('aria-label') === 'Text');
});

test('a field of a sheet is a chip again when the text comes back, and what was ticked too', async () => {
  await scene.go(`${stage.base}/c/1/merge`);
  await scene.upload(
    'input[aria-label="Choose a sheet"]',
    file('topics.csv', 'Student ID,Topic\nn1,Knots\nn2,Tides\n'),
  );
  await scene.see('main', /2 of 2 rows chosen/);
  await scene.clickAt('[aria-label=Text]');
  await scene.page.keyboard.type('Your topic: ');
  await scene.clickText('+ personal value', 'main');
  await scene.pick('Topic');
  await scene.see(AS_READ, /Your topic: Knots/);
  await scene.page.reload();
  const text = await scene.see('[aria-label=Text]', /Your topic: .*Topic/);
  expect(text).not.toContain('column');
});

test('who came back after a message: of the students shown, and of everybody since a day', async () => {
  await scene.go(`${stage.base}/c/1/students`);
  const me = new JobRun(scene);
  await me.press('Who came back', '[aria-label="What to do with them"]');
  await me.see('h1', /Who came back since .*Oct 12/);
  await me.see('main', /\d+ of the \d+ students who got a message came back/);
  await me.press('Show everybody', 'main');
  await me.see('main', /Came back.*Replied/);
  me.doneIn(2);
  await scene.go(`${stage.base}/c/1/log`);
  await scene.clickText('Who came back', 'main');
  await scene.see('h1', /Who came back since/);
});
