/** Every request of the contract is served, behind what it needs, and nothing else is. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { Validator } from '@seriousme/openapi-schema-validator';
import express from 'express';
import request from 'supertest';
import { ACCESS_ROLES, CAPABILITIES, capabilitiesOf, type AccessRole } from '@zest-bell/core/access';
import { API_BASE, contract, endpoints, openApi, type AnyEndpoint } from '@zest-bell/core/contract';
import { doorOf } from '../app.ts';
import { ANSWERS } from './docs.ts';
import { holdsToContract } from '../testing/answers.ts';
import { CourseRow } from '../course/entity.ts';
import { ERRORS } from '../platform/errors/errors.ts';
import { MailTroubleRow } from '../mail/outbox/entity.ts';
import { TroubleRow } from '../rounds/deciding/entity.ts';
import { openStage, type Agent, type TestStage } from '../testing/stage.ts';
import { Account } from './entity.ts';
import { unguarded } from '../testing/unguarded.ts';

let stage: TestStage;
const people = {} as Record<AccessRole, Agent>;
beforeAll(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
  for (const role of ACCESS_ROLES) people[role] = await stage.colleague(role);
});
afterAll(() => stage.close());

const ofDemo = new Set<AnyEndpoint>(Object.values(contract.demo));
const ofCourse = endpoints.filter(({ endpoint }) => endpoint.path.startsWith('/courses/{course}'));
const pathIn = (endpoint: AnyEndpoint, course: number): string =>
  `${API_BASE}${endpoint.path.replace('{course}', String(course)).replace(/\{\w+\}/g, '1')}`;
const methodOf = (endpoint: AnyEndpoint) => endpoint.method.toLowerCase() as 'get' | 'post' | 'put' | 'delete';
/** With a body that no schema takes: it is not read before somebody may. */
const send = (asker: Agent, endpoint: AnyEndpoint, course: number) => {
  const sent = asker[methodOf(endpoint)](pathIn(endpoint, course));
  return endpoint.method === 'GET' ? sent : sent.send({ 'no such field': 1 });
};

test('what is declared is served, and nothing else is', () => {
  const { served } = doorOf(stage.services, stage.dispatcher, { demo: null });
  const declared = endpoints.map(({ endpoint }) => endpoint).filter((e) => !ofDemo.has(e));
  const nameOf = (e: AnyEndpoint) => `${e.method} ${e.path}`;
  expect(served.map(nameOf).toSorted()).toEqual(declared.map(nameOf).toSorted());
});

describe('a request about a course', () => {
  test('is refused to whoever is not signed in, and does not exist for those who have no part in it', async () => {
    for (const { module, name, endpoint } of ofCourse) {
      const stranger = await send(request(stage.app), endpoint, 1);
      const elsewhere = await send(people.owner, endpoint, 2);
      expect([`${module}.${name}`, stranger.status, elsewhere.status]).toEqual([`${module}.${name}`, 401, 404]);
    }
  });

  test.each(ACCESS_ROLES)(
    'is refused to an %s whose role does not allow it, before anything of it is read',
    async (role) => {
      const may = capabilitiesOf(role, { assistantsDecide: false });
      const lacking = ofCourse.filter(({ endpoint: { needs } }) =>
        CAPABILITIES.some((c) => c === needs && !may.includes(c)),
      );
      for (const { module, name, endpoint } of lacking) {
        const { status, body } = await send(people[role], endpoint, 1);
        expect([`${module}.${name}`, status, (body as { code: string }).code]).toEqual([
          ...[`${module}.${name}`, 403, 'notAllowed'],
        ]);
      }
    },
    60_000,
  );

  test('takes no body that is no JSON, also where it takes none, and does nothing then', async () => {
    for (const { module, name, endpoint } of endpoints) {
      if (endpoint.method === 'GET' || endpoint.upload || ofDemo.has(endpoint) || endpoint.needs === 'key') continue;
      if (endpoint.needs === 'administrator') continue;
      for (const [type, body] of [
        ['text/plain', 'no json'],
        ['application/json', '{"no json'],
      ] as const) {
        const asked = people.owner[methodOf(endpoint)](pathIn(endpoint, 1)).set('content-type', type);
        expect([`${module}.${name}`, (await asked.send(body)).status]).toEqual([`${module}.${name}`, 400]);
      }
    }
    // Nobody was signed out by it.
    await people.owner.get(`${API_BASE}/courses`).expect(200);
  });

  test('lets an assistant change a rule and a wording as long as nothing of them reaches students', async () => {
    const ada = await stage.signIn();
    const base = `${API_BASE}/courses/1`;
    type Cards = { rule: { id: string; status: string }; version: number }[];
    let [card] = (await ada.get(`${base}/rules`).expect(200)).body as Cards;
    const change = async (who: Agent) => {
      const [now] = (await ada.get(`${base}/rules`)).body as Cards;
      const rule = { ...(now!.rule as object), note: 'Looked at' };
      return (await who.put(`${base}/rules/${now!.rule.id}`).send({ rule, version: now!.version })).status;
    };
    const word = async (who: Agent) => {
      const [now] = (await ada.get(`${base}/wordings`)).body as { id: string; version: number; subject: string }[];
      const { id, subject } = now!;
      const wording = { ...now!, subject: `${subject}.` };
      for (const other of ['version', 'usedBy', 'onTrial', 'copies', 'drafted'])
        delete (wording as Record<string, unknown>)[other];
      return (await who.put(`${base}/wordings/${id}`).send({ wording, version: now!.version })).status;
    };
    expect(card!.rule.status).toBe('on');
    const bo = people.assistant;
    // What they change of a rule that is on stays beside it, and what it decides stays as it was.
    expect([await change(bo), await word(bo)]).toEqual([200, 200]);
    type DraftedRule = {
      rule: { note: string };
      version: number;
      drafted: { rule: { note: string }; by: string } | null;
    };
    const kept = async () => ((await ada.get(`${base}/rules`)).body as DraftedRule[])[0]!;
    expect(await kept()).toMatchObject({
      rule: { note: '' },
      version: 1,
      drafted: { rule: { note: 'Looked at' }, by: 'assistant' },
    });
    const publish = (who: Agent) =>
      who.post(`${base}/rules/${card!.rule.id}/publish`).send({ version: 1, confirmed: true });
    expect([(await publish(bo)).status, (await publish(people['co-instructor'])).status]).toEqual([403, 200]);
    expect(await kept()).toMatchObject({ rule: { note: 'Looked at' }, version: 2, drafted: null });
    expect(await change(bo)).toBe(200);
    await bo.delete(`${base}/rules/${card!.rule.id}/draft`).expect(204);
    await bo.delete(`${base}/rules/${card!.rule.id}/draft`).expect(404);
    card = (await kept()) as unknown as Cards[number];
    const pause = { rules: [{ rule: card.rule.id, version: card.version }], status: 'paused' };
    await ada.post(`${base}/rules/status`).send(pause).expect(200);
    expect([await change(bo), await word(bo)]).toEqual([200, 200]);
  });

  test('from another site is refused, whoever is signed in', async () => {
    const asked = people.assistant.put(`${API_BASE}/courses/1/lookout/pins`).set('sec-fetch-site', 'cross-site');
    const res = await asked.set('origin', 'https://elsewhere.example').send({});
    expect([res.status, (res.body as { code: string }).code]).toEqual([403, 'crossSiteRequest']);
  });
});

