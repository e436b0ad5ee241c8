/** One rule for several courses: used in a third, changed here, and the change taken in two of the three, each with its own question. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
let scene: Scene;
const files = mkdtempSync(join(tmpdir(), 'zest-bell-sets-'));

/** A second section of the fall: it is course 4 of the demo. */
const SECTION = {
  format: 'zest-bell/scenario@1',
  course: {
    code: 'NAV 120 B',
    title: 'Coastal Navigation, evening',
    timeZone: 'America/New_York',
    start: '2026-08-31',
    end: '2026-12-18',
  },
  people: Array.from({ length: 6 }, (_, i) => ({
    id: `s${i}`,
    firstName: `Sailor${i}`,
    lastName: 'Quill',
    email: `sailor${i}@saltmarsh.example`,
    role: 'student',
    enrolledAt: '2026-08-31T00:00:00-04:00',
  })),
  items: [{ id: 'lab-a', title: 'Chart lab 1', kind: 'assignment', group: 'Labs', points: 40 }],
};

beforeAll(async () => {
  stage = await openStage();
  scene = await stage.openDemo({ place: '/new' });
  const file = join(files, 'section.json');
  writeFileSync(file, JSON.stringify(SECTION));
  await scene.upload('input[type=file][aria-label="Choose a scenario file"]', file);
  await scene.see('header', /NAV 120 B/);
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
  rmSync(files, { recursive: true, force: true });
});

const TABLE = 'table[aria-label="Course by course"]';
const CHANGES = '[aria-label="What would change in other courses"]';

test('the list says in how many courses a rule is, and where it differs; a further course gets a copy that is off', async () => {
  await scene.go(`${stage.base}/c/1/rules`);
  await scene.see('main', /In 2 courses, 1 differs/);
  await scene.clickText('In 2 courses, 1 differs');
  await scene.see('main', /“Quiet for five days” in 2 courses/);
  await scene.see(TABLE, /NAV 120 \(this course\) ● on the same .* would be nudged/);
  await scene.see(TABLE, /MET 115 ● on differs in .*who/);
  const other = '[aria-label="Use it in other courses too"]';
  await scene.see(other, /NAV 120 B Coastal Navigation, evening A copy would find 6 of 6 students there now/);
  await scene.see(other, /MET 115 S Weather for Mariners The courses do not run at the same time/);
  await scene.click('checkbox', 'NAV 120 B Coastal Navigation, evening');
  await scene.clickText('Use in 1 course', other);
  await scene.see('main', /“Quiet for five days” in 3 courses/);
  await scene.see(TABLE, /NAV 120 B off the same/);
});

test('a change here asks whether the others should have it, and is taken in one of them and left as a draft in the other', async () => {
  await scene.go(`${stage.base}/c/1/rules/quiet`);
  await scene.click('textbox', 'Name of the rule');
  await scene.press('End');
  await scene.type('[aria-label="Name of the rule"]', ' or so');
  await scene.clickText('Confirm changes …');
  await scene.see('[role=dialog]', /would be nudged/);
  await scene.clickText('Confirm changes', '[role=dialog]');
  await scene.see('[role=dialog]', /Change “Quiet for five days or so” in the 2 other courses too\?/);
  await scene.clickText('Look at the 2 other courses', '[role=dialog]');
  await scene.see(CHANGES, /What would change in 2 other courses/);
  // Nothing is preset where both changed it, and nothing is confirmed before somebody chose.
  await scene.see(
    CHANGES,
    /Name changed in both courses: choose one As in NAV 120 Quiet for five days or so As it is in MET 115 Not seen this week/,
  );
  await scene.see(CHANGES, /MET 115: choose one side where both changed/);
  await scene.click('checkbox', 'MET 115 Weather for Mariners');
  await scene.clickText('Confirm in 1 course', CHANGES);
  await scene.see('body', /Changed in NAV 120 B\./);
  await scene.see(TABLE, /NAV 120 B off the same/);
  // The third still runs as it did; a draft waits there.
  await scene.click('checkbox', 'MET 115 Weather for Mariners');
  await scene.clickText('Leave as drafts there', CHANGES);
  await scene.see(TABLE, /MET 115 .*a change waits there to be confirmed/);
  await scene.go(`${stage.base}/c/2/rules`);
  await scene.see('main', /Not seen this week.*In 3 courses, 1 differs a change from NAV 120 is waiting for you/);
});

test('there it is confirmed with a choice for what both changed; what was changed there alone stays', async () => {
  await scene.clickText('In 3 courses, 1 differs');
  const waiting = '[aria-label="A change is waiting for you"]';
  await scene.see(waiting, /What you have in MET 115 goes on as it is/);
  await scene.clickText('As in NAV 120', `${waiting} [aria-label="Name in MET 115"]`);
  await scene.clickText('Confirm the change', waiting);
  await scene.see('body', /The change is confirmed here/);
  await scene.see('main', /“Quiet for five days or so” in 3 courses/);
  await scene.see(TABLE, /MET 115 \(this course\) ● on differs in note, who, when it runs, how often/);
  await scene.go(`${stage.base}/c/2/rules/quiet`);
  await scene.see('main', /not signed in for 6 days/);
});

test('Today, students, rules and the send log are asked of all courses, each row with its course', async () => {
  await scene.go(`${stage.base}/c/1/students`);
  await scene.clickText('Everywhere (4 courses)');
  await scene.see('main', /100 of 100 students in 4 courses/);
  await scene.see('main', /NAV 120 B cannot answer: times Syllabus was opened/);
  await scene.type('[aria-label="Search students of all courses"]', 'sailor1');
  await scene.see('[role=table]', /NAV 120 B Sailor1 Quill/);
  await scene.go(`${stage.base}/c/1/log/everywhere`);
  await scene.see('main table', /MET 115 .*NAV 120 /);
  await scene.clickText('waiting for you', '[aria-label="Show nudges that are"]');
  await scene.see('main table', /NAV 120 .* Practices, and still scores low/);
  await scene.go(`${stage.base}/c/1/rules`);
  await scene.clickText('Everywhere (4 courses)');
  await scene.see('main table', /NAV 120 Quiet for five days .*MET 115 /);
  await scene.type('[aria-label="Search the rules of all courses"]', 'met 115');
  await scene.until(() => !document.querySelector('main table')!.textContent.includes('NAV 120'));
  await scene.clickText('Off', '[aria-label="Show rules that are"]');
  await scene.go(`${stage.base}/c/1/today/everywhere`);
  await scene.see('[aria-label="Waiting for you"]', /NAV 120 .*MET 115 /);
  await scene.see('[aria-label="Falling through"]', /MET 115 |NAV 120 /);
  await scene.see(
    '[aria-label="What ran in the last days"]',
    /MET 115 Not seen this week|MET 115 Quiet for five days or so/,
  );
});
