/** From an outcome to a sign, to a rule that is rehearsed; and whether everybody is treated alike. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

const DIALOG = '[role=dialog]';

let stage: BrowserStage;
let scene: Scene;
beforeAll(async () => {
  stage = await openStage();
  scene = await stage.openDemo({ place: '/c/1/replay/early-signs' });
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
});
const SIGNS = '[aria-label="Early signs"]';

test('what told early is listed as sentences, the best first, with honest counts', async () => {
  const told = await scene.see(SIGNS, /11 of 41 students ended up as you feared/);
  expect(told).toMatch(
    /Have 1 score or more under 60% Part of the outcome itself: made of the same grades 9 of 11 found/,
  );
  expect(told).toMatch(
    /9 of 11 found could be 52% to 95% 1 of 30 found, but did fine could be 1% to 17% clear from week 3 Students Open as a draft/,
  );
  await scene.see(
    '[aria-label="How to read this"]',
    /One class is not the next.*A sign is not a cause.*Nudges that were sent/,
  );
  await scene.see('[aria-label="Two signs together"]', /Two signs together/);
});

test('another week is read as the slider moves, by the keyboard as well', async () => {
  await scene.page.focus('input[type=range]');
  await scene.press('ArrowRight');
  await scene.see('main', /Read after week 5, at the start of Mon Oct 5/);
  await scene.see(SIGNS, /found/);
  await scene.press('ArrowLeft');
  await scene.see('main', /Read after week 4/);
  await scene.see(SIGNS, /Have 1 score or more under 60%/);
});

test('a sign shows its students with what it goes by, and other courses are counted with them', async () => {
  await scene.clickLabelled('Students: have 1 score or more under 60%');
  await scene.see(SIGNS, /Found 9 .* Missed 2 .* Found, but did fine 1/);
  await scene.clickText('Count students of other courses with these', 'main');
  await scene.clickText('MET 115 Weather for Mariners', 'main');
  await scene.see(SIGNS, /of (5|6|7)\d students ended up as you feared/);
  await scene.clickText('MET 115 Weather for Mariners', 'main');
  await scene.see(SIGNS, /11 of 41 students/);
});

test('it becomes a draft with words that fit it, which is rehearsed', async () => {
  await scene.clickLabelled('Open as a draft: have a course grade of');
  await scene.see('main', /course grade of 66\.5% or less/);
  await scene.see('main', /A plan for the coming weeks/);
  await scene.see(
    '[data-testid=threshold-hint]',
    /of the 11 who have a course grade under 60% now, this would have found at .* \d+ of them and \d+ who did fine/,
  );
  await scene.clickText('Rehearse', 'main');
  await scene.see(DIALOG, /would be nudged/);
  await scene.press('Escape');
});

test('another outcome is kept for the course, and Who it found begins with it', async () => {
  await scene.go(`${stage.base}/c/1/replay/early-signs`);
  await scene.clickText('a course grade under 60%', '[data-testid=filter-sentence]');
  const field = await scene.page.waitForSelector(
    '[data-radix-popper-content-wrapper] input[inputmode], [data-radix-popper-content-wrapper] input',
  );
  await field!.click({ count: 3 });
  await field!.type('70');
  await scene.press('Escape');
  await scene.clickText('Keep for this course', 'main');
  await scene.see('body', /Kept for this course/);
  await scene.go(`${stage.base}/c/1/replay/who-it-found`);
  await scene.see('[data-testid=filter-sentence]', /under 70%/);
});

test('Who it found, within each section, says where two differ, and who was sent what', async () => {
  await scene.select('select:has(option[value*="section"])', 'Section');
  const told = await scene.see(
    '[aria-label="Treated alike"]',
    /Found, of those you worry about.*Who was sent what so far/,
  );
  expect(told).toMatch(/\d+% \(\d+ of \d+; with so few students, it could be \d+% to \d+%\)/);
});
