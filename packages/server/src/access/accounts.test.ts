import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { rmSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import request from 'supertest';
import { createApp } from '../app.ts';
import { Account, SessionRow } from './entity.ts';
import { hashPassword, passwordFits } from './passwords.ts';
import { CAPABILITIES } from '@zest-bell/core/access';
import { idOf } from './pathIds.ts';
import { forgetSessions } from './sessions.ts';
import { openStage, PASSWORD, type TestStage } from '../testing/stage.ts';
import { unguarded } from '../testing/unguarded.ts';

const NOBODY = {
  account: null,
  directory: null,
  courses: [],
  mustSetFactor: false,
  mayMakeCourses: false,
  demo: false,
  needsFirstAccount: false,
  needsFirstCode: false,
};
const ADA = {
  id: 1,
  name: 'Ada Lind',
  email: 'ada@saltmarsh.example',
  sendDelay: 0,
  isAdministrator: false,
  tourOver: false,
  hasPassword: true,
  cameBy: 'password',
  mayJoin: false,
};

let stage: TestStage;
/** The cookie of a session that an answer sets. */
const sessionIn = (res: request.Response): string =>
  (res.headers['set-cookie'] as unknown as string[]).find((c) => c.startsWith('zest-bell='))!;

beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
});
afterEach(() => stage.close());

const post = (path: string, body: object) =>
  request(stage.app).post(path).set('sec-fetch-site', 'same-origin').send(body);

describe('nobody sees anything without signing in', () => {
  test.each([
    '/api/v1/courses',
    '/api/v1/courses/1',
    '/api/v1/courses/1/rules',
    '/api/v1/courses/1/log',
    '/api/v1/courses/1/log/withheld',
    '/api/v1/courses/1/wordings',
    '/api/v1/courses/1/term',
    '/api/v1/courses/1/students/p1',
    '/api/v1/courses/1/files/any',
    '/api/v1/clock',
  ])('%s', async (path) => {
    const res = await request(stage.app).get(path).expect(401);
    expect(res.type).toBe('application/problem+json');
    expect(res.body).toMatchObject({ code: 'signInNeeded', status: 401 });
  });

  test('health needs no sign-in', () => request(stage.app).get('/health').expect(200));

  test('a course of somebody else does not exist for me, on any of its routes', async () => {
    const bo = await stage.signIn('bo@saltmarsh.example');
    expect((await bo.get('/api/v1/courses').expect(200)).body).toEqual([]);
    for (const path of [
      '',
      '/rules',
      '/rules/starters',
      '/rules/away/versions',
      '/rules/away/rounds',
      '/rules/away/rounds/1',
      '/log',
      '/log/1',
      '/log/withheld',
      '/term',
      '/today',
      '/standing',
      '/wordings',
      '/wordings/results',
      '/students/p1',
      '/columns?call=%7B%7D&at=0',
      '/rules/limit-log?at=0',
      '/files/any',
    ]) {
      await bo.get(`/api/v1/courses/1${path}`).expect(404);
    }
    for (const path of [
      '/rules/away/ring',
      '/rules/away/archive',
      '/rules/away/unarchive',
      '/rules/status',
      '/rules/order',
      '/rules',
      '/rules/rehearse',
      '/rounds/retry',
      '/limits/effect',
      '/mail/stop',
      '/mail/start',
      '/mail/test',
      '/mail/retry',
      '/wordings',
      '/wordings/test',
      '/wordings/preview',
      '/wordings/examples',
      '/wordings/awkward',
      '/wordings/letters',
      '/wordings/gentle/remove',
      '/files?name=a.txt',
      '/students/p1/address-works',
      '/log/1/decide',
      '/log/messages/1/settle',
    ]) {
      await bo
        .post(`/api/v1/courses/1${path}`)
        .send({ rule: {}, status: 'on', version: 1, conditions: [{}] })
        .expect(404);
    }
  });
});

