/** A wording from its first word to the student's answer: written with chips, mended, previewed for all, sent, read, answered. */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { tmpdir } from 'node:os';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
let scene: Scene;
beforeEach(async () => {
  stage = await openStage();
  scene = await stage.openDemo();
  await scene.see('main', /Quiet for five days/);
});
afterEach(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
});

const DIALOG = '[role=dialog]';
const go = (path: string) => scene.go(`${stage.base}${path}`);

async function focusText(): Promise<void> {
  const area = await scene.page.waitForSelector('aria/Text[role="textbox"]');
  await area!.focus();
}
async function chord(...keys: ('Control' | 'a' | 'b' | 'End')[]): Promise<void> {
  const [held, key] = keys as ['Control', 'a'];
  await scene.page.keyboard.down(held);
  await scene.press(key);
  await scene.page.keyboard.up(held);
}
/** Puts the caret behind all that is written. The editor moves it itself a frame after an insertion, and hears of ours a frame later. */
async function toTheEnd(): Promise<void> {
  const isThere = () =>
    scene.page.evaluate(async () => {
      for (let frame = 0; frame < 3; frame++) await new Promise(requestAnimationFrame);
      const after = document.createRange();
      after.selectNodeContents(document.querySelector('[aria-label=Text].words')!);
      const { focusNode, focusOffset } = getSelection()!;
      if (!after.isPointInRange(focusNode!, focusOffset)) return false;
      after.setStart(focusNode!, focusOffset);
      return after.toString() === '';
    });
  for (let tries = 0; tries < 20; tries++) {
    await chord('Control', 'End');
    if (await isThere()) return;
  }
  throw new Error('The caret never came to the end of the words');
}

/** Chooses from one of the menus below the text. */
async function insert(menu: string, words: string): Promise<void> {
  await scene.clickText(menu, DIALOG);
  await scene.pick(words);
  await scene.backInText();
}

test('a wording is written, mended, previewed for every student, sent, read on a phone, answered, and the answer stands in the log', async () => {
  await go('/c/1/wording');
  await scene.clickText('New wording', 'main');
  await scene.see(DIALOG, /A new wording.*No rule uses this wording yet/);
  await focusText();
  await chord('Control', 'a');
  await scene.press('Delete');
  await scene.page.keyboard.type('Coastal Navigation has been quiet without you.');
  await scene.press('Enter');
  // A part that appears only when there is something to say, with a list in it.
  await insert('+ only if there is', 'missing work with');
  await scene.page.keyboard.type('Still open:');
  await scene.press('Enter');
  await insert('+ list', 'missing');
  await toTheEnd();
  await scene.press('Enter');
  await scene.page.keyboard.type('Begin with ');
  await insert('+ link', 'Reading a tide');
  await scene.page.keyboard.type(', or with your ');
  await insert('+ personal value', 'Title of the rule');

  // Two checks, two mends.
  await scene.see('[aria-label=Checks]', /does not begin with the student’s first name.*“Coastal Navigation” is typed/);
  await scene.clickText('Begin with it', DIALOG);
  await scene.clickText('Use the field', DIALOG);
  await scene.clickText('Add such a line', DIALOG);
  await scene.see(DIALOG, /The checks found nothing in this text/);

  // Read for every student of the demo, one after the other.
  await scene.see(DIALOG, /Checked for all 42 students: no empty fields/);
  const read = new Set<string>();
  for (let i = 0; i < 42; i++) {
    const [id, name] = await scene.read('aria/Read as[role="combobox"]', (select: HTMLSelectElement) => {
      return [select.value, select.selectedOptions[0]!.textContent.split(':')[0]!] as const;
    });
    // By the first name, and by no other's.
    const opening = new RegExp(
      `${name.split(' ')[0]}, Coastal Navigation has been quiet without you\\..*Begin with Reading`,
    );
    await scene.see(`${DIALOG} article`, opening);
    read.add(id);
    await scene.clickLabelled('Next student');
  }
  expect(read.size).toBe(42);
  await scene.clickText('Save wording', `${DIALOG} footer`);
  await scene.see('main', /A new wording/);

  // A rule says it now.
  await go('/c/1/rules/quiet');
  await scene.clickText('Gentle check-in', 'ol');
  await scene.clickText('A new wording', '[aria-label=Wording]');
  await scene.clickText('Confirm changes', 'main');
  // Once both checks are rehearsed it can be confirmed.
  await scene.see(DIALOG, /What you changed.*A new wording.*would be nudged/);
  await scene.clickText('Confirm changes', `${DIALOG} footer`);
  // The rule is in another course as well.
  await scene.clickText('Here only', DIALOG);
  await scene.gone(DIALOG);
  await scene.clickText('Check now', '[aria-label="The rule"]');
  await scene.see(DIALOG, /will leave at once/);
  const student = await scene.text(`${DIALOG} ul [aria-pressed=true] strong`);
  await scene.clickText('Check now', `${DIALOG} footer`);
  await scene.see('body', /The rule ran: \d+ messages? on the way/);

  // The student reads it on a phone, and answers.
  await scene.page.setViewport({ width: 390, height: 844 });
  await go('/mailroom');
  await scene.type('aria/Find a mailbox', student);
  await scene.clickText(student, 'nav');
  await scene.see('article', /About Coastal Navigation/);
  const frame = await (await scene.page.waitForSelector('iframe[title="The letter"]'))!.contentFrame();
  const letter = await frame.$eval('body', (e) => (e as HTMLElement).innerText.replace(/\s+/g, ' '));
  expect(letter).toMatch(new RegExp(`^${student.split(' ')[0]}, Coastal Navigation has been quiet without you\\.`));
  expect(await frame.$$eval('a', (all) => all.map((a) => a.href))).toContain(
    'https://learn.saltmarsh.example/nav-120/read-tides',
  );
  await scene.type(`aria/Reply as ${student}[role="textbox"]`, 'Thank you, I have begun with the tide table.');
  await scene.clickText('Send reply', 'article');
  await scene.see('body', /The reply is on its way/);
  await scene.page.setViewport({ width: 1280, height: 800 });
  await go('/c/1/log?rule=quiet');
  await scene.type('input[type=search], input[aria-label^="Search"]', student);
  await scene.see('[aria-label="The nudge"]', new RegExp(`Reply ${student}.*begun with the tide table`));
});

