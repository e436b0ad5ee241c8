/** Launches against the real routes. What is refused and why follows LTI 1.3, from memory: no published conformance examples are at hand. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { createHmac } from 'node:crypto';
import { SignJWT } from 'jose';
import request from 'supertest';
import type { SessionAnswer } from '@zest-bell/core/exchange';
import { Access, Account } from '../../access/entity.ts';
import { CourseRow, PersonRow } from '../../course/entity.ts';
import { GradeRow } from '../../course/activity/entity.ts';
import { LAUNCH_ROLES as ROLES, openPlatform, type LearningPlatform, type Message } from '@zest-bell/standins';
import { openStage, PASSWORD, type Agent, type TestStage } from '../../testing/stage.ts';
import { until } from '../../testing/until.ts';
import { SourceRow } from '../entity.ts';
import { pull } from '../sources.ts';
import { LaunchAccountRow, ToolKeyRow } from './entity.ts';
import { toolKeys } from './keys.ts';
import { addPlatform, platformSchema, removePlatform } from './platforms.ts';

let stage: TestStage;
let platform: LearningPlatform;
let tool: Server;
const BASE = 'https://bell.college.example';
const TARGET = `${BASE}/lti/launch`;
beforeEach(async () => {
  let at = '';
  platform = await openPlatform({ tool: () => at });
  stage = await openStage({ now: '2026-09-14T12:00', publicUrl: BASE });
  // The platform fetches the tool’s keys over the network.
  tool = createServer(stage.app);
  await new Promise<void>((ready) => tool.listen(0, '127.0.0.1', () => ready()));
  at = `http://127.0.0.1:${(tool.address() as AddressInfo).port}`;
  await addPlatform(stage.services, platformSchema.parse(registration()));
});
afterEach(async () => {
  await new Promise<void>((closed) => tool.close(() => closed()));
  await stage.close();
  await platform.close();
});

interface Begun {
  readonly to: URL;
  readonly state: string;
  readonly nonce: string;
  readonly cookie: string;
}
const registration = () => ({ ...platform.registration, frameOrigins: ['https://frames.campus.example'] });
const LOGIN = () => ({ iss: platform.issuer, login_hint: 'u1', target_link_uri: TARGET, client_id: 'tool-1' });
const login = (query: object = LOGIN()) => request(stage.app).get('/lti/login').query(query);
async function begun(): Promise<Begun> {
  const res = await login().expect(302);
  const to = new URL(res.headers['location']!);
  const [set] = res.headers['set-cookie'] as unknown as string[];
  return {
    to,
    state: to.searchParams.get('state')!,
    nonce: to.searchParams.get('nonce')!,
    cookie: set!.split(';')[0]!,
  };
}
const post = ({ state, cookie }: Pick<Begun, 'state' | 'cookie'>, token: string, more: object = {}) => {
  const asked = request(stage.app).post('/lti/launch').type('form');
  return (cookie === '' ? asked : asked.set('cookie', cookie)).send({ id_token: token, state, ...more });
};
const launch = async (message: Partial<Message> = {}) => {
  const b = await begun();
  return post(b, await platform.sign({ nonce: b.nonce, target: TARGET, ...message }));
};
const members = (): object[] => {
  const all = platform.members.get('c7') ?? [];
  platform.members.set('c7', all);
  return all;
};
/** In the browser that the launch was answered in. */
async function launched(message: Partial<Message> = {}): Promise<{ agent: Agent; leadsTo: string }> {
  const res = await launch(message);
  expect([res.status, res.text]).toEqual([303, expect.anything()]);
  const session = (res.headers['set-cookie'] as unknown as string[]).find((c) => c.startsWith('zest-bell-launched='))!;
  const agent = request.agent(stage.app).set('sec-fetch-site', 'same-origin').set('cookie', session.split(';')[0]!);
  return { agent, leadsTo: res.headers['location']! };
}
const refusedWith = async (code: string, message: Partial<Message>) => {
  const res = await launch(message);
  expect([res.status, /<code>(\w+)<\/code>/.exec(res.text)?.[1]]).toEqual([400, code]);
};
const person = (key: string) => stage.orm.em.fork().findOne(PersonRow, { course: 2, key });

