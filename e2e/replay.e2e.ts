/** Replay and hindsight: what other numbers would have changed, why a student heard on a day, how well a rule finds students. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { openStage, type Scene, type Stage } from './harness.ts';

let stage: Stage;
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

test('7 days instead of 5: who would be lost, how many nudges fewer, and nothing is saved', async () => {
  await scene.go(`${stage.base}/c/1/replay?rule=quiet`);
  await scene.see('[aria-label=Totals]', /24 nudges.*19 of 42 students.*Held back by limits 47 times.*Oct 5: 4 nudges/);
  const field = await scene.page.waitForSelector('[aria-label="What if"] input');
  await field!.click({ count: 3 });
  await field!.type('7');
  const said = await scene.see(
    '[aria-label="What would change"]',
    /nudges? fewer.*No longer reached: .*later on average/,
  );
  expect(said).toMatch(/No other student would be reached/);
  await scene.clickText('Back to the rule’s own numbers', 'main');
  await scene.page.waitForSelector('[aria-label="What would change"]', { hidden: true });
  await scene.see('[aria-label=Totals]', /24 nudges/);
});

test('by keys: why a student heard on that day, and not before', async () => {
  await scene.tabTo(/^Imani Okoro$/, 60);
  await scene.press('Enter');
  await scene.see(DIALOG, /Imani Okoro.*nudged.*Quiet for five days/);
  await scene.tabTo(/nudged/, 10);
  await scene.press('Enter');
  await scene.see(DIALOG, /Matches since .*last visit .* · \d+ days/);
  await scene.press('Escape');
  await scene.page.waitForSelector(DIALOG, { hidden: true });
});

test('all rules at once, and the chart as a table', async () => {
  await scene.select('main select', 'all');
  await scene.see('[aria-label=Totals]', /6 nudges|Waiting for you/);
  await scene.clickText('As a table', '[aria-label="Day by day"]');
  await scene.see('[aria-label="Day by day"]', /Day Nudged Waiting for you Held back 2026-09-/);
});

test('hindsight: found, missed, needlessly warned, how early, and at which number four of five are found', async () => {
  await scene.clickText('Hindsight', 'main');
  await scene.select('main select', 'quiet');
  await scene.see('[data-testid=shares]', /Share found: 6 of 11, 54\.5% \(28% to 78\.7%\) Share right: 6 of 19/);
  await scene.see('[aria-label=Missed]', /Missed 5.*Sunniva Dahl/);
  await scene.clickText('Needlessly warned', '[aria-label=Students]');
  await scene.see('[aria-label="Needlessly warned"]', /found .*, \d+ days? before/);
  await scene.see('main', /the rule finds four of five or more, .* days early, with \d+ needlessly warned/);
  // Whom one worries about is edited where it stands.
  await scene.clickText('a course grade under', '[data-testid=filter-sentence]');
  const field = await scene.page.waitForSelector(
    '[aria-label=Condition] input[inputmode], [aria-label=Condition] input',
  );
  await field!.click({ count: 3 });
  await field!.type('50');
  await scene.press('Escape');
  await scene.see('[data-testid=filter-sentence]', /under 50%/);
  await scene.see('[data-testid=shares]', /Share found: \d+ of [1-9],/);
});