test('a file, a letter and words for an advisor go with a wording, each to whom it is for', async () => {
  const sheet = join(tmpdir(), `tide-sheet-${process.pid}.pdf`);
  writeFileSync(sheet, '%PDF-1.4\nA worksheet.');
  await go('/c/1/wording');
  await scene.clickText('Gentle check-in', 'main');
  await (await scene.page.waitForSelector('input[aria-label="Attached files"]'))!.uploadFile(sheet);
  await scene.see('[aria-label="Attachments"]', /tide-sheet-\d+\.pdf/);
  // The answer about the file moves what is below it.
  await scene.see('[aria-label=Checks]', /A file goes with it, and no word says so/);
  await scene.click('checkbox', 'Also as a letter: a PDF for each student');
  await scene.see('[aria-label=Checks]', /2 files go with it, and no word says so/);
  await scene.clickText('Say so', DIALOG);
  await scene.see(`${DIALOG} article`, /You find it attached\..*tide-sheet-\d+\.pdf NAV 120 Imani/);
  await scene.clickText('+ text for a third party', DIALOG);
  await scene.clickText('For advisors', '[aria-label="Text for a third party"]');
  await scene.see(`${DIALOG} article`, /Dear B\. Lund, I have written to Imani/);
  await scene.clickText('Save wording', `${DIALOG} footer`);
  await scene.clickText('Here only', DIALOG);
  await scene.gone(DIALOG);
  const [answer] = await scene.page.evaluate(async () => {
    const res = await fetch('/api/v1/courses/1/wordings');
    return ((await res.json()) as { id: string; copies: object[]; files: object[]; letter: object }[]).filter(
      (w) => w.id === 'gentle',
    );
  });
  expect(answer).toMatchObject({ copies: [{ to: 'contact:advisor' }], letter: { page: 'A4', attach: true } });
  await go('/c/1/rules/quiet');
  await scene.clickText('Check now', '[aria-label="The rule"]');
  const student = await scene.page
    .waitForSelector(`${DIALOG} ul [aria-pressed=true] strong`)
    .then((e) => e!.evaluate((s) => s.textContent ?? ''));
  await scene.clickText('Check now', `${DIALOG} footer`);
  await scene.see('body', /The rule ran/);
  await go('/mailroom');
  await scene.type('aria/Find a mailbox', student);
  await scene.clickText(student, 'nav');
  await scene.see('[aria-label="Attachments"]', new RegExp(`tide-sheet-\\d+\\.pdf NAV 120 ${student}\\.pdf`));
});

test('a guardian outside the institution is named and needs a yes, and then reads about the student, not with them', async () => {
  await go('/c/1/rules/quiet');
  await scene.clickLabelled('To whom');
  await scene.clickText('their guardian', '[role=dialog]');
  await scene.press('Escape');
  await scene.clickText('Confirm changes', 'main');
  await scene.see(DIALOG, /2 addresses outside saltmarsh\.example: A\. Okoro <a\.okoro@harbourmail\.example>/);
  const confirm = await scene.page.waitForSelector(`${DIALOG} footer ::-p-text(Confirm changes)`);
  const disabled = () => confirm!.evaluate((e) => e.closest('button')!.disabled);
  expect(await disabled()).toBe(true);
  await scene.clickText('Allow messages about students to these addresses', DIALOG);
  await scene.until((e) => !e.closest('button')!.disabled, confirm!);
  await confirm!.click();
  await scene.clickText('Here only', DIALOG);
  await scene.gone(DIALOG);
  const outside = await scene.page.evaluate(async () => {
    const cards = (await (await fetch('/api/v1/courses/1/rules')).json()) as {
      rule: { id: string };
      outside: string[];
    }[];
    return cards.find((c) => c.rule.id === 'quiet')!.outside;
  });
  expect(outside).toEqual(['a.okoro@harbourmail.example', 'c.ionescu@harbourmail.example']);
});

test('what came back after a nudge stands on the student’s page', async () => {
  await go('/c/1/today');
  await scene.see('[aria-label="Replies to answer"]', /Hana Petrov/);
  await scene.clickText('Hana Petrov', '[aria-label="Replies to answer"]');
  await scene.see('main', /Hana Petrov.*Days since the last visit.*Replied.*Quiet for five days/);
});
