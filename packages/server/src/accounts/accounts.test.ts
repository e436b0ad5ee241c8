import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { rmSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import request from 'supertest';
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
      '/rules/reach',
      '/rounds/retry',
      '/limits/effect',
      '/mail/stop',
      '/mail/start',
      '/mail/test',
      '/wordings',
      '/wordings/test',
      '/wordings/preview',
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
