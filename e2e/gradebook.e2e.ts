/** The gradebook and the class as a whole: from an item to those who need a message, by mouse and by keys. */
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
const SUBJECT = `${DIALOG} [data-testid=subject] input`;
const subject = () => scene.read(SUBJECT, (input) => input.value);
/** The item in the header that has the keyboard focus. */
const marked = () =>
  scene.read('[role=grid]', (grid) => {
    const id = grid.getAttribute('aria-activedescendant');
    return id === null ? '' : (document.getElementById(id)?.innerText ?? '');
  });

test('by keys: the grid is one stop, its arrows move, and an item opens by Enter', async () => {
  await scene.go(`${stage.base}/c/1/students/gradebook`);
  await scene.see('[data-testid=count]', /42 students · 12 of 42 items/);
  await scene.page.waitForSelector('[role=grid]');
  await scene.page.focus('[role=grid]');
  await scene.press('ArrowRight', 'ArrowRight', 'ArrowRight', 'ArrowRight', 'ArrowRight');
  expect(await marked()).toMatch(/Position fixing quiz/);
  await scene.press('Enter');
  await scene.see(DIALOG, /Position fixing quiz.*have not turned it in/);
  expect(await subject()).toBe('I do not have Position fixing quiz from you yet');
  await scene.press('Escape');
  await scene.gone(DIALOG);
  // The keys are on the same header again; then in the last cell of the first row, drawn once it is in view.
  await scene.until(() => document.activeElement?.getAttribute('role') === 'grid');
  await scene.press('ArrowDown', 'End');
  await scene.until(() => {
    const id = document.querySelector('[role=grid]')?.getAttribute('aria-activedescendant');
    return /not turned in yet, due/.test(document.getElementById(id ?? '')?.getAttribute('aria-label') ?? '');
  });
  expect(await scene.page.$$eval('[role=gridcell]', (cells) => cells.length)).toBeLessThan(600);
});

test('the subject follows the choice until it is touched; a value is dragged on the item’s own dots', async () => {
  await scene.clickText('Chart lab 1', '[role=grid]');
  await scene.see(DIALOG, /Chart lab 1/);
  await scene.clickText('Scored over', DIALOG);
  expect(await subject()).toBe('Well done on Chart lab 1');
  const before = await scene.see('[data-testid=found]', /\d+ students? of 41 have a higher score/);
  const handle = await scene.page.waitForSelector(`${DIALOG} [role=slider]`);
  await handle!.focus();
  for (let i = 0; i < 12; i++) await scene.press('ArrowRight');
  await scene.until((was) => document.querySelector('[data-testid=found]')?.textContent !== was, before);
  await scene.clickAt(SUBJECT, 3);
  await scene.page.keyboard.type('Fine plotting');
  await scene.clickText('Scored under', DIALOG);
  expect(await subject()).toBe('Fine plotting');
  await scene.clickText('Use the proposed subject', DIALOG);
  expect(await subject()).toBe('About your score on Chart lab 1');
  await scene.press('Escape');
});

test('those who have not turned in an item are written to, and become a rule', async () => {
  await scene.go(`${stage.base}/c/1/students/gradebook`);
  await scene.clickText('Position fixing quiz', '[role=grid]');
  const found = await scene.see('[data-testid=found]', /\d+ students? of 42 have not turned it in/);
  const n = Number(/^\d+/.exec(found)![0]);
  await scene.clickText(`Write to these ${n}`, DIALOG);
  await scene.see('main', /Students who have not submitted Position fixing quiz/);
  await scene.see('[aria-label=Subject]', /I do not have Position fixing quiz from you yet/);
  await scene.see('[aria-label="As they will read it"]', /I do not have Position fixing quiz from you yet/);
  await scene.go(`${stage.base}/c/1/students/gradebook`);
  await scene.clickText('Position fixing quiz', '[role=grid]');
  await scene.see('[data-testid=found]', /not turned it in/);
  await scene.clickText('Make it a rule', DIALOG);
  await scene.see('[data-testid=sentence]', /not submitted Position fixing quiz/);
});

test('charts say so where they cannot be loaded, and wait for no font', async () => {
  const { page } = scene;
  // Before the browser has it.
  const findAgain = await scene.between((path) => (/library-.*\.js$/.test(path) ? 'isLost' : 'passes'));
  await scene.go(`${stage.base}/c/1/students/class`);
  await scene.see('[aria-label="Scores on each item"]', /The chart could not be loaded. “As a table” shows/);
  await scene.clickText('As a table', '[aria-label="Scores on each item"]');
  await scene.see('[aria-label="Scores on each item"]', /Item Graded Mean % .*Tide tables quiz \d+ [\d.]+/);
  await findAgain();

  const { identifier } = await page.evaluateOnNewDocument(() => {
    const late = new FontFace('Late', 'url(/late.woff2)');
    document.fonts.add(late);
    void late.load().catch(() => undefined);
  });
  const letGo = await scene.holdBack((path) => path === '/late.woff2');
  await scene.go(`${stage.base}/c/1/students/class`);
  await scene.until(() => document.querySelectorAll('[data-drawn]').length === 7);
  expect(await page.evaluate(() => document.fonts.status)).toBe('loading');
  await letGo();
  await page.evaluate(() => {
    const canvas = document.querySelector<HTMLCanvasElement>('[data-drawn] canvas')!;
    canvas.getContext('2d')!.clearRect(0, 0, canvas.width, canvas.height);
    document.fonts.dispatchEvent(new Event('loadingdone'));
  });
  await scene.until(() => {
    const canvas = document.querySelector<HTMLCanvasElement>('[data-drawn] canvas')!;
    return canvas
      .getContext('2d')!
      .getImageData(0, 0, canvas.width, canvas.height)
      .data.some((value) => value !== 0);
  });
  await page.removeScriptToEvaluateOnNewDocument(identifier);
  // What was lost on purpose is told of by the browser.
  scene.complaints.splice(0);
});

test('the class as a whole: charts, each with its table, as of any day', async () => {
  await scene.go(`${stage.base}/c/1/students/class`);
  await scene.until(() => document.querySelectorAll('[data-drawn]').length === 7);
  await scene.see('[aria-label="Waiting for a grade"]', /32 submissions wait for a grade, the longest for \d days/);
  await scene.clickText('As a table', '[aria-label="Scores on each item"]');
  await scene.see('[aria-label="Scores on each item"]', /Item Graded Mean % .*Tide tables quiz \d+ [\d.]+/);
  // The term strip moves the moment here as well.
  await (await scene.page.waitForSelector('[role=slider][aria-label*="term" i]'))!.focus();
  for (let i = 0; i < 45; i++) await scene.press('ArrowLeft');
  await scene.press('Enter');
  await scene.clickText('See the students as of this day');
  await scene.see('main', /As it was at the end of .* Sep 1\d/);
  await scene.see('[aria-label="Waiting for a grade"]', /Everything|submissions? waits?/);
});