describe('signing in', () => {
  test('gives a cookie that scripts and other sites cannot use', async () => {
    const res = await post('/api/v1/session', { email: 'ADA@saltmarsh.example', password: PASSWORD }).expect(200);
    expect(res.body.account).toEqual(ADA);
    expect(sessionIn(res)).toMatch(/HttpOnly.*SameSite=Lax/);
  });

  test('a tour that was left stays left in every browser', async () => {
    const ada = await stage.signIn();
    await ada.post('/api/v1/account/tour-over').expect(204);
    const res = await post('/api/v1/session', { email: 'ada@saltmarsh.example', password: PASSWORD }).expect(200);
    expect(res.body.account).toEqual({ ...ADA, tourOver: true });
  });

  test('says the same for a wrong password and an unknown address', async () => {
    const wrong = await post('/api/v1/session', { email: 'ada@saltmarsh.example', password: 'no' }).expect(401);
    const unknown = await post('/api/v1/session', { email: 'eve@saltmarsh.example', password: 'no' }).expect(401);
    expect(wrong.body).toEqual(unknown.body);
  });

  test('names the field that is missing', async () => {
    const res = await post('/api/v1/session', { email: '' }).expect(400);
    expect(res.body.problems.map((p: { path: string }) => p.path)).toEqual(['email', 'password']);
  });

  test('gives a new session id: one that was planted before is worth nothing', async () => {
    const agent = request.agent(stage.app).set('sec-fetch-site', 'same-origin');
    const credentials = { email: 'ada@saltmarsh.example', password: PASSWORD };
    const first = await agent.post('/api/v1/session').send(credentials).expect(200);
    const planted = sessionIn(first).split(';')[0]!;
    const second = await agent
      .post('/api/v1/session')
      .send({ ...credentials, email: 'bo@saltmarsh.example' })
      .expect(200);
    expect(sessionIn(second).split(';')[0]).not.toBe(planted);
    await request(stage.app).get('/api/v1/courses').set('cookie', planted).expect(401);
  });

  test('a changed password signs out every other browser, and the old one no longer works', async () => {
    const [here, elsewhere] = [await stage.signIn(), await stage.signIn()];
    const change = { old: PASSWORD, password: 'another long one' };
    await here
      .post('/api/v1/session/password')
      .send({ ...change, old: 'wrong' })
      .expect(401);
    await here.post('/api/v1/session/password').send(change).expect(200);
    await here.get('/api/v1/courses').expect(200);
    await elsewhere.get('/api/v1/courses').expect(401);
    await post('/api/v1/session', { email: 'ada@saltmarsh.example', password: PASSWORD }).expect(401);
    await here.delete('/api/v1/session/all').expect(204);
    await here.get('/api/v1/courses').expect(401);
  });

  test('an account that is gone is let in nowhere', async () => {
    const ada = await stage.signIn();
    await unguarded(stage.orm).nativeDelete(Account, { email: 'ada@saltmarsh.example' });
    await ada.get('/api/v1/courses').expect(401);
  });

  test('ends with signing out', async () => {
    const ada = await stage.signIn();
    await ada.get('/api/v1/courses').expect(200);
    await ada.delete('/api/v1/session').expect(204);
    await ada.get('/api/v1/courses').expect(401);
  });

  test('the demo’s button is not there outside the demo', () => post('/api/v1/session/demo', {}).expect(404));

  test('the demo’s button signs in the demo’s own account', async () => {
    const demo = createApp(stage.services, stage.dispatcher, {
      secret: 'secret',
      secure: false,
      demo: { email: 'bo@saltmarsh.example', routes: () => undefined, tells: () => ({ silent: false, campus: null }) },
      isReady: () => true,
    });
    const agent = request.agent(demo).set('sec-fetch-site', 'same-origin');
    expect((await agent.get('/api/v1/session')).body).toEqual({ ...NOBODY, demo: true });
    const res = await agent.post('/api/v1/session/demo').expect(200);
    expect(res.body).toMatchObject({ account: { name: 'Bo Quist' }, demo: true });
    await unguarded(stage.orm).nativeDelete(Account, { email: 'bo@saltmarsh.example' });
    expect((await agent.post('/api/v1/session/demo').expect(404)).body.code).toBe('notInDemo');
  });

  test('says who is signed in, and asks for a first account only where there is none', async () => {
    const nobody = (await request(stage.app).get('/api/v1/session').expect(200)).body;
    expect(nobody).toEqual(NOBODY);
    const bo = await stage.signIn('bo@saltmarsh.example');
    expect((await bo.get('/api/v1/session')).body).toEqual({
      ...NOBODY,
      mayMakeCourses: true,
      account: { ...ADA, id: 2, name: 'Bo Quist', email: 'bo@saltmarsh.example' },
    });
    const ada = await stage.signIn();
    const course = { id: 1, code: 'NAV 120', title: 'Coastal Navigation', role: 'owner', may: CAPABILITIES };
    expect((await ada.get('/api/v1/session')).body).toEqual({
      ...NOBODY,
      mayMakeCourses: true,
      account: ADA,
      courses: [course],
    });
  });

  test('reads an address without its outer blanks and whatever its case', () =>
    post('/api/v1/session', { email: '  Ada@Saltmarsh.example ', password: PASSWORD }).expect(200));
});

