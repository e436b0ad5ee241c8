import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import request from 'supertest';
import { openStage, visit, type Agent, type TestStage } from './testing/stage.ts';
import { createApp } from './app.ts';
import { StartProblem } from './platform/process/config.ts';
import { openDataFolder, sessionSecret } from './platform/process/dataFolder.ts';
import { lockFolder } from './platform/process/lock.ts';

let stage: TestStage;
let folder: string;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
  folder = mkdtempSync(join(tmpdir(), 'zest-bell-platform-'));
});
afterEach(async () => {
  await stage.close();
  rmSync(folder, { recursive: true, force: true });
});

test('the page is served from when it is bundled on, though the server began before', async () => {
  const app = createApp(stage.services, stage.dispatcher, {
    secret: 'secret',
    secure: false,
    demo: null,
    isReady: () => true,
    page: folder,
  });
  await request(app).get('/').expect(404);
  mkdirSync(join(folder, 'assets'));
  writeFileSync(join(folder, 'assets', 'a.js'), '1;');
  writeFileSync(join(folder, 'index.html'), '<p>Zest Bell</p>');
  expect((await request(app).get('/c/1/today').expect(200)).text).toBe('<p>Zest Bell</p>');
  expect((await request(app).get('/assets/a.js').expect(200)).headers['cache-control']).toContain('immutable');
});

describe('every answer', () => {
  test('lets scripts, fonts and frames come from the application alone, and be framed by nobody', async () => {
    const policy = (await request(stage.app).get('/health')).headers['content-security-policy'] ?? '';
    expect(policy).toContain("script-src 'self'");
    expect(policy).not.toMatch(/script-src[^;]*unsafe/);
    expect(policy).toContain("font-src 'self'");
    expect(policy).toContain("frame-ancestors 'none'");
    expect(policy).toContain("object-src 'none'");
  });

  test('of the API is kept by no cache and names no framework', async () => {
    const res = await request(stage.app).get('/api/v1/session');
    expect(res.headers['cache-control']).toBe('no-store');
    expect(res.headers['x-powered-by']).toBeUndefined();
  });

  test('comes compressed, by whichever way the browser knows', async () => {
    for (const way of ['br', 'gzip']) {
      const res = await request(stage.app).get('/api/openapi.json').set('accept-encoding', way).expect(200);
      expect(res.headers['content-encoding']).toBe(way);
    }
  });

  test('to what does not exist is a problem, not a page', async () => {
    const ada = await stage.signIn();
    const res = await ada.get('/api/v1/nothing/here').expect(404);
    expect(res.type).toBe('application/problem+json');
    expect(res.body).toMatchObject({ code: 'notFound', status: 404 });
  });

  test.each([
    ['a path that cannot be read', (a: Agent) => a.get('/api/v1/courses/1/log/%ff')],
    [
      'another charset',
      (a: Agent) =>
        a.post('/api/v1/courses/1/rules/order').set('content-type', 'application/json; charset=nonsense').send('{}'),
    ],
    [
      'plain text that says it is packed',
      (a: Agent) =>
        a
          .post('/api/v1/courses/1/rules/order')
          .set('content-type', 'application/json')
          .set('content-encoding', 'gzip')
          .send('{}'),
    ],
    ['an id that is no number', (a: Agent) => a.get('/api/v1/courses/1/log/Infinity')],
    ['an id written otherwise', (a: Agent) => a.get('/api/v1/courses/1.0/rules')],
    ['an id with a blank', (a: Agent) => a.get('/api/v1/courses/%201/rules')],
    ['an id in hexadecimal', (a: Agent) => a.get('/api/v1/courses/0x1/rules')],
    ['a NUL in an id', (a: Agent) => a.get('/api/v1/courses/1/students/p%001')],
  ])('to %s is the request’s fault, not a bug', async (_what, ask) => {
    const res = await ask(await stage.signIn());
    expect(res.status).toBeGreaterThanOrEqual(400);
    expect(res.status).toBeLessThan(500);
  });

  test('to text with a NUL or half a surrogate pair in it is as if it were not there', async () => {
    const events = ['a\0b', 'ab\ud800', 'ab\udfff'].map((id) => visit('p1', '2026-09-09T10:00', id));
    const res = await stage.tell(events);
    expect(res.body).toMatchObject({ taken: 2, repeated: 1, refused: [] });
  });

  test('to a body that is no JSON says so', async () => {
    const res = await request(stage.app)
      .post('/api/v1/session')
      .set('sec-fetch-site', 'same-origin')
      .set('content-type', 'application/json')
      .send('{"email":')
      .expect(400);
    expect(res.body.code).toBe('invalidInput');
  });
});

describe('the data folder', () => {
  test('is made when it is missing, and its secret once', () => {
    const deep = join(folder, 'a', 'b');
    openDataFolder(deep);
    const secret = sessionSecret(deep);
    expect(secret).toMatch(/^[0-9a-f]{64}$/);
    expect(sessionSecret(deep)).toBe(secret);
  });

  test('that cannot be made is a sentence', () => {
    writeFileSync(join(folder, 'file'), '');
    expect(() => openDataFolder(join(folder, 'file', 'x'))).toThrow(StartProblem);
  });
});

describe('the demo’s folder', () => {
  test('belongs to one living process', () => {
    // Process 1 lives on every machine.
    writeFileSync(join(folder, 'demo.lock'), '1');
    expect(() => lockFolder(folder)).toThrow(/already running \(process 1\)/);
  });

  test('left behind by a killed one is taken over, and given back at the end', () => {
    writeFileSync(join(folder, 'demo.lock'), '99999999');
    const unlock = lockFolder(folder);
    expect(readFileSync(join(folder, 'demo.lock'), 'utf8')).toBe(String(process.pid));
    unlock();
    expect(() => readFileSync(join(folder, 'demo.lock'))).toThrow();
  });
});