describe('a login', () => {
  test('asks the platform to sign in, by GET and POST, with a cookie for a site within another', async () => {
    const res = await login({ ...LOGIN(), lti_message_hint: 'm 1' }).expect(302);
    const to = new URL(res.headers['location']!);
    expect(`${to.origin}${to.pathname}`).toBe(`${platform.base}/auth`);
    expect(Object.fromEntries(to.searchParams)).toMatchObject({
      ...{ scope: 'openid', response_type: 'id_token', response_mode: 'form_post', prompt: 'none' },
      ...{ client_id: 'tool-1', redirect_uri: `${BASE}/lti/launch`, login_hint: 'u1', lti_message_hint: 'm 1' },
    });
    expect((res.headers['set-cookie'] as unknown as string[])[0]).toMatch(
      /^zest-bell-launch-[\w-]{16}=[\w-]+; Max-Age=600; Path=\/lti; Secure; HttpOnly; SameSite=None; Partitioned$/,
    );
    await request(stage.app).post('/lti/login').type('form').send(LOGIN()).expect(302);
  });

  test.each([
    ['missing', { login_hint: undefined }],
    ['unknownPlatform', { iss: 'https://other.example' }],
    ['unknownPlatform', { client_id: 'tool-2' }],
    ['wrongTarget', { target_link_uri: 'https://elsewhere.example/x' }],
  ])('is refused as %s in plain words', async (code, query) => {
    const res = await login({ ...LOGIN(), ...query }).expect(400);
    expect(res.text).toContain(`<code>${code}</code>`);
  });

  test('that fits two registrations names none by chance', async () => {
    await addPlatform(stage.services, platformSchema.parse({ ...registration(), clientId: 'tool-2' }));
    const { client_id: _, ...without } = LOGIN();
    expect((await login(without).expect(400)).text).toContain('severalClients');
    await login().expect(302);
  });

  test('of a frame whose platform keeps texts is a page, and the launch works without a cookie', async () => {
    const res = await login({ ...LOGIN(), lti_storage_target: '_parent' }).expect(200);
    expect(res.headers['set-cookie']).toBeDefined();
    expect(res.headers['content-security-policy']).toContain(
      `frame-ancestors 'self' ${platform.base} https://frames.campus.example`,
    );
    const to = new URL(/data-to="([^"]*)"/.exec(res.text)![1]!.replaceAll('&#38;', '&'));
    const stored = /data-put="([^"]*)"/.exec(res.text)![1]!;
    const state = to.searchParams.get('state')!;
    const token = await platform.sign({ nonce: to.searchParams.get('nonce')!, target: TARGET });
    const asks = await post({ state, cookie: '' }, token).expect(200);
    expect(asks.text).toContain('data-get="zest-bell-launch-');
    expect((await post({ state, cookie: '' }, token, { stored: 'x' }).expect(400)).text).toContain('otherBrowser');
    const opened = await post({ state, cookie: '' }, token, { stored }).expect(200);
    const code = /href="(\/lti\/open\?code=[\w-]+)"/.exec(opened.text)![1]!;
    const window = await request(stage.app).get(code).expect(303);
    expect(window.headers['location']).toBe('/c/2/setup');
    await request(stage.app).get(code).expect(400);
  });
});

