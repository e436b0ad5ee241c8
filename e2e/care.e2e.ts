/** What should hold on every view: nothing serious for axe-core in light and dark, and clear words where something fails. */
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

let stage: BrowserStage;
let scene: Scene;
beforeAll(async () => {
  stage = await openStage();
  scene = await stage.open();
  await scene.page.setBypassCSP(true);
});
afterAll(() => stage.stop());

async function serious(): Promise<string[]> {
  await scene.page.evaluate(axe);
  return scene.page.evaluate(async () => {
    const { violations } = await (
      window as unknown as {
        axe: { run(): Promise<{ violations: { id: string; impact: string; nodes: { html: string }[] }[] }> };
      }
    ).axe.run();
    return violations
      .filter((v) => v.impact === 'serious' || v.impact === 'critical')
      .map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(' ')}`);
  });
}

const VIEWS = [
  ['/c/1/rules', /Rules/],
  ['/c/1/rules/drift', /match(es)? now/],
  ['/c/1/log', /Why:/],
  ['/c/1/log?view=withheld', /held back:/],
  ['/c/1/today', /Coming checks/],
  ['/c/1/course', /held back: message budget used up/],
  ['/c/1/course/people', /44 of 44 people/],
  ['/c/1/course/items', /Group weights/],
  ['/c/1/course/calendar', /Week by week/],
  ['/c/1/course/data', /lab grades\.csv.*Which item is “Tide diary”/],
  ['/c/1/course/changes', /No changes yet/],
  ['/c/1/course/access', /Tokens for programs/],
  ['/c/1/course/acts', /Who did what/],
  ['/c/1/course/connections', /Caliper events/],
  ['/account', /Where you are signed in/],
  ['/admin', /Settings for everyone/],
  ['/c/1/students/n7?part=facts', /Data about/],
  ['/c/1/setup', /This course is set up/],
  ['/c/3/carry?from=2', /Where texts mention the old term/],
  ['/c/1/merge', /Drop a sheet here/],
  ['/c/1/write?student=n21', /Send 1 message|Send 0 messages/],
  ['/new', /Start from a scenario file/],
  ['/c/1/wording', /Gentle check-in/],
  ['/c/1/students/n21', /Quiet for five days/],
  ['/c/1/rules/quiet/history', /already nudged this time/],
  ['/c/1/students', /42 of 42 students/],
  ['/c/1/students/gradebook', /12 of 42 items/],
  ['/c/1/students/class', /32 submissions wait for a grade/],
  ['/c/1/tray', /6 nudges waiting/],
  ['/c/1/students/n7?part=rules', /Practices, and still scores low/],
  ['/c/1/students/n7?part=grades', /Beside the class/],
  ['/c/1/replay?rule=quiet', /Students reached \d+ of 42/],
  ['/c/1/replay/who-it-found?rule=quiet', /Share found/],
  ['/c/1/replay/outcomes', /This is not an experiment/],
  ['/c/1/replay/ahead', /next seven days/],
  ['/c/1/replay/term', /Rule by rule/],
  ['/c/2/rules/quiet/courses', /nudges to \d+ students.*What would change in 1 other course/],
  ['/c/1/today/everywhere', /What ran in the last days/],
  ['/c/1/students/everywhere', /94 of 94 students/],
  ['/c/1/log/back', /who got a message came back/],
  ['/c/1/rules/everywhere', /Last check.*Quiet for five days/],
  ['/c/1/replay/terms', /Rules of both terms/],
  ['/c/1/shelf', /Shelf of Saltmarsh College.*Gentle check-in/],
  ['/c/1/tray/everywhere', /waiting, the most urgent first/],
  ['/c/1/log/everywhere', /Rule and subject/],
  ['/mailroom', /Mailroom/],
] as const;

describe.each(['light', 'dark'])('in %s', (scheme) => {
  beforeAll(() => scene.page.emulateMediaFeatures([{ name: 'prefers-color-scheme', value: scheme }]));

  test('the sign-in page', async () => {
    await scene.page.deleteCookie({ name: 'zest-bell' });
    await scene.go(stage.base);
    expect(await serious()).toEqual([]);
    await scene.clickText('Open the demo as Dr. Ostrander');
    await scene.see('main', /[Ww]aiting for you/);
  });

  test('the words of a wording, with what goes with it', async () => {
    await scene.go(`${stage.base}/c/1/wording`);
    await scene.clickText('Where you stand', 'main');
    await scene.clickText('Also as a letter', '[role=dialog]');
    await scene.see('[role=dialog]', /Checked for all 42 students.*Letter as a PDF/);
    expect(await serious()).toEqual([]);
    await scene.clickText('+ link', '[role=dialog]');
    await scene.page.waitForSelector('[cmdk-item]');
    expect(await serious()).toEqual([]);
    // What is typed stays as a draft: the next look begins anew.
    await scene.press('Escape');
    await scene.clickText('Discard changes', '[role=dialog]');
  });

  test('a file is brought', async () => {
    await scene.page.evaluate(async () => {
      const body = 'Student,Chart lab 4 (40),Tide diary\n"Abbot, Wren",36,2\n';
      const headers = { 'content-type': 'application/octet-stream' };
      await fetch('/api/v1/courses/1/imports?name=lab%20grades.csv', { method: 'POST', headers, body });
    });
  });

  test.each(VIEWS)('%s', async (path, wanted) => {
    await scene.go(`${stage.base}${path}`);
    await scene.see('body', wanted);
    expect(await serious()).toEqual([]);
  });

  test('the starters', async () => {
    await scene.go(`${stage.base}/c/1/rules`);
    await scene.click('button', 'New rule');
    await scene.see('[role=dialog]', /of 42 now/);
    expect(await serious()).toEqual([]);
  });

  test('the rehearsal', async () => {
    await scene.go(`${stage.base}/c/1/rules/quiet`);
    await scene.click('button', 'Rehearse');
    await scene.see('[role=dialog]', /would be nudged/);
    expect(await serious()).toEqual([]);
  });
});

test('a wrong password is said in words, and the address typed is kept', async () => {
  await scene.page.deleteCookie({ name: 'zest-bell' });
  await scene.go(stage.base);
  await scene.type('input[name=email]', 'r.ostrander@saltmarsh.example');
  await scene.type('input[name=password]', 'no');
  await scene.click('button', 'Sign in');
  await scene.see('[role=alert]', /do not match/);
  expect(await scene.read('input[name=email]', (e) => e.value)).toBe('r.ostrander@saltmarsh.example');
});

test('an unknown merge field is named before anything is sent, and the words cannot be saved', async () => {
  await scene.clickText('Open the demo as Dr. Ostrander');
  await scene.see('main', /[Ww]aiting for you/);
  await scene.go(`${stage.base}/c/1/rules/quiet`);
  await scene.click('button', 'Wording: Gentle check-in');
  await scene.clickText('Change the text');
  const area = await scene.page.waitForSelector('aria/Text[role="textbox"]');
  await area!.focus();
  await scene.page.keyboard.type(' {{ student.fist_name }}');
  await scene.see(
    '[role=dialog]',
    /There is no merge field “student\.fist_name”; did you mean “student\.first_name”\?/,
  );
  const save = await scene.find('button', 'Save wording');
  expect(await save.evaluate((b) => (b as HTMLButtonElement).disabled)).toBe(true);
});

test('on a phone nothing runs out of the page, and everybody can use it', async () => {
  await scene.page.setViewport({ width: 390, height: 800 });
  const troubles: string[] = [];
  for (const [path] of VIEWS) {
    await scene.go(`${stage.base}${path}`);
    const wider = await scene.page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
    if (wider > 0) troubles.push(`${path} is ${wider} px too wide`);
    for (const trouble of await serious()) troubles.push(`${path}: ${trouble}`);
  }
  expect(troubles).toEqual([]);
});
