/** The composer in full: conditions moved, grouped, copied and removed; rhythm, limits, steps and recipients; undo. */
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
let scene: Scene;
beforeAll(async () => {
  stage = await openStage();
  scene = await stage.openDemo();
  await scene.see('main', /Quiet for five days/);
});
afterAll(() => stage.stop());

const SENTENCE = '[data-testid=sentence]';
const RULE = '[aria-label="The rule"]';
const REACH = '[data-testid=reach]';
const DIALOG = '[role=dialog]';

beforeEach(async () => {
  // Always from the rule as it is saved.
  await scene.page.evaluate(() => localStorage.clear());
  await scene.go(`${stage.base}/c/1/rules/drift`);
  await scene.see(SENTENCE, /not visited the course for 3 days and scored 65% or less on Tide tables quiz/);
});

async function add(search: string): Promise<void> {
  await scene.clickText('+ condition', SENTENCE);
  await scene.pick(search);
  // The added condition opens in place, to be filled in.
  await scene.page.waitForSelector('[role=dialog][aria-label=Condition]');
  await scene.press('Escape');
}

const altPress = async (key: 'ArrowUp' | 'ArrowDown' | 'ArrowLeft' | 'ArrowRight') => {
  await scene.page.keyboard.down('Alt');
  await scene.press(key);
  await scene.page.keyboard.up('Alt');
};

/** Waits until the focus is on the grip of a condition, by its path. */
const holdsFocus = (grip: string) =>
  scene.until((path) => document.activeElement?.getAttribute('data-grip') === path, grip);

/** Takes a thing up by its middle and puts it down on another one, with stops on the way as a hand makes them. */
async function drag(from: string, to: string): Promise<void> {
  const { page } = scene;
  const middle = async (selector: string) => {
    const box = (await (await page.waitForSelector(selector))!.boundingBox())!;
    return { x: box.x + Math.min(box.width / 2, 160), y: box.y + box.height / 2 };
  };
  const start = await middle(from);
  await page.mouse.move(start.x, start.y);
  await page.mouse.down();
  await page.mouse.move(start.x + 8, start.y + 8, { steps: 4 });
  // The gaps into which it can be dropped open once it is taken up.
  await scene.settled(to);
  const end = await middle(to);
  await page.mouse.move(end.x, end.y, { steps: 8 });
  await scene.settled(to);
  await page.mouse.up();
}

