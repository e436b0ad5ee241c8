/** Launches against the real routes. What is refused and why follows LTI 1.3, from memory: no published conformance examples are at hand. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { inTransaction } from '../../platform/database/transaction.ts';
import { prove } from '../../access/links.ts';
import { createHmac } from 'node:crypto';
import { SignJWT } from 'jose';
import request from 'supertest';
import type { SessionAnswer } from '@zest-bell/core/exchange';
import { Access, Account } from '../../access/entity.ts';
import { CourseRow } from '../../course/entity.ts';
import { GradeRow } from '../../course/activity/entity.ts';
import { LAUNCH_ROLES as ROLES, type LaunchClaims } from '@zest-bell/standins';
import { BASE, openLaunching, TARGET, type LaunchStage } from '../../testing/launching.ts';
import { PASSWORD } from '../../testing/stage.ts';
import { until } from '../../testing/until.ts';
import { SourceRow } from '../entity.ts';
import { ToolKeyRow } from './entity.ts';
import { toolKeys } from './keys.ts';
import { addPlatform, platformSchema, removePlatform } from './platforms.ts';
import { unguarded } from '../../testing/unguarded.ts';
import { asTx } from '../../testing/asTx.ts';

let at: LaunchStage;
beforeEach(async () => {
  at = await openLaunching();
});
afterEach(() => at.close());

const refusedWith = async (code: string, message: Partial<LaunchClaims>) => {
  const res = await at.launch(message);
  expect([res.status, /<code>(\w+)<\/code>/.exec(res.text)?.[1]]).toEqual([400, code]);
};

describe('a login', () => {
  test('asks the platform to sign in, by GET and POST, with a cookie for a site within another', async () => {
    const res = await at.login({ ...at.asLogin, lti_message_hint: 'm 1' }).expect(302);
    const to = new URL(res.headers['location']!);
    expect(`${to.origin}${to.pathname}`).toBe(`${at.platform.base}/auth`);
    expect(Object.fromEntries(to.searchParams)).toMatchObject({
      scope: 'openid',
      response_type: 'id_token',
      response_mode: 'form_post',
      prompt: 'none',
      client_id: 'tool-1',
      redirect_uri: `${BASE}/lti/launch`,
      login_hint: 'u1',
      lti_message_hint: 'm 1',
    });
    expect((res.headers['set-cookie'] as unknown as string[])[0]).toMatch(
      /^zest-bell-launch-[\w-]{16}=[\w-]+; Max-Age=600; Path=\/lti; Secure; HttpOnly; SameSite=None; Partitioned$/,
    );
    await request(at.stage.app).post('/lti/login').type('form').send(at.asLogin).expect(302);
  });

  test.each([
    ['missing', { login_hint: undefined }],
    ['unknownPlatform', { iss: 'https://other.example' }],
    ['unknownPlatform', { client_id: 'tool-2' }],
    ['wrongTarget', { target_link_uri: 'https://elsewhere.example/x' }],
  ])('is refused as %s in plain words', async (code, query) => {
    const res = await at.login({ ...at.asLogin, ...query }).expect(400);
    expect(res.text).toContain(`<code>${code}</code>`);
  });

  test('that fits two registrations names none by chance', async () => {
    await addPlatform(at.stage.services, platformSchema.parse({ ...at.registration, clientId: 'tool-2' }));
    const { client_id: _, ...without } = at.asLogin;
    expect((await at.login(without).expect(400)).text).toContain('severalClients');
    await at.login().expect(302);
  });

  test('of a frame whose platform keeps texts is a page, and the launch works without a cookie', async () => {
    const res = await at.login({ ...at.asLogin, lti_storage_target: '_parent' }).expect(200);
    expect(res.headers['set-cookie']).toBeDefined();
    expect(res.headers['content-security-policy']).toContain(
      `frame-ancestors 'self' ${at.platform.base} https://frames.campus.example`,
    );
    const to = new URL(/data-to="([^"]*)"/.exec(res.text)![1]!.replaceAll('&#38;', '&'));
    const stored = /data-put="([^"]*)"/.exec(res.text)![1]!;
    const state = to.searchParams.get('state')!;
    const token = await at.platform.sign({ nonce: to.searchParams.get('nonce')!, target: TARGET });
    const asks = await at.post({ state, cookie: '' }, token).expect(200);
    expect(asks.text).toContain('data-get="zest-bell-launch-');
    expect((await at.post({ state, cookie: '' }, token, { stored: 'x' }).expect(400)).text).toContain('otherBrowser');
    const opened = await at.post({ state, cookie: '' }, token, { stored }).expect(200);
    const code = /href="(\/lti\/open\?code=[\w-]+)"/.exec(opened.text)![1]!;
    const window = await request(at.stage.app).get(code).expect(303);
    expect(window.headers['location']).toBe('/c/2/setup');
    await request(at.stage.app).get(code).expect(400);
  });
});

describe('a launch is refused', () => {
  test.each<[string, Partial<LaunchClaims>]>([
    ['wrongAudience', { aud: 'other' }],
    ['wrongAudience', { aud: ['tool-1', 'other'] }],
    ['wrongIssuer', { iss: 'https://x.example' }],
    ['expired', { exp: '-60s' }],
    ['expired', { exp: null }],
    ['tooOld', { iat: Math.floor(Date.now() / 1000) - 3600 }],
    ['nonceForeign', { nonce: 'of another' }],
    ['noUser', { sub: '' }],
    ['wrongTarget', { target: `${BASE}/elsewhere` }],
  ])('as %s', (code, message) => refusedWith(code, message));

  test('for claims that are not its own', async () => {
    const more = (name: string, value: unknown) => ({ more: { [at.platform.claim(name)]: value } });
    await refusedWith('wrongDeployment', more('deployment_id', 'd2'));
    await refusedWith('wrongVersion', more('version', '1.2'));
    await refusedWith('wrongMessage', more('message_type', 'LtiDeepLinkingRequest'));
    await refusedWith('noResource', more('resource_link', undefined));
    await refusedWith('noContext', more('context', { label: 'x' }));
    // With an authorized party it is for us alone.
    expect((await at.launch({ aud: ['tool-1', 'other'], more: { azp: 'tool-1' } })).status).toBe(303);
    await refusedWith('wrongAudience', { more: { azp: 'other' } });
  });

  test('twice, in another browser, without its cookie, and after its state was changed', async () => {
    const b = await at.begun();
    const token = await at.platform.sign({ nonce: b.nonce, target: TARGET });
    await at.post(b, token).expect(303);
    expect((await at.post(b, token).expect(400)).text).toContain('nonceUsed');
    const c = await at.begun();
    const other = await at.platform.sign({ nonce: c.nonce, target: TARGET });
    const foreign = await at.post({ state: c.state, cookie: `${c.cookie.split('=')[0]!}=x` }, other).expect(400);
    expect(foreign.text).toContain('otherBrowser');
    const none = await at.post({ state: c.state, cookie: '' }, other).expect(400);
    expect(none.text).toMatch(/noCookie/);
    expect(none.text).toContain('href="https://bell.college.example/lti/login?iss=');
    expect((await at.post({ ...c, state: `x${c.state}` }, other).expect(400)).text).toContain('stateUnknown');
    // Two tabs at once have a cookie each.
    const [d, e] = [await at.begun(), await at.begun()];
    const both = `${d.cookie}; ${e.cookie}`;
    for (const tab of [d, e])
      await at
        .post({ state: tab.state, cookie: both }, await at.platform.sign({ nonce: tab.nonce, target: TARGET }))
        .expect(303);
  });

  test('unsigned, signed with the public key, by a stray key and by a forged one', async () => {
    const said = async (token: (nonce: string) => Promise<string> | string) => {
      const b = await at.begun();
      const res = await at.post(b, await token(b.nonce)).expect(400);
      return /<code>(\w+)<\/code>/.exec(res.text)![1];
    };
    const whole = async (nonce: string) => (await at.platform.sign({ nonce, target: TARGET })).split('.');
    const b64 = (value: object) => Buffer.from(JSON.stringify(value)).toString('base64url');
    expect(await said(async (n) => `${b64({ alg: 'none' })}.${(await whole(n))[1]!}.`)).toMatch(
      /wrongAlgorithm|unreadable/,
    );
    const key = JSON.stringify(at.platform.keys[0]!.jwk);
    const hmac = async (n: string) => {
      const body = `${b64({ alg: 'HS256', kid: at.platform.keys[0]!.kid })}.${(await whole(n))[1]!}`;
      return `${body}.${createHmac('sha256', key).update(body).digest('base64url')}`;
    };
    expect(await said(hmac)).toBe('wrongAlgorithm');
    const stray = await at.platform.makeKey();
    expect(await said((nonce) => at.platform.sign({ nonce, target: TARGET, key: stray }))).toBe('unknownKey');
    const forged = { ...stray, kid: at.platform.keys[0]!.kid };
    expect(await said((nonce) => at.platform.sign({ nonce, target: TARGET, key: forged }))).toBe('forged');
    expect(await said(() => new SignJWT({}).setProtectedHeader({ alg: 'RS256' }).sign(stray.privateKey))).not.toBe('');
  });
});

describe('a first launch by an instructor', () => {
  test('makes the course at once, not set up, with its owner, its roster and its grades', async () => {
    const student = (id: string) => ({
      user_id: id,
      status: 'Active',
      roles: [ROLES.learner],
      given_name: id.toUpperCase(),
      family_name: 'Kelp',
      email: `${id}@campus.example`,
    });
    at.members().push(student('s1'), student('s2'), { ...student('s3'), roles: ['Mentor'] });
    at.platform.state.page = 1;
    const line = { id: `${at.platform.base}/lineitems/c7/1?type=x`, label: 'Lab 1', scoreMaximum: 50 };
    at.platform.lines.set('c7', [line]);
    at.platform.results.set('/lineitems/c7/1', [{ id: 'x', userId: 's1', resultScore: 0.83, resultMaximum: 1 }]);
    const custom = { begin: '2026-09-01T04:00:00Z', end: '$CourseSection.timeFrame.end' };
    const { agent, leadsTo } = await at.launched({ more: { [at.platform.claim('custom')]: custom } });
    expect(leadsTo).toBe('/c/2/setup');
    const session = (await agent.get('/api/v1/session').expect(200)).body as SessionAnswer;
    expect(session).toMatchObject({
      account: { name: 'Ines Vale', email: 'ines@campus.example', isAdministrator: false },
      courses: [{ id: 2, code: 'OCE 210', title: 'Oceans', role: 'owner' }],
    });
    const course = await unguarded(at.stage.orm).findOneOrFail(CourseRow, { id: 2 });
    expect([course.start, course.daysConfirmed]).toEqual(['2026-09-01', false]);
    await until(
      async () => (await unguarded(at.stage.orm).count(SourceRow, { course: 2, heardAt: { $ne: null } })) > 0,
    );
    expect([await at.person('s1'), await at.person('s3')]).toMatchObject([{ firstName: 'S1', role: 'student' }, null]);
    const [grade] = await unguarded(at.stage.orm).find(GradeRow, { course: 2 });
    expect([grade!.person, Number(grade!.points)]).toEqual(['s1', 41.5]);
    expect(at.platform.state.asked).toContain('/lineitems/c7/1/results?type=x');

    // Nothing is turned on or sent before somebody has looked at the days.
    const written = await agent
      .post('/api/v1/courses/2/write')
      .send({ to: { sheet: null, students: ['s1'] }, subject: 'A', text: 'Hello there' });
    expect([written.status, (written.body as { code: string }).code]).toEqual([409, 'daysNotConfirmed']);
    await agent.post('/api/v1/courses/2/days/confirm').send({}).expect(204);
    // The address that the platform gave is a proposal until it is proven.
    const unproven = await agent
      .post('/api/v1/courses/2/write')
      .send({ to: { sheet: null, students: ['s1'] }, subject: 'A', text: 'Hello there' })
      .expect(400);
    expect((unproven.body as { code: string }).code).toBe('senderNotProven');
    const { id: own } = await unguarded(at.stage.orm).findOneOrFail(Account, { reachedAt: 'ines@campus.example' });
    await inTransaction(at.stage.orm, (tx) => prove(asTx(tx), own, 'ines@campus.example', 'code'));
    await agent
      .post('/api/v1/courses/2/write')
      .send({ to: { sheet: null, students: ['s1'] }, subject: 'A', text: 'Hello there' })
      .expect(201);
    expect((await at.launched()).leadsTo).toBe('/c/2/today');
  });

  test('keeps its session in a frame of that platform alone, and reaches no other course and no administrator’s page', async () => {
    const res = await at.launch();
    const cookie = (res.headers['set-cookie'] as unknown as string[]).find((c) => c.startsWith('zest-bell-launched='))!;
    expect(cookie).toMatch(/; Path=\/; Secure; HttpOnly; SameSite=None; Partitioned$/);
    const { agent } = await at.launched();
    await agent.get('/api/v1/courses/2').expect(200);
    const { id } = await unguarded(at.stage.orm).findOneOrFail(Account, { name: 'Ines Vale' });
    const em = unguarded(at.stage.orm);
    em.create(Access, { account: id, course: 1, role: 'owner' });
    await em.nativeUpdate(Account, { id }, { isAdministrator: true });
    await em.flush();
    await agent.get('/api/v1/courses/1').expect(404);
    await agent.get('/api/v1/admin/people').expect(403);
    await agent.post('/api/v1/courses').send({}).expect(403);
  });

  test('in a browser where somebody is signed in takes their place in a window, and a password typed later counts', async () => {
    const res = await at.launch();
    const set = res.headers['set-cookie'] as unknown as string[];
    expect(set.some((c) => c.startsWith('zest-bell=; Max-Age=0'))).toBe(true);
    const launchedCookie = set.find((c) => c.startsWith('zest-bell-launched='))!.split(';')[0]!;
    const signed = await request(at.stage.app)
      .post('/api/v1/session')
      .set({ cookie: launchedCookie, 'sec-fetch-site': 'same-origin' })
      .send({ email: 'ada@saltmarsh.example', password: PASSWORD })
      .expect(200);
    const own = (signed.headers['set-cookie'] as unknown as string[]).find((c) => c.startsWith('zest-bell='))!;
    const both = `${launchedCookie}; ${own.split(';')[0]!}`;
    const session = await request(at.stage.app).get('/api/v1/session').set('cookie', both).expect(200);
    expect((session.body as SessionAnswer).account?.name).toBe('Ada Lind');
  });

  test('is not the first of all: that takes a password', async () => {
    await unguarded(at.stage.orm).nativeDelete(Account, {});
    await refusedWith('notSetUp', {});
  });
});

describe('keys', () => {
  test('of the platform may be rotated, and are known without a restart', async () => {
    await at.launched();
    at.platform.keys.unshift(await at.platform.makeKey());
    // An unknown key is looked for again after ten seconds at most; a cache that is old is fetched before.
    await until(async () => (await at.launch()).status === 303, 60_000);
    at.platform.keys.splice(1, 1);
  });

  test('of the tool are this one and the next, which is published a day before it signs at least', async () => {
    const res = await request(at.stage.app).get('/lti/keys').expect(200);
    const { keys } = res.body as { keys: Record<string, unknown>[] };
    expect(keys).toHaveLength(2);
    expect(keys.every((k) => k['kty'] === 'RSA' && k['d'] === undefined && k['use'] === 'sig')).toBe(true);
    const now = Date.now();
    const later = await toolKeys(at.stage.services, now + 95 * 86_400_000);
    expect(later.published.map((k) => k['kid'])).toEqual([keys[1]!['kid'], expect.any(String)]);
    const rows = await unguarded(at.stage.orm).find(ToolKeyRow, {}, { orderBy: { signsFrom: 'asc' } });
    expect(rows.at(-1)!.signsFrom - (now + 95 * 86_400_000)).toBeGreaterThanOrEqual(86_400_000);
    expect(rows.every((r) => !r.privateKey.includes('PRIVATE KEY'))).toBe(true);
  });
});

test('without a session of a launch nobody frames a page, and what is registered can be taken back', async () => {
  for (const path of ['/', '/lti/config.json', '/api/v1/session'])
    expect((await request(at.stage.app).get(path)).headers['content-security-policy']).toContain(
      "frame-ancestors 'none'",
    );
  await removePlatform(at.stage.services, 1);
  await at.login().expect(400);
  await expect(removePlatform(at.stage.services, 1)).rejects.toMatchObject({ code: 'notFound' });
});