describe('a session', () => {
  const sessions = () => unguarded(stage.orm).find(SessionRow, {}, { orderBy: { expiresAt: 'asc' } });

  test('lasts for twelve hours, and is worth nothing once they are over', async () => {
    const before = Date.now();
    const ada = await stage.signIn();
    const [row] = await sessions();
    expect(row!.expiresAt - before).toBeGreaterThanOrEqual(12 * 3_600_000);
    expect(row!.expiresAt - Date.now()).toBeLessThanOrEqual(12 * 3_600_000);
    await unguarded(stage.orm).nativeUpdate(SessionRow, { id: row!.id }, { expiresAt: Date.now() - 1 });
    await ada.get('/api/v1/courses').expect(401);
  });

  test('is stored for those who are signed in alone, and not anew with each request', async () => {
    await request(stage.app).get('/api/v1/session').expect(200);
    expect(await sessions()).toEqual([]);
    const ada = await stage.signIn();
    const [before] = await sessions();
    const again = await ada.get('/api/v1/courses').expect(200);
    expect(again.headers).not.toHaveProperty('set-cookie');
    expect(await sessions()).toMatchObject([{ id: before!.id, expiresAt: before!.expiresAt }]);
  });

  test('that is over is forgotten, with the next sign-out or by and by', async () => {
    const [ada, bo] = [await stage.signIn(), await stage.signIn('bo@saltmarsh.example')];
    const old = (id: string) => ({ id, data: '{}', account: null, expiresAt: Date.now() - 1 });
    await unguarded(stage.orm).insertMany(SessionRow, [old('a'), old('b')]);
    expect(await forgetSessions(stage.orm)).toBe(2);
    expect(await sessions()).toHaveLength(2);
    await unguarded(stage.orm).insertMany(SessionRow, [old('a')]);
    await ada.delete('/api/v1/session').expect(204);
    expect(await sessions()).toHaveLength(1);
    await bo.get('/api/v1/courses').expect(200);
  });

  test('that cannot be read or written is a trouble of the server, and not a wait without end', async () => {
    const ada = await stage.signIn();
    await stage.orm.em.getConnection().execute('drop table session');
    await ada.get('/api/v1/courses').expect(500);
    await post('/api/v1/session', { email: 'ada@saltmarsh.example', password: PASSWORD }).expect(500);
  });

  test('of others stays when somebody signs out everywhere or changes the password', async () => {
    const [ada, elsewhere, bo] = [
      await stage.signIn(),
      await stage.signIn(),
      await stage.signIn('bo@saltmarsh.example'),
    ];
    await ada.post('/api/v1/session/password').send({ old: PASSWORD, password: 'another long one' }).expect(200);
    await bo.get('/api/v1/courses').expect(200);
    await stage.signIn('bo@saltmarsh.example');
    await elsewhere.get('/api/v1/courses').expect(401);
    const third = await stage.signIn('ada@saltmarsh.example', 'another long one');
    await third.delete('/api/v1/session/all').expect(204);
    await ada.get('/api/v1/courses').expect(401);
    await bo.get('/api/v1/courses').expect(200);
    await request(stage.app).delete('/api/v1/session/all').set('sec-fetch-site', 'same-origin').expect(401);
  });
});