test('the document of it all is open, and is the contract', async () => {
  const res = await request(stage.app).get('/api/openapi.json').expect(200);
  expect(res.body).toEqual(JSON.parse(JSON.stringify(openApi('', ANSWERS, Object.keys(ERRORS)))));
});

test('the document is one of OpenAPI 3.1, by a validator that did not write it, and its page takes nothing from elsewhere', async () => {
  const { body } = await request(stage.app).get('/api/openapi.json').expect(200);
  const { valid, errors } = await new Validator().validate(body as Record<string, unknown>);
  expect([valid, errors]).toEqual([true, undefined]);
  const page = await request(stage.app).get('/api/docs').expect(200);
  const linked = [...page.text.matchAll(/(?:src|href)="([^"]+)"/g)].map(([, to]) => to!);
  expect(linked.every((to) => to.startsWith('/api/docs/'))).toBe(true);
  for (const to of linked) await request(stage.app).get(to).expect(200);
});

test('an answer that is not what its request declares does not go unnoticed in any test', async () => {
  const app = express();
  app.use(holdsToContract);
  const clock = { now: 1, nextRound: null, demo: false, silent: false, campus: null };
  app.get(
    `${API_BASE}/clock`,
    (req, res) => void res.json(req.query['wrong'] ? { ...clock, nextRound: 'soon' } : clock),
  );
  await request(app).get(`${API_BASE}/clock`).expect(200, clock);
  const res = await request(app).get(`${API_BASE}/clock?wrong=1`);
  expect([res.status, res.text]).toEqual([
    599,
    expect.stringMatching(/^desk\.clock is not what the contract says: data\/nextRound must be null/),
  ]);
});

test('what keeps the installation is an administrator’s alone', async () => {
  const ofAdministrators = endpoints.filter(
    ({ endpoint }) => endpoint.needs === 'administrator' && !ofDemo.has(endpoint),
  );
  expect(ofAdministrators.length).toBeGreaterThan(5);
  for (const { module, name, endpoint } of ofAdministrators) {
    const stranger = await send(request(stage.app), endpoint, 1);
    const owner = await send(people.owner, endpoint, 1);
    expect([`${module}.${name}`, stranger.status, owner.status]).toEqual([`${module}.${name}`, 401, 403]);
  }
});

test('an administrator sees what keeps courses waiting, and no student', async () => {
  const em = unguarded(stage.orm);
  await em.nativeUpdate(Account, { email: 'ada@saltmarsh.example' }, { isAdministrator: true });
  await em.nativeUpdate(CourseRow, { id: 1 }, { stoppedAt: 5, guards: { askAbove: 1, staleHours: 2 } });
  em.create(TroubleRow, { course: 1, rule: 'away', since: 7, attempts: 2, nextTryAt: 9, message: 'It broke' });
  em.create(MailTroubleRow, {
    course: 0,
    trouble: 'unreachable',
    response: 'no line',
    since: 6,
    tries: 1,
    nextTryAt: 9,
  });
  await em.flush();
  const ada = await stage.signIn();
  const { body } = await ada.get(`${API_BASE}/admin/troubles`).expect(200);
  expect(body).toEqual([
    { course: null, kind: 'mail', since: 6, says: 'no line' },
    { course: 'NAV 120', kind: 'round', since: 7, says: 'It broke' },
    { course: 'NAV 120', kind: 'stopped', since: 5, says: '' },
    { course: 'NAV 120', kind: 'stale', since: null, says: '' },
  ]);
});
