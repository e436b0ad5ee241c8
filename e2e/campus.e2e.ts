/** The demo's learning platform: opened from the clock's menu, it launches, feeds the first course, and can be made to fail. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
let scene: Scene;
let campus = '';
beforeAll(async () => {
  stage = await openStage();
  scene = await stage.openDemo({ place: '/c/1/today' });
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
});

/** On the platform's page, in a browser of its own. */
async function onCampus(): Promise<Scene> {
  const other = await stage.open('/', { apart: true });
  await other.page.goto(campus);
  return other;
}

test('its page is in the clock’s menu', async () => {
  await scene.clickLabelled('Demo clock');
  const link = await scene.page.waitForSelector('[role=menuitem][href^="http://localhost"]');
  campus = await link!.evaluate((a) => (a as HTMLAnchorElement).href);
  await scene.press('Escape');
});

test('an instructor comes from it into their course, and what feeds the course is told there', async () => {
  const instructor = await onCampus();
  await instructor.click('button', 'Open as instructor: Dr. Runa Ostrander');
  await instructor.until(() => location.pathname === '/c/1/today');
  await instructor.see('main', /Today/);
  await instructor.page.goto(`${stage.base}/c/1/course/connections`);
  const ONE_ROSTER = '[aria-label^="OneRoster at localhost"]';
  await instructor.see('main', /Caliper events.*[\d,]+ came in the last seven days.*xAPI statements.*[\d,]+ came/);
  await instructor.clickText('Ask it now', ONE_ROSTER);
  await instructor.see(ONE_ROSTER, /It last sent everything.*0 new people, 0 changed, 0 gone · 0 new items, 0 changed/);
});

test('a student comes from it to their own page', async () => {
  const student = await onCampus();
  await student.clickAt('[data-of="nav-120 student"] button');
  await student.see('body', /What Zest Bell looks at|looks at/);
});

test('a class from which nobody came yet becomes a course by the first launch, with its students and grades', async () => {
  const instructor = await onCampus();
  await instructor.clickAt('[data-of="knt-105 instructor"] button');
  await instructor.see('main', /Set up Knots and Lines/);
  await instructor.see('main', /12 students on the roster/);
  await instructor.clickText('Confirm days and time zone', 'main');
  await instructor.see('body', /Rules can be turned on now/);
});

test('its faults are switched on there, and are told in plain words here', async () => {
  const other = await onCampus();
  await other.clickAt('input[value="wrongKey"]');
  await other.clickAt('input[value="serverError"]');
  await Promise.all([other.page.waitForNavigation(), other.clickText('Save', 'form button')]);
  expect(await other.read('input[value="wrongKey"]', (box) => box.checked)).toBe(true);
  await other.click('button', 'Open as instructor: Dr. Runa Ostrander');
  await other.until(() => location.pathname === '/lti/launch');
  await other.see('body', /key/);
  await scene.go(`${stage.base}/c/1/course/connections`);
  const ONE_ROSTER = '[aria-label^="OneRoster at localhost"]';
  await scene.clickText('Ask it now', ONE_ROSTER);
  await scene.see(ONE_ROSTER, /It sent nothing the last time/);
});
