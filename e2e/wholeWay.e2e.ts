/**
 * The whole way of an instructor: open the demo, read a rule, change it, rehearse it, turn it on, ring it, read the mail as
 * a student, and find every send in the log. Once with the mouse, and once with the keyboard alone.
 */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { openStage, setSendDelay, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
beforeEach(async () => {
  stage = await openStage();
});
afterEach(() => stage.stop());

const SENTENCE = '[data-testid=sentence]';
const REACH = '[data-testid=reach]';
const DIALOG = '[role=dialog]';
const numberIn = (text: string, pattern: RegExp) => Number(pattern.exec(text)?.[1] ?? NaN);

/** Who would be nudged, read off the live reach. */
async function heard(scene: Scene): Promise<number> {
  return numberIn(await scene.text(`${REACH}[aria-busy=false]`), /(\d+) would be nudged/);
}

test('with the mouse', async () => {
  const scene = await stage.openDemo();
  const { page } = scene;
  await scene.see('main', /Quiet for five days/);

  // A copy is off, and says so.
  await scene.clickLabelled('Copy Quiet for five days');
  await scene.see('body', /This is the copy\. It looks for the same students .* is off until you turn it on/);
  await scene.see(SENTENCE, /Look every weekday at 9:30 AM.*not visited the course for 5 days.*once each time/);

  // The number is changed in its place in the sentence, and the reach follows.
  await scene.see(REACH, /match(es)? now/);
  const before = Number(await scene.text(`${REACH}[aria-busy=false] [data-testid=matching]`));
  await scene.clickText('not visited the course for 5 days', SENTENCE);
  const field = await page.waitForSelector('aria/compared with[role="textbox"]');
  await field!.click({ count: 3 });
  await field!.type('2');
  await page.keyboard.press('Escape');
  await scene.see(SENTENCE, /not visited the course for 2 days/);
  await scene.until((n) => Number(document.querySelector('[data-testid=matching]')?.textContent) > n, before);

  // Then dragged on the dot plot.
  const handle = await page.waitForSelector('[role=slider][aria-label^=Threshold]');
  const box = (await handle!.boundingBox())!;
  const y = box.y + box.height / 2;
  await page.mouse.move(box.x + box.width / 2, y);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 40, y, { steps: 4 });
  await page.mouse.move(box.x + box.width / 2 + 72, y, { steps: 4 });
  await page.mouse.up();
  await scene.see(SENTENCE, /not visited the course for 4 days/);
  await scene.see('[aria-label="The rule"]', /Your draft is kept in this browser/);
  const wouldHear = await heard(scene);
  expect(wouldHear).toBeGreaterThan(1);

  // Rehearsed: the same people, with the message of the first, and nothing leaves.
  await scene.click('button', 'Rehearse');
  const rehearsal = await scene.see(DIALOG, new RegExp(`Nothing is sent.* ${wouldHear} would be nudged`));
  expect(rehearsal).toMatch(/How are things going in Coastal Navigation/);
  await scene.click('button', 'Close');

  // Turned on: who would be nudged first is shown before.
  await scene.click('button', 'Turn on');
  await scene.see(DIALOG, /From now on this rule runs and sends by itself.*would be nudged/);
  await scene.clickText('Turn on', `${DIALOG} footer`);
  await scene.see('main', /● on/);

  // Rung: the button says how many messages leave.
  await scene.click('button', 'Check now');
  const dialog = await scene.see(DIALOG, /messages? will leave at once/);
  // By hand it rings before the others of this morning: nobody was written to by them yet.
  const leaving = numberIn(dialog, /(\d+) messages? will leave/);
  expect(leaving).toBeGreaterThanOrEqual(wouldHear);
  const first = await scene.text(`${DIALOG} ul [aria-pressed=true] strong`);
  await scene.clickText('Check now', `${DIALOG} footer`);
  await scene.see('body', new RegExp(`The rule ran: ${leaving} messages on the way`));
  await scene.see(REACH, /0 would be nudged/);

  // The mail, as its student reads it.
  await scene.clickLabelled('Demo clock');
  await scene.clickText('Open the Mailroom');
  await scene.see('nav', /Mailboxes|1 new|new/);
  await scene.type('aria/Find a mailbox', first);
  await scene.clickText(first, 'nav');
  const letter = await scene.see('article', /How are things going in Coastal Navigation/);
  expect(letter).toContain('Dr. R. Ostrander <r.ostrander@saltmarsh.example>');
  const frame = await (await page.waitForSelector('iframe'))!.contentFrame();
  expect(await frame.$eval('body', (b) => b.innerText)).toContain(`${first.split(' ')[0]},`);
  await scene.clickText('Headers', 'article');
  const headers = await scene.see('article', /Message-ID/i);
  const messageId = /<[^>\s]+@saltmarsh\.example>/.exec(headers.slice(headers.search(/Message-ID/i)))![0];

  // And every send in the log, this one with the same Message-ID and the server's answer.
  await scene.clickText('Back to Zest Bell');
  await scene.clickText('Send log', 'header');
  await scene.see('main', /nudges/);
  await scene.select('aria/Rule[role="combobox"]', 'Quiet for five days (copy)');
  await scene.see('main', new RegExp(`All nudges ${leaving} Sent ${leaving}`));
  await scene.type('aria/Search the log', first);
  await scene.see('main', /All nudges 1 /);
  await scene.clickText('1 attempt', 'main');
  const attempt = await scene.see('[aria-label="The nudge"]', /Mail server said 250 .*accepted/);
  expect(attempt).toContain(messageId);
  expect(attempt).toMatch(/Why: last visit/);
  expect(scene.complaints).toEqual([]);
});

