/** Without the demo: a course of one's own, the machine's own clock, and a mail server of the institution. */
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { openLetterBox, type LetterBox } from './letterBox.ts';
import { openStage, setSendDelay, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';
import { INSTRUCTOR, setUpKnots, TOKEN } from './knotsCourse.ts';

let box: LetterBox;
let stage: BrowserStage;
let scene: Scene;
beforeAll(async () => {
  box = await openLetterBox();
  stage = await openStage(async (folder) => {
    await setUpKnots(join(folder, 'zest-bell.db'), ['Imani', 'Teo', 'Runa'], { perSpell: 1 });
    return { ZEST_DEMO: 'off', ZEST_SMTP_URL: box.url };
  });
  scene = await stage.open();
});
afterAll(async () => {
  await stage.stop();
  await box.close();
});

const tell = (events: readonly object[]) =>
  fetch(`${stage.base}/api/v1/activity`, {
    method: 'POST',
    headers: { authorization: `Bearer ${TOKEN}`, 'content-type': 'application/json' },
    body: JSON.stringify({ events }),
  });

test('an instructor signs in, sees who matches now, rings, and reads of what happened since', async () => {
  await scene.type('input[type=email]', INSTRUCTOR.email);
  await scene.type('input[type=password]', INSTRUCTOR.password);
  await scene.click('button', 'Sign in');
  await scene.see('main', /[Ww]aiting for you/);
  await setSendDelay(scene, 0);
  await scene.clickText('Rules', 'header');
  await scene.clickText('Quiet for five days', 'main');
  await scene.see('[aria-label="Who it reaches"], main', /3 of 3 match/);

  // The clock goes on and nothing on screen is asked for anew on its own: somebody visits, and the page says there is news.
  const asked: string[] = [];
  scene.page.on('request', (r) => asked.push(new URL(r.url()).pathname));
  const visit = { id: 'v1', person: 'p1', kind: 'visit', at: new Date().toISOString() };
  expect((await tell([visit])).ok).toBe(true);
  await scene.page.evaluate(() => window.dispatchEvent(new Event('visibilitychange')));
  await scene.see('[data-testid=news]', /New data has come in since/);
  expect(asked.filter((path) => /columns|limit-log/.test(path))).toEqual([]);
  await scene.clickText('Show the latest', '[data-testid=news]');
  await scene.see('main', /2 of 3 match/);

  // Links need a public address, which this server does not know.
  await scene.clickText('Check now', 'main');
  await scene.see('[role=dialog]', /2 messages will leave at once/);
  await scene.clickText('Check now', '[role=dialog] footer');
  await scene.see('body', /The rule ran: 2 messages on the way/);
  await scene.clickText('Send log', 'header');
  await scene.see('main', /All nudges 2 Sent 2/);
  expect(box.letters.map((l) => l.to).toSorted()).toEqual(['p2@saltmarsh.example', 'p3@saltmarsh.example']);
  await scene.clickText('Course', 'header');
  await scene.see('main', /Messages have no link for pausing nudges yet/);
  expect(scene.complaints).toEqual([]);
});
