/** From the learning platform to a rule that is on: no password, no file. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join } from 'node:path';
import { LAUNCH_ROLES, openPlatform, type LearningPlatform } from '@zest-bell/standins';
import { inInstallation, withNewAccount } from '../packages/server/dist/access/holding.js';
import { addPlatform, platformSchema } from '../packages/server/dist/connections/lti/platforms.js';
import { platformHolds } from '../packages/server/dist/connections/lti/entity.js';
import { readyDatabase } from '../packages/server/dist/wiring/database.js';
import { outgoing } from '../packages/server/dist/platform/http/outgoing.js';
import { inTransaction } from '../packages/server/dist/platform/database/transaction.js';
import { updateRows } from '../packages/server/dist/platform/database/writing.js';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let platform: LearningPlatform;
let stage: BrowserStage;
let scene: Scene;
let tool = '';
const CONTEXT = { id: 'oce-210', label: 'OCE 210', title: 'Oceans' };
const INSTRUCTOR = { sub: 'u-1', name: 'Ines Vale', email: 'ines@campus.example', roles: [LAUNCH_ROLES.instructor] };
const STUDENT = { sub: 's1', name: 'Sol Kelp', email: 's1@campus.example', roles: [LAUNCH_ROLES.learner] };

beforeAll(async () => {
  platform = await openPlatform({ tool: () => tool, contexts: [{ ...CONTEXT, launchers: [INSTRUCTOR, STUDENT] }] });
  const names = ['Sol', 'Mara', 'Ivo', 'Lea', 'Tom', 'Ana'];
  platform.members.set(
    CONTEXT.id,
    names.map((name, i) => ({
      user_id: `s${i + 1}`,
      status: 'Active',
      roles: [LAUNCH_ROLES.learner],
      given_name: name,
      family_name: 'Kelp',
      email: `s${i + 1}@campus.example`,
    })),
  );
  const line = { id: `${platform.base}/lineitems/${CONTEXT.id}/1`, label: 'Current lab', scoreMaximum: 20 };
  platform.lines.set(CONTEXT.id, [line]);
  platform.results.set(`/lineitems/${CONTEXT.id}/1`, [{ id: 'r1', userId: 's2', resultScore: 9, resultMaximum: 20 }]);
  stage = await openStage(async (folder) => {
    const orm = await readyDatabase(join(folder, 'zest-bell.db'));
    const person = { name: 'An administrator', email: 'admin@campus.example', passwordHash: '', createdAt: 0 };
    await inTransaction(orm, (tx) => withNewAccount(tx, { ...person, isAdministrator: true }, () => Promise.resolve()));
    await addPlatform({ orm, outgoing: outgoing({ allowPrivate: true }) }, platformSchema.parse(platform.registration));
    // An administrator has said that its addresses are its people's own: nobody has to type a code.
    await inInstallation(orm, (tx) => updateRows(tx, platformHolds, {}, { trustsAddresses: true }));
    await orm.close();
    return { ZEST_DEMO: 'off', ZEST_ALLOW_PRIVATE: 'on' };
  });
  tool = stage.base;
  scene = await stage.open();
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
  await platform.close();
});

const openAs = async (role: string) => {
  await scene.page.goto(platform.base);
  await scene.clickAt(`[data-of="${CONTEXT.id} ${role}"] button`);
};

test('an instructor presses the link, confirms the days, sees the students, and turns a starter on', async () => {
  await openAs('instructor');
  await scene.see('main', /Set up Oceans.*Confirm the days and time zone/);
  await scene.see('main', /6 students on the roster/);
  await scene.clickText('Confirm days and time zone', 'main');
  await scene.see('body', /Rules can be turned on now/);
  await scene.page.goto(`${stage.base}/c/1/course/connections`);
  await scene.see('main', /The learning platform.*It last sent everything.*6 new people/);
  await scene.clickText('Ask it now', 'main');
  await scene.see('body', /sent everything that Zest Bell asked for/);
  await scene.page.goto(`${stage.base}/c/1/rules?new`);
  await scene.see('[role=dialog]', /of 6 now/);
  await scene.clickText('Away for five days, firmer at ten', '[role=dialog]');
  await scene.see('main', /of 6 match/);
  await scene.clickText('Rehearse', 'main');
  await scene.see('[role=dialog]', /would be nudged/);
  await scene.press('Escape');
  await scene.clickText('Turn on', 'main');
  await scene.see('[role=dialog]', /Turn on/);
  await scene.clickText('Turn on', '[role=dialog] footer');
  await scene.go(`${stage.base}/c/1/rules`);
  await scene.page.waitForSelector('[role=switch][aria-checked=true]');
});

test('a student presses it and finds what is looked at, and the switch that pauses', async () => {
  await openAs('student');
  const page = await scene.see('main', /Sol, your instructor uses Zest Bell/);
  expect(page).toContain('days since last visit');
  await scene.clickText('Pause until the end of the term', 'main');
  await scene.see('main', /You have paused such messages/);
});
