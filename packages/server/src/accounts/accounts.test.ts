import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { rmSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import request from 'supertest';
import { Account } from './entity.ts';
import { openStage, PASSWORD, type TestStage } from '../testing/stage.ts';

let stage: TestStage;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
});
afterEach(() => stage.close());

const post = (path: string, body: object) => request(stage.app).post(path).set('x-zest-bell', '1').send(body);

describe('nobody sees anything without signing in', () => {
  test.each([
    '/api/courses',
    '/api/courses/1',
    '/api/courses/1/rules',
    '/api/courses/1/log',
    '/api/courses/1/log/withheld',
    '/api/courses/1/wordings',
    '/api/courses/1/term',
    '/api/courses/1/students/p1',
    '/api/courses/1/files/any',
    '/api/clock',
    '/api/mailroom',
  ])('%s', async (path) => {
    const res = await request(stage.app).get(path).expect(401);
    expect(res.type).toBe('application/problem+json');
    expect(res.body).toMatchObject({ code: 'signInNeeded', status: 401 });
  });

  test('health needs no sign-in', () => request(stage.app).get('/health').expect(200));

  test('a course of somebody else does not exist for me, on any of its routes', async () => {
    const bo = await stage.signIn('bo@saltmarsh.example');
    expect((await bo.get('/api/courses').expect(200)).body).toEqual([]);
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
      '/rules/limit-facts?at=0',
      '/files/any',
    ]) {
      await bo.get(`/api/courses/1${path}`).expect(404);
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
        .post(`/api/courses/1${path}`)
        .send({ rule: {}, status: 'on', version: 1, conditions: [{}] })
        .expect(404);
    }
  });
});

describe('signing in', () => {
  test('gives a cookie that scripts and other sites cannot use', async () => {
    const res = await post('/api/session', { email: 'ADA@saltmarsh.example', password: PASSWORD }).expect(200);
    expect(res.body.account).toEqual({ name: 'Ada Lind', email: 'ada@saltmarsh.example' });
    expect(res.headers['set-cookie']![0]).toMatch(/HttpOnly.*SameSite=Lax/);
  });

  test('says the same for a wrong password and an unknown address', async () => {
    const wrong = await post('/api/session', { email: 'ada@saltmarsh.example', password: 'no' }).expect(401);
    const unknown = await post('/api/session', { email: 'eve@saltmarsh.example', password: 'no' }).expect(401);
    expect(wrong.body).toEqual(unknown.body);
  });

  test('names the field that is missing', async () => {
    const res = await post('/api/session', { email: '' }).expect(400);
    expect(res.body.problems.map((p: { path: string }) => p.path)).toEqual(['email', 'password']);
  });

  test('is limited to ten failures in a quarter of an hour', async () => {
    for (let i = 0; i < 10; i++)
      await post('/api/session', { email: 'ada@saltmarsh.example', password: 'no' }).expect(401);
    const res = await post('/api/session', { email: 'ada@saltmarsh.example', password: PASSWORD }).expect(429);
    expect(res.body.code).toBe('tooManyAttempts');
  });

  test('is limited for each account too, from however many addresses the tries come', async () => {
    const em = stage.orm.em.fork();
    await em.nativeUpdate(Account, { email: 'ada@saltmarsh.example' }, { wrongPasswords: 9 });
    await post('/api/session', { email: 'ada@saltmarsh.example', password: 'no' }).expect(401);
    const locked = await post('/api/session', { email: 'ada@saltmarsh.example', password: PASSWORD }).expect(429);
    expect(locked.body.code).toBe('tooManyAttempts');
    // Bo is not locked out along with Ada.
    await post('/api/session', { email: 'bo@saltmarsh.example', password: PASSWORD }).expect(200);
    await em.nativeUpdate(Account, { email: 'ada@saltmarsh.example' }, { lockedUntil: Date.now() - 1 });
    await post('/api/session', { email: 'ada@saltmarsh.example', password: PASSWORD }).expect(200);
  });

  test('gives a new session id: one that was planted before is worth nothing', async () => {
    const agent = request.agent(stage.app).set('x-zest-bell', '1');
    const credentials = { email: 'ada@saltmarsh.example', password: PASSWORD };
    const first = await agent.post('/api/session').send(credentials).expect(200);
    const planted = first.headers['set-cookie']![0]!.split(';')[0]!;
    const second = await agent
      .post('/api/session')
      .send({ ...credentials, email: 'bo@saltmarsh.example' })
      .expect(200);
    expect(second.headers['set-cookie']![0]!.split(';')[0]).not.toBe(planted);
    await request(stage.app).get('/api/courses').set('cookie', planted).expect(401);
  });

  test('a changed password signs out every other browser, and the old one no longer works', async () => {
    const [here, elsewhere] = [await stage.signIn(), await stage.signIn()];
    const change = { old: PASSWORD, password: 'another long one' };
    await here
      .post('/api/session/password')
      .send({ ...change, old: 'wrong' })
      .expect(401);
    await here.post('/api/session/password').send(change).expect(200);
    await here.get('/api/courses').expect(200);
    await elsewhere.get('/api/courses').expect(401);
    await post('/api/session', { email: 'ada@saltmarsh.example', password: PASSWORD }).expect(401);
    await here.delete('/api/session/all').expect(204);
    await here.get('/api/courses').expect(401);
  });

  test('an account that is gone is let in nowhere', async () => {
    const ada = await stage.signIn();
    await stage.orm.em.fork().nativeDelete(Account, { email: 'ada@saltmarsh.example' });
    await ada.get('/api/courses').expect(401);
  });

  test('ends with signing out', async () => {
    const ada = await stage.signIn();
    await ada.get('/api/courses').expect(200);
    await ada.delete('/api/session').expect(204);
    await ada.get('/api/courses').expect(401);
  });

  test('the demo’s button is not there outside the demo', () => post('/api/session/demo', {}).expect(404));
});

test('a request that another site made a browser send is refused', async () => {
  const body = { email: 'ada@saltmarsh.example', password: PASSWORD };
  await request(stage.app).post('/api/session').send(body).expect(403);
  const res = await post('/api/session', body).set('sec-fetch-site', 'cross-site').expect(403);
  expect(res.body.code).toBe('crossSiteRequest');
});

test('the first account can be made once, on an installation without one', async () => {
  const account = { name: 'Cy Holm', email: 'cy@saltmarsh.example', password: 'long enough to keep' };
  expect((await post('/api/accounts/first', account).expect(409)).body.code).toBe('accountsExist');

  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-empty-'));
  const empty = await openStage({ now: '2026-09-10T12:00', folder });
  try {
    const session = await request(empty.app).get('/api/session');
    expect(session.body).toEqual({ account: null, demo: false, needsFirstAccount: true });
    const short = await request(empty.app)
      .post('/api/accounts/first')
      .set('x-zest-bell', '1')
      .send({ ...account, password: 'short' })
      .expect(400);
    expect(short.body.problems).toMatchObject([{ path: 'password', message: 'A password has at least 10 characters' }]);
    const made = await request(empty.app).post('/api/accounts/first').set('x-zest-bell', '1').send(account).expect(201);
    expect(made.body).toMatchObject({ account: { name: 'Cy Holm' }, needsFirstAccount: false });
  } finally {
    await empty.close();
    rmSync(folder, { recursive: true, force: true });
  }
});
