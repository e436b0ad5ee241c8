/** Jobs that begin with students: finding them, reading what is known of them, writing to them. */
import { afterAll, beforeAll, beforeEach, expect, test } from '@jest/globals';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { openStage, setSendDelay, type Scene, type Stage } from '../harness.ts';
import { AS_READ, COUNT, DIALOG, FILTER, RULE, SENTENCE, Story } from './story.ts';

let stage: Stage;
let scene: Scene;
const files = mkdtempSync(join(tmpdir(), 'zest-bell-jobs-'));
function file(name: string, content: string): string {
  const path = join(files, name);
  writeFileSync(path, content);
  return path;
}
async function upload(selector: string, path: string): Promise<void> {
  const chooser = await scene.page.waitForSelector(selector);
  await (chooser as unknown as { uploadFile(...p: string[]): Promise<void> }).uploadFile(path);
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

test('“Who has between 50 and 70 percent, is late with two or more, and never opened the syllabus? I write to them, and keep it as a rule.”', async () => {
  const me = new Story(scene);
  await me.goTo('Lookout');
  await me.press('+ condition', FILTER);
  await me.pick('course grade');
  await me.choose('aria/how[role="combobox"]', 'between');
  await me.fill('[aria-label=Condition] input[inputmode]', '75');
  await me.keys('Escape');
  await me.see(FILTER, /have a course grade between .* and 75%/);
  await me.press('+ condition', FILTER);
  await me.pick('items late');
  await me.keys('Escape');
  await me.see(COUNT, /^[1-9]\d? of 42/);
  await me.press('Write to', 'main');
  await me.fill('[aria-label=Subject]', 'Two things before Friday');
  await scene.page.click('[aria-label=Text]');
  await scene.page.keyboard.type('Two of your labs came in late. Tell me what would help.');
  await me.see(AS_READ, /Two of your labs came in late/);
  await me.press('Write even to those whose message budget is used up', 'main');
  await me.press('Send ', `${AS_READ} >>> button, main button`);
  await me.see('body', /on the way/);
  await me.goTo('Lookout');
  await me.press('Save as a rule', 'main');
  await me.see(SENTENCE, /course grade/);
  await me.see(RULE, /Two things before Friday|Two of your labs came in late/);
  me.doneIn(12);
});