describe('a launch is refused', () => {
  test.each<[string, Partial<Message>]>([
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
    const more = (name: string, value: unknown) => ({ more: { [platform.claim(name)]: value } });
    await refusedWith('wrongDeployment', more('deployment_id', 'd2'));
    await refusedWith('wrongVersion', more('version', '1.2'));
    await refusedWith('wrongMessage', more('message_type', 'LtiDeepLinkingRequest'));
    await refusedWith('noResource', more('resource_link', undefined));
    await refusedWith('noContext', more('context', { label: 'x' }));
    // With an authorized party it is for us alone.
    expect((await launch({ aud: ['tool-1', 'other'], more: { azp: 'tool-1' } })).status).toBe(303);
    await refusedWith('wrongAudience', { more: { azp: 'other' } });
  });

  test('twice, in another browser, without its cookie, and after its state was changed', async () => {
    const b = await begun();
    const token = await platform.sign({ nonce: b.nonce, target: TARGET });
    await post(b, token).expect(303);
    expect((await post(b, token).expect(400)).text).toContain('nonceUsed');
    const c = await begun();
    const other = await platform.sign({ nonce: c.nonce, target: TARGET });
    const foreign = await post({ state: c.state, cookie: `${c.cookie.split('=')[0]!}=x` }, other).expect(400);
    expect(foreign.text).toContain('otherBrowser');
    const none = await post({ state: c.state, cookie: '' }, other).expect(400);
    expect(none.text).toMatch(/noCookie/);
    expect(none.text).toContain('href="https://bell.college.example/lti/login?iss=');
    expect((await post({ ...c, state: `x${c.state}` }, other).expect(400)).text).toContain('stateUnknown');
    // Two tabs at once have a cookie each.
    const [d, e] = [await begun(), await begun()];
    const both = `${d.cookie}; ${e.cookie}`;
    for (const tab of [d, e])
      await post({ state: tab.state, cookie: both }, await platform.sign({ nonce: tab.nonce, target: TARGET })).expect(
        303,
      );
  });

  test('unsigned, signed with the public key, by a stray key and by a forged one', async () => {
    const said = async (token: (nonce: string) => Promise<string> | string) => {
      const b = await begun();
      const res = await post(b, await token(b.nonce)).expect(400);
      return /<code>(\w+)<\/code>/.exec(res.text)![1];
    };
    const whole = async (nonce: string) => (await platform.sign({ nonce, target: TARGET })).split('.');
    const b64 = (value: object) => Buffer.from(JSON.stringify(value)).toString('base64url');
    expect(await said(async (n) => `${b64({ alg: 'none' })}.${(await whole(n))[1]!}.`)).toMatch(
      /wrongAlgorithm|unreadable/,
    );
    const key = JSON.stringify(platform.keys[0]!.jwk);
    const hmac = async (n: string) => {
      const body = `${b64({ alg: 'HS256', kid: platform.keys[0]!.kid })}.${(await whole(n))[1]!}`;
      return `${body}.${createHmac('sha256', key).update(body).digest('base64url')}`;
    };
    expect(await said(hmac)).toBe('wrongAlgorithm');
    const stray = await platform.makeKey();
    expect(await said((nonce) => platform.sign({ nonce, target: TARGET, key: stray }))).toBe('unknownKey');
    const forged = { ...stray, kid: platform.keys[0]!.kid };
    expect(await said((nonce) => platform.sign({ nonce, target: TARGET, key: forged }))).toBe('forged');
    expect(await said(() => new SignJWT({}).setProtectedHeader({ alg: 'RS256' }).sign(stray.privateKey))).not.toBe('');
  });
});

describe('a first launch by an instructor', () => {
  test('makes the course at once, not set up, with its owner, its roster and its grades', async () => {
    const student = (id: string) => ({
      ...{ user_id: id, status: 'Active', roles: [ROLES.learner] },
      ...{ given_name: id.toUpperCase(), family_name: 'Kelp', email: `${id}@campus.example` },
    });
    members().push(student('s1'), student('s2'), { ...student('s3'), roles: ['Mentor'] });
    platform.state.page = 1;
    const line = { id: `${platform.base}/lineitems/c7/1?type=x`, label: 'Lab 1', scoreMaximum: 50 };
    platform.lines.set('c7', [line]);
    platform.results.set('/lineitems/c7/1', [{ id: 'x', userId: 's1', resultScore: 0.83, resultMaximum: 1 }]);
    const custom = { begin: '2026-09-01T04:00:00Z', end: '$CourseSection.timeFrame.end' };
    const { agent, leadsTo } = await launched({ more: { [platform.claim('custom')]: custom } });
    expect(leadsTo).toBe('/c/2/setup');
    const session = (await agent.get('/api/v1/session').expect(200)).body as SessionAnswer;
    expect(session).toMatchObject({
      account: { name: 'Ines Vale', email: 'ines@campus.example', isAdministrator: false },
      courses: [{ id: 2, code: 'OCE 210', title: 'Oceans', role: 'owner' }],
    });
    const course = await stage.orm.em.fork().findOneOrFail(CourseRow, { id: 2 });
    expect([course.start, course.daysConfirmed]).toEqual(['2026-09-01', false]);
    await until(async () => (await stage.orm.em.fork().count(SourceRow, { course: 2, heardAt: { $ne: null } })) > 0);
    expect([await person('s1'), await person('s3')]).toMatchObject([{ firstName: 'S1', role: 'student' }, null]);
    const [grade] = await stage.orm.em.fork().find(GradeRow, { course: 2 });
    expect([grade!.person, Number(grade!.points)]).toEqual(['s1', 41.5]);
    expect(platform.state.asked).toContain('/lineitems/c7/1/results?type=x');

    // Nothing is turned on or sent before somebody has looked at the days.
    const written = await agent
      .post('/api/v1/courses/2/write')
      .send({ to: { sheet: null, students: ['s1'] }, subject: 'A', text: 'Hello there' });
    expect([written.status, (written.body as { code: string }).code]).toEqual([409, 'daysNotConfirmed']);
    await agent.post('/api/v1/courses/2/days/confirm').send({}).expect(204);
    await agent
      .post('/api/v1/courses/2/write')
      .send({ to: { sheet: null, students: ['s1'] }, subject: 'A', text: 'Hello there' })
      .expect(201);
    expect((await launched()).leadsTo).toBe('/c/2/today');
  });

  test('keeps its session in a frame of that platform alone, and reaches no other course and no administrator’s page', async () => {
    const res = await launch();
    const cookie = (res.headers['set-cookie'] as unknown as string[]).find((c) => c.startsWith('zest-bell-launched='))!;
    expect(cookie).toMatch(/; Path=\/; Secure; HttpOnly; SameSite=None; Partitioned$/);
    const { agent } = await launched();
    await agent.get('/api/v1/courses/2').expect(200);
    const { id } = await stage.orm.em.fork().findOneOrFail(Account, { name: 'Ines Vale' });
    const em = stage.orm.em.fork();
    em.create(Access, { account: id, course: 1, role: 'owner' });
    await em.nativeUpdate(Account, { id }, { isAdministrator: true });
    await em.flush();
    await agent.get('/api/v1/courses/1').expect(404);
    await agent.get('/api/v1/admin/people').expect(403);
    await agent.post('/api/v1/courses').send({}).expect(403);
  });

  test('in a browser where somebody is signed in takes their place in a window, and a password typed later counts', async () => {
    const res = await launch();
    const set = res.headers['set-cookie'] as unknown as string[];
    expect(set.some((c) => c.startsWith('zest-bell=; Max-Age=0'))).toBe(true);
    const launchedCookie = set.find((c) => c.startsWith('zest-bell-launched='))!.split(';')[0]!;
    const signed = await request(stage.app)
      .post('/api/v1/session')
      .set({ cookie: launchedCookie, 'sec-fetch-site': 'same-origin' })
      .send({ email: 'ada@saltmarsh.example', password: PASSWORD })
      .expect(200);
    const own = (signed.headers['set-cookie'] as unknown as string[]).find((c) => c.startsWith('zest-bell='))!;
    const both = `${launchedCookie}; ${own.split(';')[0]!}`;
    const session = await request(stage.app).get('/api/v1/session').set('cookie', both).expect(200);
    expect((session.body as SessionAnswer).account?.name).toBe('Ada Lind');
  });

  test('is not the first of all: that takes a password', async () => {
    await stage.orm.em.fork().nativeDelete(Account, {});
    await refusedWith('notSetUp', {});
  });
});

