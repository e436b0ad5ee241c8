/** A course of one's own, from nothing: set up, fed by files, tried without sending, turned on; fed again, mended, undone. */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { openLetterBox, type LetterBox } from './letterBox.ts';
import { openStage, root, setSendDelay, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let box: LetterBox;
let stage: BrowserStage;
let scene: Scene;
const files = mkdtempSync(join(tmpdir(), 'zest-bell-files-'));
const DAY = 86_400_000;
/** Somewhere it is daytime: at night the new course's quiet hours would hold its mail. */
const ZONES = [
  'America/New_York',
  'America/Los_Angeles',
  'Pacific/Auckland',
  'Asia/Tokyo',
  'Asia/Dubai',
  'Europe/Paris',
];
const hourIn = (timeZone: string) =>
  Number(new Intl.DateTimeFormat('en-US', { timeZone, hour: 'numeric', hourCycle: 'h23' }).format(new Date()));
const zone = ZONES.find((z) => hourIn(z) >= 8 && hourIn(z) < 19)!;
const date = (days: number) => new Date(Date.now() + days * DAY).toISOString().slice(0, 10);

beforeAll(async () => {
  box = await openLetterBox();
  stage = await openStage(() => Promise.resolve({ ZEST_DEMO: 'off', ZEST_SMTP_URL: box.url }));
  scene = await stage.open();
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
  rmSync(files, { recursive: true, force: true });
  await box.close();
});

function file(name: string, text: string): string {
  const path = join(files, name);
  writeFileSync(path, text);
  return path;
}
const field = (label: string) => `aria/${label}[role="textbox"]`;
async function bring(...paths: string[]): Promise<void> {
  await scene.upload('input[type=file][aria-label="Choose files"]', ...paths);
}
const card = (name: string) => `article[aria-label="${name}"]`;

test('from nothing to a rule that is on', async () => {
  await scene.type('input[name=name]', 'Ada Lind');
  await scene.type('input[name=email]', 'ada@saltmarsh.example');
  await scene.type('input[name=password]', 'eight bells and all is well');
  await scene.click('button', 'Create account');
  await scene.see('body', /No course yet/);
  await setSendDelay(scene, 0);
  await scene.clickText('Create your first course');
  await scene.type(field('Title'), 'Knots and Splices');
  await scene.clickText('Create course');
  await scene.see('form', /A course needs a code.*Choose a day.*Fix the marked fields/);
  // Anyone who leaves and comes back finds what was typed.
  await scene.go(`${stage.base}/new`);
  await scene.type(field('Code'), 'KNT 101');
  await scene.clickLabelled('Time zone');
  await scene.pick(zone);
  await scene.setDate('First day', date(-21));
  await scene.setDate('Last day', date(60));
  await scene.clickText('Create course');
  await scene.see('main', /Set up Knots and Splices.*5 steps left.*Bring in your students/);

  await bring(
    file(
      'spring roster.csv',
      'Student ID,Name,E-mail,Section\ns1,"Okoro, Imani",imani@saltmarsh.example,01\ns2,"Lind, Teo",teo@saltmarsh.example,01\ns3,Runa Dahl,not an address,02\n',
    ),
  );
  await scene.see(card('spring roster.csv'), /3 rows read, 2 new, 1 row refused.*Imani Okoro, new.*Okoro, Imani/);
  await scene.see(card('spring roster.csv'), /E-mail: “not an address” is not an email address.*row 4/);
  await scene.clickText('Take what fits', card('spring roster.csv'));
  await scene.see('main', /2 students on the roster/);
  await scene.see('main', /4 steps left/);

  await bring(
    file(
      'items.csv',
      `title;kind;group;points;due date\nBowline quiz;quiz;Quizzes;20;${date(-7)}\nSplice lab;lab;Labs;40;${date(7)}\n`,
    ),
  );
  await scene.see(card('items.csv'), /2 rows read, 2 new/);
  await scene.clickText('Take this file', card('items.csv'));
  await scene.see('main', /3 steps left/);
  await bring(
    file(
      'log.csv',
      `user,event,item,time\nimani@saltmarsh.example,visited,,${date(-10)} 09:00\ns2,visited,,${date(-1)} 12:00\n`,
    ),
  );
  await scene.clickText('Take this file', card('log.csv'));
  await scene.see('main', /2 steps left/);
  await scene.clickText('Send a test to me');
  await scene.see('main', /1 step left/);
  expect(box.letters.map((l) => l.to)).toEqual(['ada@saltmarsh.example']);

  await scene.clickAt('a[href$="rules?new"]');
  await scene.clickText('Away for five days, firmer at ten', '[role=dialog]');
  await scene.see('main', /1 of 2 match/);
  await scene.clickText('Rehearse', 'main');
  await scene.see('[role=dialog]', /Imani Okoro/);
  await scene.press('Escape');
  await scene.clickText('Turn on', 'main');
  await scene.see('[role=dialog]', /Imani/);
  await scene.clickText('Turn on', '[role=dialog] footer');
  await scene.go(`${stage.base}/c/1/today`);
  await scene.see('main', /[Ww]aiting for you/);
  expect(await scene.page.$('[aria-label="Set up this course"]')).toBeNull();
});

test('refused rows are fixed and brought again; a wrong import is undone, and says why it cannot be', async () => {
  await scene.go(`${stage.base}/c/1/course/data`);
  await scene.see('main', /spring roster\.csv.*download 1 refused row/);
  const refused = await scene.page.evaluate(async () => (await fetch('/api/v1/courses/1/imports/1/refused')).text());
  expect(refused).toContain('Why it was refused');
  await bring(file('roster fixed.csv', refused.replace('not an address', 'runa@saltmarsh.example')));
  await scene.see(card('roster fixed.csv'), /1 row read, 1 new.*Columns are read as they were the last time/);
  await scene.clickText('Take this file', card('roster fixed.csv'));
  await scene.see('main', /roster fixed\.csv.*1 new/);

  await bring(file('grades.csv', 'Student,Bowline quiz (20),Old quiz\n"Okoro, Imani",9,1\n"Lind, Teo",85%,\n'));
  await scene.see(card('grades.csv'), /Which item is “Old quiz”\?/);
  await scene.select(`${card('grades.csv')} select:has(option[value=":nothing"])`, 'Leave it out');
  await scene.see(card('grades.csv'), /2 rows read, 2 new\./);
  await scene.see(card('grades.csv'), /Teo Lind, Bowline quiz: 17/);
  await scene.clickText('Take this file', card('grades.csv'));
  await scene.see('main', /Gradebook: 2 new/);

  await scene.clickText('Changes', 'nav[aria-label="Pages of Course"]');
  await scene.see('main', /Gradebook imported from grades\.csv.*2 grades/);
  await scene.clickText('Undo', '[aria-label=Changes] > li:nth-child(1)');
  await scene.see('[role=dialog]', /2 grades are taken out of the course/);
  await scene.clickText('Undo this change', '[role=dialog] footer');
  await scene.see('main', /Undone: Gradebook imported from grades\.csv/);
  // The items stand under nothing now but the rule; the roster is under what happened.
  const first = '[aria-label=Changes] > li:last-child';
  await scene.clickText('Undo', first);
  await scene.see(first, /cannot be undone.*2 events came later for people that this change added/);
});

test('people and items are changed where they stand, with undo', async () => {
  await scene.go(`${stage.base}/c/1/course/people`);
  await scene.clickLabelled('Section of Teo Lind');
  await scene.page.keyboard.down('Control');
  await scene.press('a');
  await scene.page.keyboard.up('Control');
  await scene.page.keyboard.type('09');
  await scene.press('Enter');
  await scene.see('[role=table]', /Teo Lind student 09/);
  await scene.clickText('Undo', '[data-sonner-toaster]');
  await scene.see('[role=table]', /Teo Lind student 01/);
  await scene.clickText('Runa Dahl', '[role=table]');
  await scene.clickText('Add a contact', '[role=dialog]');
  await scene.type('[role=dialog] fieldset input', 'advisor');
  await scene.clickText('Save changes', '[role=dialog] footer');
  await scene.see('[role=dialog]', /Type one address, such as/);
  await scene.press('Escape');

  await scene.go(`${stage.base}/c/1/course/items`);
  await scene.clickLabelled('Choose Splice lab');
  await scene.clickText('Give an extension');
  await scene.clickText('Teo Lind', '[role=dialog]');
  await scene.clickText('Extend 1 item', '[role=dialog] footer');
  await scene.see('main table', /Splice lab Assignment Labs 40 .* 1 extension/);
});

test('a wrong fact is taken back, and the student’s page says so', async () => {
  await scene.go(`${stage.base}/c/1/students/s2`);
  await scene.clickText('All facts', 'main');
  await scene.clickLabelled('Wrong: Visited the course');
  await scene.type(field('What is wrong'), 'A substitute signed in');
  await scene.clickText('Take back 1 fact');
  await scene.see('main', /Taken back.*visited the course.*A substitute signed in/);
  await scene.go(`${stage.base}/c/1/rules`);
  await scene.clickText('Away for five days', 'main');
  await scene.see('main', /3 of 3 match/);
});

test('a sheet is written from, row by row, and comes back with what was sent', async () => {
  await scene.go(`${stage.base}/c/1/merge`);
  const sheet = file('boats.csv', 'Student ID,Boat,Fee\ns1,Tern,20\ns2,Gull,0\n,Skua,5\n');
  await scene.upload('input[aria-label="Choose a sheet"]', sheet);
  await scene.see('main', /2 of 3 rows chosen, 1 row names nobody/);
  await scene.select('[aria-label=Column]', 'Fee');
  await scene.select('[aria-label=Comparison]', 'over');
  await scene.type('[aria-label=Value]', '10');
  await scene.clickText('Choose these 1');
  await scene.see('main', /1 of 3 rows chosen/);
  await scene.type('[aria-label=Subject]', 'Your boat');
  await scene.clickAt('[aria-label=Text]');
  await scene.page.keyboard.type('You sail ');
  await scene.clickText('+ personal value');
  await scene.pick('Boat');
  await scene.backInText();
  await scene.see('[aria-label="As they will read it"]', /Your boat.*Tern/);
  await scene.clickText('Send 1 message');
  await scene.see('body', /1 message is on the way/);
  await scene.see('[aria-label="Rows"]', /Imani Okoro s1 Tern 20 sent/, 30_000);
  const sent = box.letters.filter((l) => l.to === 'imani@saltmarsh.example');
  expect(sent.some((l) => l.text.includes('Tern'))).toBe(true);
  const back = await scene.page.evaluate(async () => (await fetch('/api/v1/courses/1/sheets/1/file')).text());
  expect(back).toMatch(/s1,Tern,20,sent,/);
});

test('a second course begins from a scenario file, with its rules as drafts', async () => {
  await scene.go(`${stage.base}/new`);
  await scene.upload('input[aria-label="Choose a scenario file"]', join(root, 'examples/once-a-spell.json'));
  await scene.see('main', /Set up /);
  const { course } = JSON.parse(readFileSync(join(root, 'examples/once-a-spell.json'), 'utf8')) as {
    course: { title: string };
  };
  await scene.see('main', new RegExp(course.title));
  await scene.go(`${stage.base}/c/2/rules`);
  await scene.see('main', /draft/i);
});
