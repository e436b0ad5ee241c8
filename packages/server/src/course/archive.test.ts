import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { API_BASE, endpoints, type AnyEndpoint } from '@zest-bell/core/contract';
import type { CourseCard, InboxAnswer } from '@zest-bell/core/exchange';
import { NudgeRow } from '../mail/nudges/entity.ts';
import { runDueRounds } from '../rounds/deciding/scheduler.ts';
import { at, openStage, ruleOf, type Agent, type TestStage } from '../testing/stage.ts';
import { unguarded } from '../testing/unguarded.ts';

let stage: TestStage;
let ada: Agent;
const base = '/api/v1/courses/1';
beforeEach(async () => {
  stage = await openStage({ now: '2026-12-19T12:00', rules: [ruleOf()] });
  ada = await stage.signIn();
});
afterEach(() => stage.close());

const card = async () => ((await ada.get('/api/v1/courses').expect(200)).body as CourseCard[])[0]!;
const changing = endpoints.filter(
  ({ endpoint: { path, method, needs, inArchive } }) =>
    path.startsWith('/courses/{course}') && method !== 'GET' && needs !== 'course.read' && !inArchive,
);
const pathOf = ({ path }: AnyEndpoint) => `${API_BASE}${path.replace('{course}', '1').replace(/\{\w+\}/g, '1')}`;

test('whatever would change an archived course is refused, and all of it is read', async () => {
  await ada.post(`${base}/archive`).expect(204);
  expect(changing.length).toBeGreaterThan(40);
  for (const { module, name, endpoint } of changing) {
    const method = endpoint.method.toLowerCase() as 'post' | 'put' | 'delete';
    const { status, body } = await ada[method](pathOf(endpoint)).send({ 'no such field': 1 });
    const said = [`${module}.${name}`, status, (body as { code: string }).code];
    expect(said).toEqual([`${module}.${name}`, 409, 'courseArchived']);
  }
  for (const place of ['', '/rules', '/wordings', '/today', '/log', '/changes'])
    await ada.get(base + place).expect(200);
  const told = await stage.tell([{ person: 'p1', kind: 'visit', at: '2026-12-18T12:00:00-05:00' }]);
  expect([told.status, (told.body as { code: string }).code]).toEqual([409, 'courseArchived']);
});

test('no rule of it runs and it waits for nobody; nothing of it is deleted', async () => {
  stage.clock.set(at('2026-12-10T12:00'));
  expect(await card()).toMatchObject({ isArchived: false, rulesOn: 1 });
  await ada.post(`${base}/archive`).expect(204);
  stage.clock.set(at('2026-12-15T12:00'));
  await runDueRounds(stage.services);
  expect(await unguarded(stage.orm).count(NudgeRow)).toBe(0);
  expect(await card()).toMatchObject({ isArchived: true, rulesOn: 1 });
  const inbox = (await ada.get('/api/v1/inbox').expect(200)).body as InboxAnswer;
  expect(inbox.courses).toEqual([]);
});

test('taken out again, its mail stays stopped until somebody starts it', async () => {
  await ada.post(`${base}/archive`).expect(204);
  await ada.post(`${base}/unarchive`).expect(204);
  expect((await ada.get(base).expect(200)).body).toMatchObject({ archivedAt: null });
  expect((await ada.get(`${base}/standing`).expect(200)).body).toMatchObject({ stopped: { by: 'Ada Lind' } });
  await ada.post(`${base}/mail/start`).send({ queued: 'withdraw', missed: 'skip' }).expect(200);
});
