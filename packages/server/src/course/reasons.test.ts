/** Why somebody changed what runs: it is kept with the version, among the changes, and on the others' Today for a week. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { RuleVersionAnswer, TodayAnswer, RuleCard } from '@zest-bell/core/exchange';
import type { ChangesAnswer } from '@zest-bell/core/imports';
import { at, openStage, type Agent, type TestStage } from '../testing/stage.ts';

let stage: TestStage;
let owner: Agent;
let colleague: Agent;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
  owner = await stage.signIn();
  colleague = await stage.colleague('co-instructor', 'cy@saltmarsh.example', 'Cy Vane');
});
afterEach(() => stage.close());

const card = async (): Promise<RuleCard> =>
  ((await owner.get('/api/v1/courses/1/rules').expect(200)).body as RuleCard[])[0]!;
const reasonsFor = async (who: Agent) =>
  ((await who.get('/api/v1/courses/1/today').expect(200)).body as TodayAnswer).reasons.map((r) => [
    r.by,
    r.name,
    r.words,
  ]);

async function change(who: Agent, why: string, name: string) {
  const { rule, version } = await card();
  const body = { rule: { ...rule, name }, version, confirmed: true, why };
  return who.put('/api/v1/courses/1/rules/away').send(body);
}

test('of a rule stands with its version, in Changes, and on Today of the others for a week', async () => {
  expect((await change(colleague, 'Quiz 1 moved to Friday', 'Quiet week')).status).toBe(200);
  await change(owner, '', 'Quiet for a week').then((res) => expect(res.status).toBe(200));
  const versions = (await owner.get('/api/v1/courses/1/rules/away/versions').expect(200)).body as RuleVersionAnswer[];
  expect(versions.map((v) => v.why)).toEqual([null, 'Quiz 1 moved to Friday', null]);
  const changes = (await owner.get('/api/v1/courses/1/changes').expect(200)).body as ChangesAnswer;
  expect(changes.reasons).toMatchObject([{ what: 'rule', of: 'away', by: 'Cy Vane', name: 'Quiet for a week' }]);
  expect(await reasonsFor(owner)).toEqual([['Cy Vane', 'Quiet for a week', 'Quiz 1 moved to Friday']]);
  expect(await reasonsFor(colleague)).toEqual([]);
  stage.clock.set(at('2026-09-17T12:01'));
  expect(await reasonsFor(owner)).toEqual([]);
});

test('of a wording and of the limits is kept as well; what is too long is refused at its field', async () => {
  const [wording] = (await owner.get('/api/v1/courses/1/wordings').expect(200)).body as { version: number }[];
  const { name, purpose, subject, text } = wording as unknown as Record<string, string>;
  await colleague
    .put('/api/v1/courses/1/wordings/gentle')
    .send({
      wording: { id: 'gentle', name, purpose, subject, text: `${text!}\n\nTake care` },
      version: wording!.version,
      why: 'Softer',
    })
    .expect(200);
  const course = (await owner.get('/api/v1/courses/1').expect(200)).body as Record<string, unknown>;
  const { settings, breaks, marks, guards, settingsVersion: version } = course;
  const limits = { settings, breaks, marks, guards };
  const refused = await colleague
    .put('/api/v1/courses/1/limits')
    .send({ limits, version, why: 'x'.repeat(201) })
    .expect(400);
  expect((refused.body as { problems: { path: string }[] }).problems[0]!.path).toBe('why');
  await colleague.put('/api/v1/courses/1/limits').send({ limits, version, why: 'The midterm is over' }).expect(204);
  expect(await reasonsFor(owner)).toEqual([
    ['Cy Vane', '', 'The midterm is over'],
    ['Cy Vane', 'Gentle check-in', 'Softer'],
  ]);
});
