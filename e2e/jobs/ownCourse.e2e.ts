/** A course of one's own, from nothing to a rule that is on. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, test } from '@jest/globals';
import { openLetterBox, type LetterBox } from '../letterBox.ts';
import { openStage, type BrowserStage } from '../harness.ts';
import type { Scene } from '../scene.ts';
import { DIALOG, RULE, JobRun } from './story.ts';

let box: LetterBox;
let stage: BrowserStage;
let scene: Scene;
const files = mkdtempSync(join(tmpdir(), 'zest-bell-jobs-'));
const DAY = 86_400_000;
const date = (days: number) => new Date(Date.now() + days * DAY).toISOString().slice(0, 10);
const card = (name: string) => `article[aria-label="${name}"]`;

beforeAll(async () => {
  box = await openLetterBox();
  stage = await openStage(() => Promise.resolve({ ZEST_DEMO: 'off', ZEST_SMTP_URL: box.url }));
  scene = await stage.open();
});
afterAll(async () => {
  await stage.stop();
  rmSync(files, { recursive: true, force: true });
  await box.close();
});

async function bring(name: string, text: string): Promise<void> {
  const path = join(files, name);
  writeFileSync(path, text);
  await scene.upload('input[type=file][aria-label="Choose files"]', path);
}

test('16 · “My own course: its students, its work, its scores with a slip of the pen, and a first rule.”', async () => {
  const me = new JobRun(scene);
  await scene.type('input[name=name]', 'Ada Lind');
  await scene.type('input[name=email]', 'ada@saltmarsh.example');
  await scene.type('input[name=password]', 'eight bells and all is well');
  await me.press('Create account');
  await me.press('Create your first course');
  await scene.type('aria/Title[role="textbox"]', 'Knots and Splices');
  await scene.type('aria/Code[role="textbox"]', 'KNT 101');
  await scene.setDate('First day', date(-21));
  await scene.setDate('Last day', date(60));
  await me.pressCalled('Time zone');
  await me.pick('New York');
  await me.press('Create course', 'main');
  // What protects its students from the first day is said.
  await me.see('main', /Quiet hours: nothing is sent between 9 PM and 7 AM.*1 nudge a student in 7 days/);
  await bring(
    'roster.csv',
    'Student ID,Name,E-mail\ns1,"Okoro, Imani",imani@saltmarsh.example\ns2,"Lind, Teo",teo@saltmarsh.example\n',
  );
  await me.press('Take this file', card('roster.csv'));
  await me.see('main', /2 students on the roster/);
  await bring('items.csv', `title;kind;group;points;due date\nBowline quiz;quiz;Quizzes;20;${date(-7)}\n`);
  await me.press('Take this file', card('items.csv'));
  await me.see('main', /3 steps left/);
  await bring('log.csv', `user,event,item,time\ns1,visited,,${date(-10)} 09:00\ns2,visited,,${date(-1)} 12:00\n`);
  await me.press('Take this file', card('log.csv'));
  await me.see('main', /2 steps left/);
  await bring('grades.csv', 'Student,Bowline quiz (20)\n"Okoro, Imani",188\n"Lind, Teo",17\n');
  await me.see(card('grades.csv'), /Bowline quiz has 20 points possible\. Take the scores above that\?/);
  await scene.select(`${card('grades.csv')} select:has(option[value=leave])`, 'leave');
  await me.press('Take this file', card('grades.csv'));
  await scene.page.waitForSelector('a[href$="rules?new"]');
  await me.pressOn('a[href$="rules?new"]');
  await me.press('Away for five days, firmer at ten', DIALOG);
  await me.see('main', /1 of 2 match/);
  await me.press('Turn on', RULE);
  await me.see(DIALOG, /Imani/);
  await me.press('Turn on', `${DIALOG} footer`);
  await me.see('main', /● on/);
  me.doneIn(20);
});
