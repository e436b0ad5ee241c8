/** Replay and hindsight: what other numbers would have changed, why a student heard on a day, how well a rule finds students. */
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

const DIALOG = '[role=dialog]';

test('7 days instead of 5: who would be lost, how many nudges fewer, and nothing is saved', async () => {
  await scene.go(`${stage.base}/c/1/replay?rule=quiet`);
  await scene.see('[aria-label=Totals]', /Nudges 25 .*20 of 42.*Held back by limits 48 .*Busiest day 4 on Oct 5/);
  await scene.clickText('not visited the course for 5 days', '[data-testid=what-if]');
  const field = await scene.page.waitForSelector(`${DIALOG} input`);
  await field!.click({ count: 3 });
  await field!.type('7');
  await scene.press('Escape');
  const said = await scene.see(
    '[aria-label="What would change"]',
    /nudges? fewer.*No longer reached: .*later on average/,
  );
  expect(said).toMatch(/No other student would be reached/);
  // Who is no longer reached shows what is lost.
  await scene.clickText('Imani Okoro', '[aria-label="Students of the replay"]');
  await scene.see(DIALOG, /As it is .*nudged.*As tried Nothing was decided about this student/);
  await scene.press('Escape');
  await scene.gone(DIALOG);
  await scene.clickText('Back to the rule’s own numbers', 'main');
  await scene.gone('[aria-label="What would change"]');
  await scene.see('[aria-label=Totals]', /Nudges 25 /);
});

test('by keys: why a student heard on that day, and not before', async () => {
  await scene.tabTo(/^Imani Okoro$/, 60);
  await scene.press('Enter');
  await scene.see(DIALOG, /Imani Okoro.*nudged.*Quiet for five days/);
  await scene.tabTo(/nudged/, 10);
  await scene.press('Enter');
  await scene.see(DIALOG, /Matches since .*last visit .* · \d+ days The message would have read: How are things going/);
  await scene.press('Escape');
  await scene.gone(DIALOG);
});

test('by keys: the date is scrubbed, and everything follows', async () => {
  await scene.page.focus('input[type=range]');
  for (let day = 0; day < 20; day++) await scene.page.keyboard.press('ArrowLeft');
  await scene.see('main', /Up to Oct 6 .*as it stood then/);
  const then = await scene.see('[aria-label=Totals]', /Nudges 1\d /);
  expect(then).not.toMatch(/Nudges 25/);
  await scene.page.keyboard.press('End');
  await scene.see('[aria-label=Totals]', /Nudges 25 /);
});

test('one number over its range, and the value that one picks goes into the composer, whose draft is replayed', async () => {
  await scene.see(
    '[aria-label^="With another number"]',
    /At 3: \d+ students reached, \d+ nudges\. At 14: 1 student reached/,
  );
  const options = await scene.page.$$eval('main select', (all) =>
    all.findIndex((s) => s.textContent.startsWith('3: ')),
  );
  await scene.page.evaluate((i) => document.querySelectorAll('main select')[i]!.setAttribute('id', 'value'), options);
  await scene.select('#value', '6');
  await scene.clickText('Open 6 in the composer', 'main');
  await scene.see('[data-testid=sentence]', /6 days/);
  await scene.clickText('Replay this draft', 'main');
  await scene.see('[aria-label="What would change"]', /nudges? fewer.*As it is As tried Nudges 25 /);
  await scene.see('[aria-label="What if"]', /Begin with/);
  await scene.select('[aria-label="What if"] select', 'saved');
  await scene.gone('[aria-label="What would change"]');
});

test('weight and message budget are tried with all rules together', async () => {
  await scene.clickText('Replay it together with the other rules that are on', 'main');
  await scene.see('[aria-label=Totals]', /Nudges \d\d+ really sent: 9\d/);
  await scene.clickLabelled('Message budget:');
  const count = await scene.page.waitForSelector('[role=dialog][aria-label="Message budget"] input');
  await count!.click({ count: 3 });
  await count!.type('3');
  await scene.press('Escape');
  const more = await scene.see(
    '[aria-label="What would change"]',
    /\d+ nudges more\. .*As it is As tried Nudges \d+ \d+ /,
  );
  const [, plus, was, then] = /(\d+) nudges more\..*Nudges (\d+) (\d+) /.exec(more)!.map(Number);
  expect(then! - was!).toBe(plus);
  await scene.clickText('Back to the rule’s own numbers', 'main');
});

