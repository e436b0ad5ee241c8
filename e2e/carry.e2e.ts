/** From term to term: a fall's rules come into the next term's course, are looked at one by one, and nothing rings before. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
let scene: Scene;
const files = mkdtempSync(join(tmpdir(), 'zest-bell-carry-'));

/** The quiz has a longer title there, and the grades page another one. */
const SPRING = {
  format: 'zest-bell/scenario@1',
  course: {
    code: 'NAV 121',
    title: 'Coastal Navigation, spring',
    timeZone: 'America/New_York',
    start: '2027-01-11',
    end: '2027-04-30',
  },
  people: Array.from({ length: 6 }, (_, i) => ({
    id: `s${i}`,
    firstName: `Sailor${i}`,
    lastName: 'Quill',
    email: `sailor${i}@saltmarsh.example`,
    role: 'student',
    enrolledAt: '2027-01-11T00:00:00-05:00',
  })),
  items: [
    { id: 'q-a', title: 'Tide tables quiz, open book', kind: 'quiz', points: 20, dueAt: '2027-01-24T23:59:00-05:00' },
    { id: 'grades', title: 'Grade overview', kind: 'page' },
    { id: 'lab-a', title: 'Chart lab 1', kind: 'assignment', group: 'Labs', points: 40 },
    { id: 'drill', title: 'Tide drills', kind: 'practice', group: 'Practice' },
  ],
};

beforeAll(async () => {
  stage = await openStage();
  scene = await stage.openDemo({ place: '/new?from=1' });
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
  rmSync(files, { recursive: true, force: true });
});

const MATCHES = '[aria-label="2. How items match"]';
const LIST = '[aria-label^="Carried over from NAV 120"]';

test('a course is carried into the next term, with one match to confirm and one to choose', async () => {
  const file = join(files, 'spring.json');
  writeFileSync(file, JSON.stringify(SPRING));
  await scene.upload('input[type=file][aria-label="Choose a scenario file"]', file);
  // Anyone who came to begin with another course's decisions is led to them.
  await scene.see('main', /Carry over into NAV 121.*1\. What comes along.*Quiet for five days/);
  await scene.see(MATCHES, /Tide tables quiz.*Confirm match/);
  await scene.see('main', /1 item has no match, 1 match to confirm/);
  // A rule says what it names, also before anything here is chosen for it.
  await scene.see('main', /scored 65% or less on “Tide tables quiz”/);
  await scene.clickText('Confirm match', MATCHES);
  await scene.see('main', /1 item has no match\. A rule that names it/);
  await scene.select('[aria-label="What Where you stand is here"]', 'Grade overview');
  await scene.see('main', /Today then lists what to look at/);
  // What was chosen is there again after the page was left.
  await scene.go(`${stage.base}/c/1/today`);
  await scene.go(`${stage.base}/c/4/carry?from=1`);
  await scene.see('main', /Today then lists what to look at/);
  await scene.see(
    '[aria-label="When each rule runs"]',
    /Quiet for five days NAV 120 Sep 8 to Dec 11 NAV 121 Jan 19 to Apr 23/,
  );

  await scene.clickText('Carry over 6 rules');
  await scene.see(LIST, /Carried over from NAV 120: \d+ lines left/);
  await scene.see(LIST, /“Where you stand” is “Grade overview” here/);
  await scene.see('body', /Carried over 6 rules from NAV 120\. Everything is still off/);
  await scene.go(`${stage.base}/c/4/rules`);
  await scene.see('main', /Quiet for five days/);
  expect(await scene.text('main')).not.toMatch(/● on/);
});

test('its checklist stays on Today until every line is done', async () => {
  await scene.go(`${stage.base}/c/4/today`);
  await scene.see(LIST, /Quiet for five days/);
  // Rehearsed and turned on from there, with the question that turning on asks everywhere.
  await scene.clickText('Rehearse, then turn on', `${LIST} li:first-child`);
  await scene.see('[role=dialog]', /Turn on “Quiet for five days”.*would be nudged/);
  // All six have never come.
  await scene.clickAt('[role=dialog] input[type=checkbox]');
  await scene.page.waitForSelector('[role=dialog] input[type=checkbox]:checked');
  await scene.clickText('Turn on', '[role=dialog] button');
  await scene.gone('[role=dialog]');
  await scene.see('body', /● on/);
  await scene.go(`${stage.base}/c/4/today`);
  await scene.see(LIST, /Quiet for five days on/);
  for (;;) {
    const open = await scene.page.$$(`${LIST} input[type=checkbox]:not(:checked)`);
    if (open.length === 0) break;
    const before = await scene.text(LIST);
    await open[0]!.click();
    await scene.until(
      (selector, text) => {
        const now = document.querySelector<HTMLElement>(selector);
        return now === null || now.innerText.replace(/\s+/g, ' ').trim() !== text;
      },
      LIST,
      before,
    );
    if ((await scene.page.$(LIST)) === null) break;
  }
  await scene.gone(LIST);
  // Nothing was sent by any of it.
  await scene.go(`${stage.base}/c/4/log`);
  await scene.see('main', /All nudges 0.*Nothing sent yet/);
});

test('what was carried can be taken back as a whole while nothing of it has rung', async () => {
  await scene.go(`${stage.base}/c/3/carry?from=2`);
  await scene.clickText('Carry over 2 rules');
  const list = '[aria-label^="Carried over from MET 115"]';
  await scene.see(list, /Forecast due tomorrow.*Forecast 3 has no match in this course/);
  await scene.clickText('Undo carrying over', list);
  await scene.see('[role=dialog]', /Nothing of it was sent/);
  await scene.clickText('Undo carrying over', '[role=dialog] button');
  await scene.see('body', /Everything from MET 115 was removed/);
  await scene.gone(list);
  await scene.go(`${stage.base}/c/3/rules`);
  expect(await scene.text('main')).not.toMatch(/Forecast due tomorrow/);
});

test('a course that is over goes into the archive, is read there, and comes out again', async () => {
  await scene.go(`${stage.base}/c/2/course`);
  await scene.clickText('Archive course …');
  await scene.see('[role=dialog]', /Nothing is deleted/);
  await scene.clickText('Archive course', '[role=dialog] button');
  await scene.see('[data-testid=standing]', /This course was archived on .* nothing changes or is sent/);
  await scene.go(`${stage.base}/c/1/today`);
  await scene.clickText('NAV 120', 'header');
  await scene.see('[role=menu]', /Archived courses \(1\)/);
  expect(await scene.text('[role=menu]')).not.toMatch(/MET 115 Weather/);
  await scene.press('Escape');
  // The demo's clock goes on without it.
  const moved = await scene.page.evaluate(async () => {
    const headers = { 'content-type': 'application/json' };
    return (await fetch('/api/v1/demo/clock', { method: 'POST', headers, body: '{"by":"day"}' })).status;
  });
  expect(moved).toBe(200);
  await scene.go(`${stage.base}/c/2/course`);
  await scene.clickText('Take out of the archive');
  await scene.see('body', /out of the archive\. Its mail is still stopped/);
  await scene.see('[data-testid=standing]', /All mail of this course has been stopped/);
});
