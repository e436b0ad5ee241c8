/** A student's whole story: one time line, why rules match, notes, a pin, a pause, an extension, a correction. */
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

const LIST = '[aria-label=Entries]';
const show = (part: string) => scene.clickText(part, '[aria-label=Show]');

test('the time line has activity, work, grades, spells, messages and notes, and is filtered and zoomed by keys', async () => {
  await scene.go(`${stage.base}/c/1/students`);
  await scene.type('[aria-label="Search students"]', 'okoro');
  await scene.clickText('Imani Okoro', '[role=table]');
  await scene.see('h1', /Imani Okoro/);
  const all = await scene.see(LIST, /In the course|visits?/);
  expect(all).toMatch(/Turned in .* due .*%.* on .* class mean .*began to match.*Came back.*Nudged by “/s);
  await scene.see(LIST, /Your note Works nights at the harbor/);
  // Lanes are filters: with all but messages off, the list has messages alone.
  for (const lane of ['Activity', 'Work', 'Grades', 'Rules that match', 'Your notes']) {
    await scene.tabTo(new RegExp(`^${lane}$`), 200);
    await scene.press('Enter');
  }
  await scene.until(
    (list) => !/class mean|Turned in|Works nights/.test(document.querySelector(list)?.textContent ?? ''),
    LIST,
  );
  expect(await scene.text(LIST)).toMatch(/Replied|Nudged by/);
  await scene.clickText('1 week', '[aria-label=Zoom]');
  await scene.see('[role=status]', /Mon Oct 19|Tue Oct 20|Sun Oct 18/);
  await scene.clickText('Term', '[aria-label=Zoom]');
  await scene.clickText('Nudged by', LIST);
  await scene.see('[aria-label="The nudge"]', /Imani/);
});

test('grades stand beside the class, and each rule says condition by condition why it holds or not', async () => {
  await scene.go(`${stage.base}/c/1/students/n7`);
  await show('Work and grades');
  await scene.see('table', /Tide tables quiz .* 40\.0 , correct the score of Tide tables quiz class [\d.]+%/);
  await show('Rules');
  await scene.see(
    'main',
    /Drifting after the tide quiz does not match .*match all of these: ✕ have not visited .* ✓ scored 65% or less/,
  );
  await scene.see('main', /Practices, and still scores low matches Matches since .*Held back: a nudge is waiting/);
});

test('a note is written and kept, the pin goes, and nudges are paused and resumed', async () => {
  await show('Notes');
  await scene.type('#note', 'Brought a fix to office hours.');
  await scene.clickText('Save note');
  await scene.see('[aria-label=Notes]', /Brought a fix to office hours/);
  await scene.clickText('Pinned', 'main');
  await scene.page.waitForSelector('::-p-text(Pinned)', { hidden: true });
  await scene.clickText('Pause nudges …');
  await scene.see('[role=dialog]', /Until when\?.*Until the term ends on Dec 18/);
  await scene.clickText('Until I resume them', '[role=dialog] label');
  await scene.clickText('Pause nudges', '[role=dialog] form button');
  await scene.see('main', /Resume nudges.*Paused nudges\. Only/);
  await scene.clickText('Resume nudges');
  await scene.see('main', /Pause nudges/);
});

test('by keys alone, a verb and a name lead to a message, and an item’s verb to its extension', async () => {
  const { keyboard } = scene.page;
  const ask = async (words: string) => {
    await keyboard.down('Control');
    await keyboard.press('k');
    await keyboard.up('Control');
    await scene.page.waitForSelector('[cmdk-input]');
    await keyboard.type(words);
    await scene.see('[cmdk-list]', new RegExp(words, 'i'));
    await keyboard.press('Enter');
  };
  await ask('extend chart lab 4');
  await scene.see('[role=dialog]', /Chart lab 4/);
  await scene.press('Escape');
  await ask('write to sunniva');
  await scene.see('main', /Sunniva Dahl/);
  await scene.page.waitForFunction(() => location.pathname.endsWith('/write'));
  await scene.go(`${stage.base}/c/1/students/n7`);
});

test('a due date is extended for this student alone', async () => {
  await scene.clickText('Extend a due date');
  await scene.clickText('Chart lab 4', '[role=menu]');
  await scene.see('[role=dialog]', /Give an extension.*Chart lab 4: due Wed Nov 4/);
  await scene.clickText('Extend 1 item', '[role=dialog]');
  await scene.gone('[role=dialog]');
  await show('Work and grades');
  await scene.see('table', /Chart lab 4 Wed Nov 4/);
});