describe('who comes later', () => {
  test('is a co-instructor or an assistant; what an owner changed stays, and a lower role lowers', async () => {
    await launched();
    const second = await launched({ sub: 'user-2', more: { name: 'Ori Fen', email: 'ORI@campus.example' } });
    const role = async ({ agent }: { agent: Agent }) =>
      ((await agent.get('/api/v1/session')).body as SessionAnswer).courses[0]?.role;
    expect(await role(second)).toBe('co-instructor');
    expect(await role(await launched({ sub: 'user-3', roles: [ROLES.instructor, ROLES.assistant] }))).toBe('assistant');
    expect(await role(await launched({ sub: 'user-2', roles: [ROLES.assistant] }))).toBe('assistant');
    // The last owner stays.
    expect(await role(await launched({ roles: [ROLES.assistant] }))).toBe('owner');
    const em = stage.orm.em.fork();
    const { account } = await em.findOneOrFail(LaunchAccountRow, { subject: 'user-2' });
    await em.nativeDelete(Access, { account });
    const gone = await launch({ sub: 'user-2' });
    expect([gone.status, gone.text]).toEqual([200, expect.stringContaining('took your access away')]);
  });

  test('is somebody else of the same address at another deployment or platform', async () => {
    await launched();
    await addPlatform(
      stage.services,
      platformSchema.parse({ ...registration(), clientId: 'tool-2', deployments: ['d1'] }),
    );
    expect(await stage.orm.em.fork().count(Account, { reachedAt: 'ines@campus.example' })).toBe(1);
    const b = await login({ ...LOGIN(), client_id: 'tool-2' }).expect(302);
    const to = new URL(b.headers['location']!);
    const [set] = b.headers['set-cookie'] as unknown as string[];
    const token = await platform.sign({ nonce: to.searchParams.get('nonce')!, target: TARGET, aud: 'tool-2' });
    await post({ state: to.searchParams.get('state')!, cookie: set!.split(';')[0]! }, token).expect(303);
    expect(await stage.orm.em.fork().count(Account, { reachedAt: 'ines@campus.example' })).toBe(2);
    // And never whoever signs in with that address.
    await launched({ sub: 'user-9', more: { email: 'ada@saltmarsh.example', name: 'Not Ada' } });
    expect((await stage.orm.em.fork().findOneOrFail(Account, { email: 'ada@saltmarsh.example' })).name).toBe(
      'Ada Lind',
    );
  });
});

