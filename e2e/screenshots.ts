/** Takes the pictures of docs/screenshots from the demo at its opening: `npm run screenshots` after a build. */
import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { closeBrowser, openStage, root } from './harness.ts';
import type { Scene } from './scene.ts';
import { controlsPage } from '../scripts/controls.mjs';

const folder = join(root, 'docs', 'screenshots');
mkdirSync(folder, { recursive: true });

const shots: readonly (readonly [name: string, path: string, act?: (scene: Scene) => Promise<unknown>])[] = [
  ['rules', '/c/1/rules'],
  ['today', '/c/1/today'],
  ['course', '/c/1/course', (scene) => retype(scene, 'within', '21')],
  ['composer', '/c/1/rules/quiet'],
  [
    'words',
    '/c/1/wording',
    async (scene) => {
      await scene.clickText('Let’s talk', 'main');
      await scene.see('[role=dialog]', /First name or Hello.*Checked for all 42 students/);
    },
  ],
  [
    'carry',
    '/c/3/carry?from=2',
    async (scene) => {
      await scene.see('main', /Where texts mention the old term/);
      await scene.page.evaluate(() => document.querySelector('[aria-label="2. How items match"]')!.scrollIntoView());
    },
  ],
  ['student', '/c/1/students/n1'],
  ['send-log', '/c/1/log'],
  [
    'students',
    '/c/1/students',
    async (scene) => {
      // From the far end to two or more.
      const box = (await (await scene.page.waitForSelector(
        '[role=img][aria-label^="Missing items" i]',
      ))!.boundingBox())!;
      const { mouse } = scene.page;
      await mouse.move(box.x + box.width - 3, box.y + box.height / 2);
      await mouse.down();
      await mouse.move(box.x + box.width * 0.2, box.y + box.height / 2, { steps: 6 });
      await mouse.up();
      await scene.see('[data-testid=filter-sentence]', /missing/);
      await mouse.move(4, 790);
    },
  ],
  ['gradebook', '/c/1/students/gradebook'],
  [
    'class',
    '/c/1/students/class',
    (scene) => scene.until(() => document.querySelectorAll('[data-drawn]').length === 7),
  ],
  ['tray', '/c/1/tray'],
  ['replay', '/c/1/replay?rule=quiet', (scene) => scene.page.waitForSelector('[data-drawn]')],
  ['outcomes', '/c/1/replay/outcomes?by=text', (scene) => scene.page.waitForSelector('[data-drawn]')],
  ['term', '/c/1/replay/term', (scene) => scene.see('main', /Rule by rule/)],
  ['sets', '/c/2/rules/quiet/courses', (scene) => scene.see('main', /nudges to \d+ students.*nudges to \d+ students/)],
  ['early-signs', '/c/1/replay/early-signs', (scene) => scene.see('[aria-label="Early signs"]', /found, but did fine/)],
  ['who-it-found', '/c/1/replay/who-it-found?rule=quiet', (scene) => scene.page.waitForSelector('[data-drawn]')],
  [
    'import',
    '/c/1/course/data',
    async (scene) => {
      const rows =
        'Student;Last access;Chart lab 4 (40);Tide diary;Total\n"Abbot, Wren";Oct 24, 2026 9:10 PM;36;2;88%\nRosalind Achterberg;Oct 25, 2026;85%;3;91%\nNobody Known;never;12;;30%\nLukas Brandt;Oct 20, 2026;many;1;75%\nAverage;;31,5;2;71%\n';
      await upload(scene, 'Choose files', 'lab grades.csv', rows);
      await scene.see('main', /Which item is “Tide diary”/);
    },
  ],
];

async function upload(scene: Scene, label: string, name: string, text: string): Promise<void> {
  const path = join(mkdtempSync(join(tmpdir(), 'zest-bell-shots-')), name);
  writeFileSync(path, text);
  const chooser = await scene.page.waitForSelector(`input[aria-label="${label}"]`);
  await (chooser as unknown as { uploadFile(path: string): Promise<void> }).uploadFile(path);
}

async function retype(scene: Scene, label: string, text: string): Promise<void> {
  const field = await scene.page.waitForSelector(`aria/${label}[role="textbox"]`);
  await field!.click({ count: 3 });
  await field!.type(text);
}

/** The page of controls: the components themselves, under the style sheets of the built application. */
async function controls(scene: Scene): Promise<void> {
  const styles = await scene.page.$$eval('link[rel=stylesheet]', (links) => links.map((l) => l.href));
  await scene.page.setContent(await controlsPage(styles));
  await fontsCame(scene);
  const drawn = await scene.page.waitForSelector('main');
  await drawn!.screenshot({ path: join(root, 'docs', 'controls.png') });
}

const fontsCame = (scene: Scene): Promise<boolean> =>
  scene.page
    .waitForFunction(() => document.fonts.status === 'loaded', { timeout: 5000, polling: 50 })
    .then(() => true)
    .catch(() => false);

const stage = await openStage();
try {
  const scene = await stage.openDemo();
  await scene.see('main', /Quiet for five days/);
  for (const [name, path, act] of shots) {
    // Now and then Chromium waits for ever for a font that was on its way when the page before was left; another visit gets it.
    for (let visits = 0; visits < 5; visits++) {
      await scene.go(`${stage.base}${path}`);
      await act?.(scene);
      if (await fontsCame(scene)) break;
    }
    await new Promise((r) => setTimeout(r, 900));
    await scene.page.screenshot({ path: join(folder, `${name}.png`) });
  }
  await controls(scene);
} finally {
  await stage.stop();
  await closeBrowser();
}
process.exit();