test('with the keyboard alone', async () => {
  const scene = await stage.open();
  const { page } = scene;
  await scene.tabTo(/Open the demo/);
  await scene.press('Enter');
  await scene.see('main', /[Ww]aiting for you/);
  await setSendDelay(scene, 0);

  // A paused rule of the other course, by the palette.
  await page.keyboard.down('Control');
  await scene.press('k');
  await page.keyboard.up('Control');
  await page.waitForSelector('[cmdk-input]');
  await page.keyboard.type('Weather');
  await scene.press('Enter');
  await scene.see('main', /Not seen this week/);
  await scene.tabTo(/^Not seen this week$/);
  await scene.press('Enter');
  await scene.see(SENTENCE, /not signed in for 6 days/);

  // Off while it is changed.
  await scene.tabTo(/^Pause$/);
  await scene.press('Enter');
  await scene.see('main', /paused/);

  // The condition opens in its place.
  await scene.tabTo(/^Condition: not signed in for 6 days/);
  await scene.press('Enter');
  await scene.tabTo(/compared with/);
  await scene.press('Backspace');
  await page.keyboard.type('4');
  await scene.press('Escape');
  await scene.see(SENTENCE, /not signed in for 4 days/);

  // The threshold by arrows.
  await scene.tabTo(/^Threshold:/);
  await scene.press('ArrowLeft');
  await scene.see(SENTENCE, /not signed in for 3 days/);
  await scene.see(REACH, /would be nudged/);
  const wouldHear = await heard(scene);
  expect(wouldHear).toBeGreaterThan(0);

  await scene.tabTo(/^Rehearse$/);
  await scene.press('Enter');
  await scene.see(DIALOG, /Nothing is sent.*would be nudged/);
  await scene.press('Escape');

  await scene.tabTo(/^Turn on$/);
  await scene.press('Enter');
  await scene.see(DIALOG, /From now on.*would be nudged/);
  await scene.tabTo(/^Turn on$/);
  await scene.press('Enter');
  await scene.see('main', /● on/);
  await page.waitForSelector(DIALOG, { hidden: true });

  await scene.tabTo(/^Check now$/);
  await scene.press('Enter');
  await scene.see(DIALOG, /will leave at once/);
  const first = await scene.text(`${DIALOG} ul [aria-pressed=true] strong`);
  await scene.tabTo(/^Check now · \d+$/);
  await scene.press('Enter');
  await scene.see('body', /The rule ran: \d+ messages? on the way/);
  await page.waitForSelector(DIALOG, { hidden: true });

  // The Mailroom, from the clock's menu.
  await scene.tabTo(/^Demo clock/);
  await scene.press('Enter');
  await page.waitForSelector('[role=menu]');
  for (let i = 0; i < 12 && !/Mailroom/.test(await scene.focused()); i++) {
    const before = await scene.focused();
    await scene.press('ArrowDown');
    await scene.until((was) => document.activeElement?.textContent?.replace(/\s+/g, ' ').trim() !== was, before);
  }
  await scene.press('Enter');
  await page.waitForSelector('nav[aria-label=Mailboxes]');
  await scene.tabTo(/^Find a mailbox$/);
  await page.keyboard.type(first);
  await scene.tabTo(new RegExp(`^${first}`));
  await scene.press('Enter');
  await scene.see('article', /How are things going in Weather for Mariners/);

  // And the log, by its digit.
  await scene.tabTo(/^Back to Zest Bell$/);
  await scene.press('Enter');
  await page.waitForSelector('[data-testid=term-strip]');
  await page.keyboard.down('Control');
  await scene.press('k');
  await page.keyboard.up('Control');
  await page.waitForSelector('[cmdk-input]');
  await page.keyboard.type('Weather');
  await scene.press('Enter');
  await scene.see('main', /Not seen this week/);
  await page.waitForSelector('[cmdk-input]', { hidden: true });
  await scene.press('6');
  await scene.see('main', /All nudges \d+/);
  await scene.tabTo(/^Search the log$/);
  await page.keyboard.type(first);
  await scene.see('[aria-label="The nudge"]', new RegExp(`^${first}.*How are things going in Weather for Mariners`));
  expect(scene.complaints).toEqual([]);
});
