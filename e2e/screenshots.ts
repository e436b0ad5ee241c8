/** Takes the pictures of docs/screenshots from the demo at its opening: `npm run screenshots` after a build. */
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { openStage, root, type Scene } from './harness.ts';

const folder = join(root, 'docs', 'screenshots');
mkdirSync(folder, { recursive: true });

const shots: readonly (readonly [name: string, path: string, act?: (scene: Scene) => Promise<unknown>])[] = [
  ['rules', '/c/1/rules'],
  ['composer', '/c/1/rules/quiet'],
  ['composer-part', '/c/1/rules/drift', (scene) => scene.clickText('not visited the course', '[data-testid=sentence]')],
  ['rehearsal', '/c/1/rules/quiet', (scene) => scene.click('button', 'Rehearse')],
  [
    'wording',
    '/c/1/rules/labs',
    async (scene) => {
      await scene.click('button', 'Wording: Your lab is waiting');
      await scene.clickText('Change its words');
    },
  ],
  ['send-log', '/c/1/log'],
  ['withheld', '/c/1/log?view=withheld'],
  ['mailroom', '/mailroom'],
];

const stage = await openStage();
const scene = await stage.open();
await scene.page.screenshot({ path: join(folder, 'sign-in.png') });
await scene.clickText('Open the demo as Dr. Ostrander');
await scene.see('main', /Quiet for five days/);
for (const [name, path, act] of shots) {
  await scene.page.goto(`${stage.base}${path}`, { waitUntil: 'networkidle0' });
  await act?.(scene);
  await new Promise((r) => setTimeout(r, 900));
  await scene.page.screenshot({ path: join(folder, `${name}.png`) });
}
await scene.page.emulateMediaFeatures([{ name: 'prefers-color-scheme', value: 'dark' }]);
await scene.page.goto(`${stage.base}/c/1/rules/quiet`, { waitUntil: 'networkidle0' });
await new Promise((r) => setTimeout(r, 900));
await scene.page.screenshot({ path: join(folder, 'composer-dark.png') });
await stage.stop();