test('all rules at once, and the chart as a table', async () => {
  await scene.select('main select', 'all');
  await scene.see('[aria-label=Totals]', /6 nudges|Waiting for you/);
  await scene.clickText('As a table', '[aria-label="Day by day"]');
  await scene.see('[aria-label="Day by day"]', /Day Nudged Waiting for you Held back 2026-09-/);
});

test('who it found: found, missed, found but did fine, how early, and at which number four of five are found', async () => {
  // Its code is on its way.
  const letGo = await scene.holdBack((path) => path.includes('/HindsightPage'));
  const pressed = scene.clickText('Who it found', 'main');
  await scene.see('[role=status].late', /^Opening the page …$/);
  await letGo();
  await pressed;
  await scene.see('[aria-label="Whom you worry about"]', /a course grade under/);
  await scene.select('main select', 'quiet');
  await scene.see(
    '[data-testid=shares]',
    /Share found: 55% \(6 of 11; with so few students, it could be 28% to 79%\) Of those found, you worry about: 32% \(6 of 19/,
  );
  await scene.see('[aria-label=Missed]', /Missed 5.*Sunniva Dahl/);
  await scene.clickText('Found, but did fine', '[aria-label=Students]');
  await scene.see('[aria-label="Found, but did fine"]', /Found on Days before .* \d+/);
  await scene.see('main', /the rule finds four of five or more, .* days early, with \d+ found who did fine/);
  // The list of worried-about students is edited in place.
  await scene.clickText('a course grade under', '[data-testid=filter-sentence]');
  const number = '[aria-label=Condition] input[inputmode], [aria-label=Condition] input';
  // The popover may be drawn anew while the answer comes.
  await scene.page.locator(number).click({ count: 3 });
  await (await scene.page.waitForSelector(number))!.type('50');
  await scene.press('Escape');
  await scene.see('[data-testid=filter-sentence]', /under 50%/);
  await scene.see('[data-testid=shares]', /Share found: \d+% \(\d+ of [1-9];/);
});

test('is the coming week too noisy: in two cases, by rule and by student', async () => {
  await scene.clickText('Ahead', 'main');
  const NOISE = '[aria-label="Is the coming week too noisy?"]';
  const said = await scene.see(
    NOISE,
    /If nobody does anything more: not too noisy\. \d+ nudges in the next seven days, against/,
  );
  expect(said).toMatch(/If everyone’s last 14 days repeat: not too noisy\./);
  await scene.see('[aria-label="Two cases"]', /not a forecast.*Nudges \d+ \d+ /);
  await scene.see('[aria-label="Rule by rule"]', /Quiet for five days 5 \d+ \d+/);
  await scene.clickText('Four weeks', 'main');
  await scene.see('[aria-label="Rule by rule"]', /Quiet for five days 2\d \d+ \d+/);
});

test('which text brings people back, and whether that is more than chance', async () => {
  await scene.clickText('What came of it', 'main');
  await scene.see('[aria-label=Results]', /Quiet for five days 22 13 of 14 could be 69% to 99% 4 of 14/);
  await scene.see('main', /times? without a first nudge.*message budget used up.*This is not an experiment/);
  await scene.clickText('By text', 'main');
  await scene.see('[aria-label="How soon students came back"]', /Your lab is waiting, text 1: .*text 2: /);
  const trials = await scene.see('[aria-label="Fair trials"]', /Your lab is waiting running interim look/);
  expect(trials).toMatch(/Text 1 and text 2: too few to tell\.( Text 1 may be [^.]*\.)? \d+ of 78 students counted/);
});

test('a fair trial is started where its wording is written, holds the texts still, and is ended', async () => {
  await scene.go(`${stage.base}/c/1/wording?wording=standing`);
  const TRIAL = '[aria-label="Fair trial"]';
  await scene.see(TRIAL, /20 points: needs \d+ students for each text.*28\.6% come back/);
  await scene.clickText('Start fair trial', TRIAL);
  await scene.see(TRIAL, /running interim look.*too few to tell.*The texts cannot change/);
  await scene.see(DIALOG, /A fair trial of these texts is running, so they cannot change/);
  await scene.page.waitForSelector(`${DIALOG} [inert] [aria-label=Text]`);
  await scene.clickText('End fair trial', TRIAL);
  await scene.see(TRIAL, /ended.*Start fair trial/);
  await scene.gone(`${DIALOG} [inert]`);
});