describe('conditions', () => {
  test('are found by what one has in mind, and the sentence still reads', async () => {
    await add('under the mean');
    await scene.see(SENTENCE, /or less on Tide tables quiz and are 10 points or more below the class mean/);
  });

  test('are grouped, moved, copied and removed by keys, and all of it undone and redone', async () => {
    await add('posts');
    await scene.see(SENTENCE, /not posted/i);
    await (await scene.page.waitForSelector('[data-grip="2"]'))!.focus();
    await altPress('ArrowRight');
    await scene.see(SENTENCE, /and any of these: scored 65% or less on Tide tables quiz \+? ?.*or /);
    // The focus stays on what was moved, wherever it is now.
    await holdsFocus('1.1');
    await altPress('ArrowUp');
    await holdsFocus('1.0');
    await altPress('ArrowLeft');
    await holdsFocus('2');
    await scene.page.keyboard.down('Control');
    await scene.press('d');
    await scene.page.keyboard.up('Control');
    await scene.page.waitForSelector('[data-grip="3"]');
    await scene.see(SENTENCE, /Adds nothing to/);
    await scene.press('Delete');
    await scene.gone('[data-grip="3"]');
    for (let i = 0; i < 6; i++) await scene.clickLabelled('Undo');
    await scene.see(SENTENCE, /^(?!.*posts).*not visited the course for 3 days and scored 65%/);
    for (let i = 0; i < 2; i++) await scene.clickLabelled('Redo');
    await scene.see(SENTENCE, /any of these/);
  });

  test('are moved and grouped by drag', async () => {
    await drag('[data-grip="1"]', '[data-gap=":0"]');
    await scene.see(SENTENCE, /who scored 65% or less on Tide tables quiz and have not visited the course for 3 days/);
    await add('missing');
    await drag('[data-grip="2"]', '[aria-label^="Condition: not visited the course"]');
    await scene.see(SENTENCE, /and any of these: have not visited the course for 3 days or have something missing/);
  });

  test('from the menu of the grip as well', async () => {
    await scene.clickAt('[data-grip="1"]');
    await scene.clickText('Move up', '[role=menu]');
    await scene.see(SENTENCE, /who scored 65% or less on Tide tables quiz and have not visited/);
  });

  test('that contradict each other, and that nobody meets, say so beside them', async () => {
    await add('days since the last visit');
    await scene.see(SENTENCE, /for 3 days ▲ Adds nothing to “not visited the course for 5 days”/);
    await scene.clickAt('[data-grip="2"] ~ div [aria-label^="Condition"]');
    await scene.select('aria/how[role="combobox"]', '<');
    const field = await scene.page.waitForSelector('aria/compared with[role="textbox"]');
    await field!.click({ count: 3 });
    await field!.type('2');
    await scene.press('Escape');
    await scene.see(SENTENCE, /Cannot be true together with “not visited the course for 3 days”/);
    await scene.see(REACH, /^0 of 42 match now.*no student has matched at any time this term/);
  });

  test('measure a result in points, by a mark of the course, or beside the class mean', async () => {
    await scene.clickText('65% or less on Tide tables quiz', SENTENCE);
    await scene.clickText('Use the mastery score');
    await scene.see(SENTENCE, /the mastery score \(80%\) or less on Tide tables quiz/);
    await scene.clickText('Use a number');
    await scene.select('aria/measured[role="combobox"]', 'points');
    await scene.see(SENTENCE, /16 points or less on Tide tables quiz/);
    await scene.select('aria/measured[role="combobox"]', 'gradeVsClass');
    await scene.see(SENTENCE, /below the class mean/);
  });
});

describe('the rest of the sentence', () => {
  test('a rhythm by hours, on one date, and by a rule of RFC 5545, each with its next rounds', async () => {
    await scene.clickText('every Tuesday and Thursday', SENTENCE);
    await scene.select('aria/Run[role="combobox"]', 'hour');
    await scene.see(SENTENCE, /Look every 3 hours from 10:15 AM/);
    await scene.see('[data-testid=next-rounds]', /Mon Oct 26, 10:15 AM Mon Oct 26, 1:15 PM/);
    await scene.select('aria/Run[role="combobox"]', 'once');
    await scene.see(SENTENCE, /Look once, at 10:15 AM, on Sep 15/);
    await scene.see(RULE, /has no checks left/);
    await scene.select('aria/Run[role="combobox"]', 'expert');
    const field = await scene.page.waitForSelector('aria/Recurrence rule[role="textbox"]');
    await field!.click({ count: 3 });
    await field!.type('FREQ=MONTHLY;COUNT=3');
    await scene.see('body', /COUNT is not used here: set the first and last date instead/);
    await field!.click({ count: 3 });
    await field!.type('FREQ=MONTHLY;BYDAY=1MO');
    await scene.press('Escape');
    await scene.see(SENTENCE, /every month on the first Monday at/);
  });

  test('the notice span, and what threshold and rhythm do to each other', async () => {
    await scene.see('[data-testid=notice]', /A student is nudged between day 3 and day 5, or by day 8 over a weekend/);
    await scene.clickText('every Tuesday and Thursday', SENTENCE);
    await scene.select('aria/Run[role="combobox"]', 'weekdays');
    await scene.press('Escape');
    await scene.see('[data-testid=notice]', /A student is nudged on day 3, or by day 6 over a weekend/);
    await scene.clickText('once each time', SENTENCE);
    await scene.clickText('at every check', DIALOG);
    await scene.press('Escape');
    await scene.see('[data-testid=advice]', /the same student is nudged on days 3, 4, 5 and so on/);
    await scene.see('[data-testid=example]', /is nudged \d+ times/);
  });

  test('the run is dragged on the term in little', async () => {
    await scene.clickText('Sep 15 to Dec 11', SENTENCE);
    const end = await scene.page.waitForSelector('[role=slider][aria-label="Last day of the run"]');
    await end!.focus();
    await scene.press('ArrowDown');
    await scene.see(SENTENCE, /Sep 15 to Dec 4/);
  });

  test('a later step that waits, to the student and their advisor; limits, recipients and delivery where they stand', async () => {
    await scene.clickText('+ later step', RULE);
    const second = '[aria-label="Step 2"]';
    await scene.see(second, /\+5 days Send/);
    await scene.clickLabelled('Step 2 comes 5 days');
    const field = await scene.page.waitForSelector('aria/days[role="textbox"]');
    await field!.click({ count: 3 });
    await field!.type('9');
    await scene.see(DIALOG, /9 days after the step before/);
    await scene.press('Escape');
    await scene.clickText('the student', second);
    await scene.clickText('their advisor', DIALOG);
    await scene.press('Escape');
    await scene.see(second, /to the student and their advisor/);
    await scene.clickText('sent automatically', second);
    await scene.clickText('waits for you', DIALOG);
    await scene.see(second, /\+9 days Hold .* waits for you/);
    await scene.see(RULE, /An example\..*is nudged/);
  });

  test('people are left out by name', async () => {
    await scene.clickText('students', SENTENCE);
    await scene.select('aria/Leave out by name[role="combobox"]', 'Lena Halvorsen');
    await scene.press('Escape');
    await scene.see(SENTENCE, /for students, except Lena Halvorsen/);
    await scene.see(REACH, /^1 of 41/);
  });
});