test('an id of a path is digits and nothing else', () => {
  expect([idOf('1'), idOf('10'), idOf('999999999999999')]).toEqual([1, 10, 999_999_999_999_999]);
  for (const text of ['0', '01', '', 'x', '1x', 'x1', '-1', '1.5', '1e3', '1234567890123456', '1 '])
    expect(() => idOf(text)).toThrow('This page does not exist');
});

test('a password fits its own hash, and nothing fits an account without one', async () => {
  const hash = await hashPassword('a long enough one');
  expect(await passwordFits(hash, 'a long enough one')).toBe(true);
  expect(await passwordFits(hash, 'another long one')).toBe(false);
  expect(await passwordFits(null, 'no account has this password')).toBe(false);
});

test('a request that another site made a browser send is refused', async () => {
  const body = { email: 'ada@saltmarsh.example', password: PASSWORD };
  // Who has no session has nothing that could be used.
  const first = await request(stage.app).post('/api/v1/session').send(body).expect(200);
  const cookie = sessionIn(first).split(';')[0]!;
  const delay = (headers: Record<string, string>) =>
    request(stage.app)
      .put('/api/v1/account/send-delay')
      .set({ cookie, host: 'localhost:4', ...headers })
      .send({ seconds: 5 });
  expect((await delay({}).expect(403)).body.code).toBe('crossSiteRequest');
  await delay({ 'sec-fetch-site': 'cross-site', origin: 'https://elsewhere.example' }).expect(403);
  await delay({ 'sec-fetch-site': 'same-site' }).expect(403);
  await delay({ origin: 'http://localhost:5' }).expect(403);
  await delay({ origin: 'null' }).expect(403);
  // A name that somebody else could own says nothing about where a page is from.
  await delay({ host: 'bell.elsewhere.example', origin: 'http://bell.elsewhere.example' }).expect(403);
  await delay({ origin: 'http://localhost:4' }).expect(204);
  await delay({ 'sec-fetch-site': 'same-origin' }).expect(204);
});

test('the first account can be made once, on an installation without one', async () => {
  const account = { name: 'Cy Holm', email: 'cy@saltmarsh.example', password: 'long enough to keep' };
  expect((await post('/api/v1/accounts/first', account).expect(409)).body.code).toBe('accountsExist');

  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-empty-'));
  const empty = await openStage({ now: '2026-09-10T12:00', folder });
  try {
    const session = await request(empty.app).get('/api/v1/session');
    expect(session.body).toEqual({ ...NOBODY, needsFirstAccount: true });
    const short = await request(empty.app)
      .post('/api/v1/accounts/first')
      .set('sec-fetch-site', 'same-origin')
      .send({ ...account, password: 'short' })
      .expect(400);
    expect(short.body.problems).toMatchObject([{ path: 'password', message: 'A password has at least 12 characters' }]);
    const first = (more: object) =>
      request(empty.app)
        .post('/api/v1/accounts/first')
        .set('sec-fetch-site', 'same-origin')
        .send({ ...account, ...more });
    expect((await first({ name: '  ' }).expect(400)).body.problems).toMatchObject([{ path: 'name' }]);
    expect((await first({ email: 'cy' }).expect(400)).body.problems).toMatchObject([{ path: 'email' }]);
    const made = await request(empty.app)
      .post('/api/v1/accounts/first')
      .set('sec-fetch-site', 'same-origin')
      .send({ ...account, email: 'Cy@Saltmarsh.example' })
      .expect(201);
    expect(made.body).toMatchObject({
      account: { name: 'Cy Holm', email: 'cy@saltmarsh.example' },
      needsFirstAccount: false,
    });
  } finally {
    await empty.close();
    rmSync(folder, { recursive: true, force: true });
  }
});
