/** Lookout: students found by brushing and by a sentence, written to, and the same condition made a rule. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
let scene: Scene;
beforeAll(async () => {
  stage = await openStage();
  scene = await stage.openDemo();
  await scene.go(`${stage.base}/c/1/students`);
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
});

const SENTENCE = '[data-testid=filter-sentence]';
const COUNT = '[data-testid=count]';
const CHOSEN = '[data-testid=chosen]';
const columns = async (set: string) => {
  await scene.clickText('Columns', 'main');
  await scene.clickText(set, '[aria-label=Columns]');
  await scene.press('Escape');
  await scene.gone('[aria-label=Columns][role=dialog]');
};
/** Focuses one end of a header’s brush. */
const handle = async (title: string, end: 'from' | 'to') =>
  (await scene.page.waitForSelector(`[role=slider][aria-label="${title}: ${end}" i]`))!.focus();
const shown = async (): Promise<number> =>
  Number(/^(\d+) of 42 students/.exec(await scene.see(COUNT, /^\d+ of 42 students/))![1]);

test('a header is brushed by keys, between two grades, and the condition stands above as a sentence', async () => {
  await scene.see(COUNT, /42 of 42 students/);
  await columns('Grades');
  await handle('Course grade', 'from');
  await scene.press('PageUp', 'PageUp', 'ArrowRight', 'ArrowLeft');
  await handle('Course grade', 'to');
  await scene.press('PageDown', 'PageDown');
  await scene.see(SENTENCE, /Students who have a course grade between .*% and .*%/);
  await scene.see(COUNT, /^[123]\d of 42 students/);
  // By keys, it is cleared as well, and the whole class is back.
  await scene.press('Delete');
  await scene.see(SENTENCE, /All students/);
  await scene.see(COUNT, /42 of 42 students/);
  await handle('Course grade', 'from');
  await scene.press('PageUp');
  await handle('Course grade', 'to');
  await scene.press('PageDown', 'PageDown', 'PageDown');
});

test('the same by pointer: two missing or more; and by a part of the sentence, who never opened the syllabus', async () => {
  const between = await shown();
  await columns('Work');
  const box = (await (await scene.page.waitForSelector('[role=img][aria-label^="Missing items" i]'))!.boundingBox())!;
  const { mouse } = scene.page;
  await mouse.move(box.x + box.width - 3, box.y + box.height / 2);
  await mouse.down();
  await mouse.move(box.x + box.width * 0.3, box.y + box.height / 2, { steps: 6 });
  await mouse.up();
  await scene.see(SENTENCE, /missing/i);
  expect(await shown()).toBeLessThan(between);
  await scene.clickText('+ condition', SENTENCE);
  // What was typed is a page of the course: it comes first, and opens to be said.
  await scene.pick('syllabus');
  await scene.page.waitForSelector('[role=dialog][aria-label=Condition]');
  await scene.press('Escape');
  await scene.see(SENTENCE, /never opened .*Syllabus/);
});

test('just those are written to, with a text of one’s own, and each gets a message', async () => {
  const chosen = await shown();
  expect(chosen).toBeGreaterThan(0);
  await scene.see(CHOSEN, new RegExp(`^${chosen} of 42 students shown`));
  await scene.clickText('Write to', 'main');
  await scene.see('main', /Write to .*Students who .*never opened .*Syllabus/);
  await scene.type('[aria-label=Subject]', 'Where to begin');
  await scene.clickAt('[aria-label=Text]');
  await scene.page.keyboard.type('Start with the syllabus, and tell me where you are stuck.');
  await scene.see('[aria-label="As they will read it"]', /Where to begin.*Start with the syllabus/);
  // One of them got a message this week: the limit is passed on purpose, and the log says so.
  await scene.clickText('Write even to those whose message budget is used up');
  const button = await scene.see('[aria-label="As they will read it"]', /Send [1-9]\d* messages?$/);
  const sent = Number(/Send (\d+) message/.exec(button)![1]);
  expect(sent).toBeGreaterThan(0);
  await scene.clickText(`Send ${sent} message`);
  await scene.see('body', new RegExp(`${sent} messages? (is|are) on the way`));
});

test('the same condition opens in the composer as a rule', async () => {
  await scene.go(`${stage.base}/c/1/students`);
  await scene.see(SENTENCE, /never opened .*Syllabus/);
  await scene.clickText('Save as a rule', 'main');
  await scene.see('[data-testid=sentence]', /course grade.*missing.*never opened .*Syllabus/s);
});

test('a view is saved under a name, its link opens it, and the table is seen as of an earlier day', async () => {
  await scene.go(`${stage.base}/c/1/students`);
  const before = await shown();
  await scene.clickText('Views', 'main');
  await scene.type('[aria-label=Views] input', 'Begin again');
  await scene.clickText('Save view', '[aria-label=Views]');
  await scene.see('[aria-label=Views]', /Begin again saved by/);
  await scene.press('Escape');
  await scene.clickText('Show all students', 'main');
  await scene.see(COUNT, /42 of 42 students/);
  await scene.go(`${stage.base}/c/1/students?view=1`);
  await scene.see(SENTENCE, /never opened .*Syllabus/);
  await scene.see(COUNT, new RegExp(`^${before} of 42`));
  // The term strip moves the moment, by keys as well.
  await scene.clickText('Show all students', 'main');
  const strip = await scene.page.waitForSelector('[role=slider][aria-label*="term" i]');
  await strip!.focus();
  await scene.press('ArrowLeft', 'ArrowLeft', 'Enter');
  await scene.clickText('See the students as of this day');
  await scene.see('[data-testid=as-of]', /As it was at the end of/);
  await scene.clickText('Back to now', 'main');
  await scene.gone('[data-testid=as-of]');
});

test('while the pointer is over the table, a longer sentence does not move it', async () => {
  await scene.go(`${stage.base}/c/1/students`);
  await scene.press('Escape');
  const titles = await scene.page.$$eval('[role=slider][aria-label$=": from"]', (ends) =>
    ends.map((e) => e.getAttribute('aria-label')!.replace(/: from$/, '')),
  );
  expect(titles.length).toBeGreaterThan(3);
  const top = () => scene.page.$eval('[role=table]', (e) => e.getBoundingClientRect().top);
  const box = (await (await scene.page.waitForSelector('[role=table]'))!.boundingBox())!;
  await scene.page.setViewport({ width: 900, height: 800 });
  await scene.page.mouse.move(box.x + 60, box.y + 200);
  const before = await top();
  for (const title of titles) {
    await handle(title, 'from');
    await scene.press('ArrowRight');
  }
  await scene.see(SENTENCE, /( and .*){4}/);
  expect(await top()).toBe(before);
  await scene.page.mouse.move(5, 5);
  await scene.page.waitForFunction(
    (was) => document.querySelector('[role=table]')!.getBoundingClientRect().top > was,
    {},
    before,
  );
});