describe('a student', () => {
  const STUDENT = { sub: 's1', roles: [ROLES.learner], more: { name: 'S1 Kelp' } };
  test('has a page with what is looked at, and the switch that pauses', async () => {
    expect((await launch(STUDENT)).text).toContain('not open here yet');
    members().push({
      user_id: 's1',
      status: 'Active',
      roles: [ROLES.learner],
      given_name: 'Sol',
      family_name: 'Kelp',
    });
    await launched();
    await until(async () => (await person('s1')) !== null);
    const { agent, leadsTo } = await launched(STUDENT);
    expect(leadsTo).toBe('/lti/student');
    const page = await agent.get('/lti/student').expect(200);
    expect(page.text).toMatch(/Sol, your instructor uses Zest Bell/);
    expect(page.headers['content-security-policy']).toContain(`frame-ancestors 'self' ${platform.base}`);
    await agent.post('/lti/student').type('form').send({ paused: 'yes' }).expect(200);
    expect((await person('s1'))!.paused).toBe(true);
    await agent.get('/api/v1/courses/2').expect(401);
    await agent
      .post('/lti/student')
      .set('sec-fetch-site', 'cross-site')
      .type('form')
      .send({ paused: 'no' })
      .expect(403);
    await agent.post('/lti/student').type('form').send({ paused: 'no' }).expect(200);
    expect((await person('s1'))!.paused).toBe(false);
  });

  test('is whoever has roles of the institution alone', async () => {
    await launched();
    const { leadsTo } = await launched({
      sub: 'x',
      roles: ['http://purl.imsglobal.org/vocab/lis/v2/institution/person#Instructor'],
    });
    expect(leadsTo).toBe('/lti/student');
  });

  test('who is gone from a whole listing is inactive, and comes back with the next', async () => {
    const member = (id: string) => ({ user_id: id, status: 'Active', roles: [ROLES.learner], name: `${id} Kelp` });
    members().push(member('s1'), member('s2'));
    await launched();
    await until(async () => (await person('s2')) !== null);
    const { id } = await stage.orm.em.fork().findOneOrFail(SourceRow, { course: 2 });
    await until(async () => (await stage.orm.em.fork().findOneOrFail(SourceRow, { id })).busyUntil == null);
    const [, second] = members().splice(1, 1) as [unknown, object] | [object];
    platform.state.faults.push({ on: '/names', status: 500 });
    expect((await pull(stage.services, id)).trouble).toMatchObject({ code: 'serverError' });
    expect((await person('s2'))!.active).toBe(true);
    expect((await pull(stage.services, id)).people).toMatchObject({ gone: 1 });
    expect((await person('s2'))!.active).toBe(false);
    members().push(second ?? member('s2'));
    await pull(stage.services, id);
    expect((await person('s2'))!.active).toBe(true);
  });
});

describe('keys', () => {
  test('of the platform may be rotated, and are known without a restart', async () => {
    await launched();
    platform.keys.unshift(await platform.makeKey());
    // An unknown key is looked for again after ten seconds at most; a cache that is old is fetched before.
    await until(async () => (await launch()).status === 303, 60_000);
    platform.keys.splice(1, 1);
  }, 90_000);

  test('of the tool are this one and the next, which is published a day before it signs at least', async () => {
    const res = await request(stage.app).get('/lti/keys').expect(200);
    const { keys } = res.body as { keys: Record<string, unknown>[] };
    expect(keys).toHaveLength(2);
    expect(keys.every((k) => k['kty'] === 'RSA' && k['d'] === undefined && k['use'] === 'sig')).toBe(true);
    const now = Date.now();
    const later = await toolKeys(stage.services, now + 95 * 86_400_000);
    expect(later.published.map((k) => k['kid'])).toEqual([keys[1]!['kid'], expect.any(String)]);
    const rows = await stage.orm.em.fork().find(ToolKeyRow, {}, { orderBy: { signsFrom: 'asc' } });
    expect(rows.at(-1)!.signsFrom - (now + 95 * 86_400_000)).toBeGreaterThanOrEqual(86_400_000);
    expect(rows.every((r) => !r.privateKey.includes('PRIVATE KEY'))).toBe(true);
  });
});

test('without a session of a launch nobody frames a page, and what is registered can be taken back', async () => {
  for (const path of ['/', '/lti/config.json', '/api/v1/session'])
    expect((await request(stage.app).get(path)).headers['content-security-policy']).toContain("frame-ancestors 'none'");
  await removePlatform(stage.services, 1);
  await login().expect(400);
  await expect(removePlatform(stage.services, 1)).rejects.toMatchObject({ code: 'notFound' });
});