describe('a rule that is on', () => {
  test('keeps ringing as it was until its changes are confirmed, with what they change in the next round', async () => {
    await scene.clickText('not visited the course for 3 days', SENTENCE);
    const field = await scene.page.waitForSelector('aria/compared with[role="textbox"]');
    await field!.click({ count: 3 });
    await field!.type('30');
    await scene.press('Escape');
    await scene.see(RULE, /This is a draft until you confirm it/);
    await scene.clickText('Confirm changes', RULE);
    await scene.see(DIALOG, /Until you confirm, the rule runs as it was/);
    await scene.see(DIALOG, /Who have not visited the course for 3 days.* have not visited the course for 30 days/);
    await scene.see(DIALOG, /In the next check, Tue Oct 27, 10:15 AM.*Lena Halvorsen no longer matches/);
    await scene.clickText('Confirm changes', DIALOG);
    await scene.see('body', /Saved “Drifting after the tide quiz”/);
    await scene.see(RULE, /This is the rule that runs/);

    // Its versions, compared and brought back.
    await scene.clickLabelled('More about this rule');
    await scene.clickText('Past checks and versions', '[role=menu]');
    await scene.clickText('Versions', 'main');
    await scene.see('[aria-label="Versions"]', /Version 2 · as it is now .* by Dr\. .*Ostrander · Who/);
    await scene.clickText('Version 1', '[aria-label="Versions"]');
    await scene.clickText('Restore this version', 'main');
    await scene.see(SENTENCE, /not visited the course for 3 days/);
    await scene.see(RULE, /This is a draft until you confirm it/);
    await scene.clickText('Confirm changes', RULE);
    await scene.see(DIALOG, /Lena Halvorsen matches now/);
    await scene.clickText('Confirm changes', DIALOG);
    await scene.see(RULE, /This is the rule that runs/);
  });

  test('is copied with all its numbers changed at once', async () => {
    await scene.clickLabelled('More about this rule');
    await scene.clickText('Copy and change numbers', '[role=menu]');
    await scene.see(DIALOG, /All numbers in this rule/);
    const fields = await scene.page.$$('[role=dialog] input');
    for (const [i, n] of ['10', '50'].entries()) {
      await fields[i]!.click({ count: 3 });
      await fields[i]!.type(n);
    }
    await scene.clickText('Change 2 numbers', DIALOG);
    await scene.see(SENTENCE, /not visited the course for 10 days and scored 50% or less/);
    await scene.see(RULE, /Drifting after the tide quiz \(copy\)|draft/);
  });
});

test('nothing was complained of in the console', () => expect(scene.complaints).toEqual([]));
