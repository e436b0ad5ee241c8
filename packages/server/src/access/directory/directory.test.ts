// Runs on PostgreSQL too.
/** Signing in at a real provider (`oidc-provider`) in a process of its own: who comes in, who does not, and what answers are refused. */
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import request from 'supertest';
import type { SessionAnswer } from '@zest-bell/core/exchange';
import { asTx } from '../../testing/asTx.ts';
import { openProvider, CLIENT, type OpenProvider } from '../../testing/directory/openProvider.ts';
import type { ProviderOrders } from '../../testing/directory/provider.ts';
import { openStage, PASSWORD, type Agent, type TestStage } from '../../testing/stage.ts';
import { unguarded } from '../../testing/unguarded.ts';
import { Account, ProvenAddressRow, SessionRow, TokenRow } from '../entity.ts';
import { makeLink } from '../links.ts';
import { DirectoryAccountRow, DirectoryRow } from './entity.ts';

const BASE = 'https://bell.college.example';
const CALLBACK = `${BASE}/oidc/callback`;
const SET_COOKIE = 'set-cookie';
const ADA = { sub: 'u-ada', email: 'ada@saltmarsh.example', email_verified: true, name: 'Ada L.' };
const NEW = { sub: 'u-new', email: 'nell@saltmarsh.example', email_verified: true, name: 'Nell Vane' };

let provider: OpenProvider;
let stage: TestStage;
let admin: Agent;

beforeAll(async () => {
  provider = await openProvider([CALLBACK]);
});
afterAll(() => provider.close());
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00', publicUrl: BASE });
  await unguarded(stage.orm).nativeUpdate(Account, { email: 'bo@saltmarsh.example' }, { isAdministrator: true });
  admin = await stage.signIn('bo@saltmarsh.example');
  await connect();
  await provider.orders({ person: ADA });
});
afterEach(() => stage.close());

const TERMS = { name: 'Saltmarsh', trustsAddresses: false, admits: null, acr: [], amr: [], passwordsOff: false };
const connect = (more: object = {}) =>
  admin
    .put('/api/v1/admin/directory')
    .send({ ...TERMS, issuer: provider.issuer, ...CLIENT, ...more })
    .expect(204);

/** A browser of somebody whom nobody knows. */
const browser = () => request.agent(stage.app).set('sec-fetch-site', 'same-origin');
const sessionOf = async (agent: Agent) => (await agent.get('/api/v1/session').expect(200)).body as SessionAnswer;

async function begin(agent: Agent, body: object = {}) {
  const res = await agent.post('/api/v1/session/directory').send(body).expect(200);
  const [set] = res.headers[SET_COOKIE] as unknown as string[];
  return { to: (res.body as { to: string }).to, cookie: set!.split(';')[0]!, set: set! };
}
/** The answer of the provider, as the browser brings it. */
const bring = (agent: Agent, answer: URL, cookie: string) =>
  agent.get(`${answer.pathname}${answer.search}`).set('cookie', cookie);

/** The whole way; `agent` is signed in afterwards where it succeeds. The cookies of its session come in the answer. */
async function come(orders: ProviderOrders = {}, body: object = {}, agent: Agent = browser()) {
  await provider.orders({ person: ADA, ...orders });
  const { to, cookie } = await begin(agent, body);
  const res = await bring(agent, await provider.follow(to), cookie);
  const set = (res.headers[SET_COOKIE] as unknown as string[] | undefined) ?? [];
  const own = set.find((c) => c.startsWith('zest-bell='))?.split(';')[0];
  const after = own === undefined ? agent : browser().set('cookie', own);
  return { res, own, agent: after, code: /<code>(\w+)<\/code>/.exec(res.text)?.[1] ?? null };
}
const refusedWith = async (orders: ProviderOrders, body: object = {}) => (await come(orders, body)).code;

describe('a sign-in', () => {
  test('asks for the code with PKCE, state and nonce, and keeps what it began in a cookie for ten minutes', async () => {
    const { to, set } = await begin(browser());
    const asked = Object.fromEntries(new URL(to).searchParams);
    expect(asked).toMatchObject({
      response_type: 'code',
      client_id: 'zest-bell',
      redirect_uri: CALLBACK,
      scope: 'openid profile email',
      code_challenge_method: 'S256',
    });
    for (const name of ['state', 'nonce', 'code_challenge']) expect(asked[name]).toMatch(/^[\w-]{43}$/);
    expect(set).toMatch(/^zest-bell-sign-in-[\w-]{16}=[\w-]+; Max-Age=600; Path=\/oidc; .*HttpOnly; SameSite=Lax$/);
  });

  test('signs in the account that has proven the address which the provider has verified, and knows it by its subject then', async () => {
    const { res, agent } = await come({}, { then: '/c/1/today' });
    expect([res.status, res.headers['location']]).toEqual([303, '/c/1/today']);
    const { account, directory } = await sessionOf(agent);
    expect(account).toMatchObject({ id: 1, name: 'Ada Lind', cameBy: 'directory', hasPassword: true });
    expect(directory).toEqual({ name: 'Saltmarsh', passwordsOff: false, canSignOut: true });
    // Another address, and one that is not verified, change nothing: an account is (issuer, subject).
    const later = await come({ person: { ...ADA, email: 'elsewhere@saltmarsh.example', email_verified: false } });
    expect((await sessionOf(later.agent)).account?.id).toBe(1);
  });

  test('of somebody without an account or an invitation is refused, and makes none', async () => {
    expect(await refusedWith({ person: NEW })).toBe('noAccount');
    expect(await unguarded(stage.orm).count(Account, { email: NEW.email })).toBe(0);
  });

  test('lets in everybody with the value of a claim that an administrator names', async () => {
    await connect({ admits: { claim: 'affiliation', value: 'faculty' } });
    expect(await refusedWith({ person: { ...NEW, affiliation: ['student'] } })).toBe('noAccount');
    const { agent } = await come({ person: { ...NEW, affiliation: ['staff', 'faculty'] } });
    const { account, courses, mayMakeCourses } = await sessionOf(agent);
    expect(account).toMatchObject({ name: 'Nell Vane', email: NEW.email, hasPassword: false, isAdministrator: false });
    expect([courses, mayMakeCourses]).toEqual([[], true]);
    const proven = await unguarded(stage.orm).find(ProvenAddressRow, { account: account!.id });
    expect(proven.map((p) => [p.address, p.how])).toEqual([[NEW.email, 'directory']]);
  });

  test('with an address that nobody has verified makes an account that the address does not open', async () => {
    await connect({ admits: { claim: 'affiliation', value: 'faculty' } });
    const { agent } = await come({ person: { ...NEW, email_verified: false, affiliation: 'faculty' } });
    const { account } = await sessionOf(agent);
    const row = await unguarded(stage.orm).findOneOrFail(Account, account!.id);
    expect([row.reachedAt, row.email.startsWith('directory:')]).toEqual([NEW.email, true]);
    expect(await unguarded(stage.orm).count(ProvenAddressRow, { account: row.id })).toBe(0);
  });

  test('accepts invitations to a verified address, and the one that somebody came with', async () => {
    const em = unguarded(stage.orm);
    await makeLink(asTx(em), 'invitation', { email: NEW.email, course: 1, role: 'observer' });
    const { agent } = await come({ person: NEW });
    expect((await sessionOf(agent)).courses).toMatchObject([{ id: 1, role: 'observer' }]);
    const { secret } = await makeLink(asTx(em), 'invitation', {
      email: 'old@saltmarsh.example',
      course: 1,
      role: 'assistant',
    });
    const person = { sub: 'u-3', email: 'new@saltmarsh.example', email_verified: false, name: 'Ira Holt' };
    const other = await come({ person }, { invitation: secret, then: '/c/1' });
    const session = await sessionOf(other.agent);
    expect([session.account?.email, session.courses[0]?.role]).toEqual(['old@saltmarsh.example', 'assistant']);
    expect((await come({ person: { ...person, sub: 'u-4' } }, { invitation: secret })).code).toBe('linkUsed');
  });
});

describe('an older account with the same address', () => {
  test('is proven by its password where the provider has not verified the address', async () => {
    const { agent } = await come({ person: { ...ADA, email_verified: false } });
    const session = await sessionOf(agent);
    expect([session.account, session.toProve]).toEqual([null, ADA.email]);
    await agent.get('/api/v1/courses/1').expect(401);
    await agent.post('/api/v1/session/directory/prove').send({ password: 'not that one' }).expect(401);
    const proven = await agent.post('/api/v1/session/directory/prove').send({ password: PASSWORD }).expect(200);
    expect((proven.body as SessionAnswer).account).toMatchObject({ id: 1, cameBy: 'directory' });
    // From then on without it.
    const again = await come({ person: { ...ADA, email_verified: false } });
    expect((await sessionOf(again.agent)).account?.id).toBe(1);
  });

  test('is joined at once where an administrator has said that the addresses may be trusted', async () => {
    await connect({ trustsAddresses: true });
    const { agent } = await come({ person: { ...ADA, email_verified: false } });
    expect((await sessionOf(agent)).account?.id).toBe(1);
  });

  test('that somebody else registered first is taken over: what let them in ends', async () => {
    const em = unguarded(stage.orm);
    await em.nativeDelete(ProvenAddressRow, { account: 1 });
    await em.nativeUpdate(Account, { id: 1 }, { isUnproven: true });
    const theirs = await stage.signIn();
    await theirs
      .post('/api/v1/courses/1/tokens')
      .send({ name: 'Theirs', capabilities: ['course.read'] })
      .expect(201);
    await em.nativeUpdate(Account, { id: 1 }, { totp: 'of another' });
    const { agent } = await come();
    expect((await sessionOf(agent)).account).toMatchObject({ id: 1, name: 'Ada L.', hasPassword: false });
    await theirs.get('/api/v1/courses/1').expect(401);
    await browser().post('/api/v1/session').send({ email: ADA.email, password: PASSWORD }).expect(401);
    const row = await unguarded(stage.orm).findOneOrFail(Account, 1);
    expect([row.totp, row.isUnproven]).toEqual([null, false]);
    expect(await unguarded(stage.orm).count(TokenRow, { madeBy: 1, revokedAt: null })).toBe(0);
    expect(await unguarded(stage.orm).count(SessionRow, { account: 1 })).toBe(1);
  });

  test('is not followed by somebody else who is given the address later', async () => {
    await come();
    const { agent } = await come({ person: { ...ADA, sub: 'u-next' } });
    expect(await sessionOf(agent)).toMatchObject({ account: null, toProve: ADA.email });
  });
});

describe('an answer is refused', () => {
  const past = Math.floor(Date.now() / 1000) - 3600;
  test.each<[string, ProviderOrders]>([
    ['wrongIssuer', { claims: { iss: 'https://elsewhere.example' } }],
    ['wrongAudience', { claims: { aud: 'another' } }],
    ['wrongAudience', { claims: { aud: ['zest-bell', 'another'], azp: 'another' } }],
    ['wrongNonce', { claims: { nonce: 'of another' } }],
    ['wrongNonce', { claims: { nonce: null } }],
    ['expired', { claims: { exp: past, iat: past - 60 } }],
    ['forged', { key: 'stray' }],
    ['providerRefused', { person: undefined }],
  ])('as %s', async (code, orders) => {
    expect(await refusedWith(orders)).toBe(code);
    expect(await unguarded(stage.orm).count(DirectoryAccountRow)).toBe(0);
  });

  test('within a minute of a clock that is wrong it is not', async () => {
    const soon = Math.floor(Date.now() / 1000) - 30;
    expect((await come({ claims: { exp: soon } })).res.status).toBe(303);
  });

  test('where the state is of another browser, over, or used', async () => {
    const agent = browser();
    const { to, cookie } = await begin(agent);
    const answer = await provider.follow(to);
    expect((await bring(browser(), answer, '').expect(400)).text).toContain('stateUnknown');
    expect((await bring(browser(), answer, `${cookie}x`).expect(400)).text).toContain('stateUnknown');
    await bring(agent, answer, cookie).expect(303);
    // The browser has forgotten it; and somebody who has kept it finds that the code works once.
    expect((await bring(browser(), answer, '').expect(400)).text).toContain('stateUnknown');
    expect((await bring(browser(), answer, cookie).expect(400)).text).toContain('codeUsed');
  });

  test('where it says that it comes from another provider', async () => {
    const { to, cookie } = await begin(browser());
    const answer = await provider.follow(to);
    answer.searchParams.set('iss', 'https://elsewhere.example');
    expect((await bring(browser(), answer, cookie).expect(400)).text).toContain('otherProvider');
    await admin.delete('/api/v1/admin/directory').expect(204);
    expect((await bring(browser(), answer, cookie).expect(400)).text).toContain('notConnected');
  });

  test('where the way of signing in is weaker than an administrator asks for', async () => {
    await connect({ amr: ['mfa', 'hwk'] });
    expect(await refusedWith({ claims: { amr: ['pwd'] } })).toBe('tooWeak');
    expect(await refusedWith({ claims: { amr: ['pwd', 'mfa'] } })).toBe(null);
    await connect({ acr: ['https://refeds.org/profile/mfa'] });
    expect(await refusedWith({})).toBe('tooWeak');
    expect(await refusedWith({ claims: { acr: 'https://refeds.org/profile/mfa' } })).toBe(null);
  });
});

test('keys of the provider may change at any moment', async () => {
  expect((await come()).res.status).toBe(303);
  expect((await come({ key: 'next' })).res.status).toBe(303);
});

test('the second factor is asked for unless the provider names one', async () => {
  const em = unguarded(stage.orm);
  await em.nativeUpdate(Account, { id: 1 }, { totp: stage.services.seal.close('JBSWY3DPEHPK3PXP') });
  const half = await sessionOf((await come()).agent);
  expect([half.account, half.needs]).toEqual([null, ['totp']]);
  const whole = await sessionOf((await come({ claims: { amr: ['pwd', 'otp'] } })).agent);
  expect(whole.account?.id).toBe(1);
});

test('an older account with a second factor is known to the directory only once the factor was shown', async () => {
  const em = unguarded(stage.orm);
  await em.nativeUpdate(Account, { id: 1 }, { totp: stage.services.seal.close('JBSWY3DPEHPK3PXP') });
  const { agent } = await come({ person: { ...ADA, email_verified: false } });
  const res = await agent.post('/api/v1/session/directory/prove').send({ password: PASSWORD }).expect(200);
  expect((res.body as SessionAnswer).needs).toEqual(['totp']);
  expect(await unguarded(stage.orm).count(DirectoryAccountRow)).toBe(0);
});

test('passwords can be turned off for everybody but administrators', async () => {
  await connect({ passwordsOff: true });
  const body = { email: ADA.email, password: PASSWORD };
  const off = await browser().post('/api/v1/session').send(body).expect(409);
  expect((off.body as { code: string }).code).toBe('passwordsOff');
  await stage.signIn('bo@saltmarsh.example');
  expect((await sessionOf((await come()).agent)).account?.id).toBe(1);
  // Without a provider nobody would get in: they work again.
  await admin.delete('/api/v1/admin/directory').expect(204);
  await stage.signIn();
});

test('somebody shows again that it is them, and nobody else does it for them', async () => {
  const { agent, own } = await come();
  const em = unguarded(stage.orm);
  // Signed in long ago.
  const row = await em.findOneOrFail(SessionRow, { account: 1 });
  const data = { ...(JSON.parse(row.data) as object), shownAt: 0 };
  await em.nativeUpdate(SessionRow, { id: row.id }, { data: JSON.stringify(data) });
  const again = async (orders: ProviderOrders) => {
    await provider.orders(orders);
    const { to, cookie } = await begin(agent, { purpose: 'confirm' });
    expect(Object.fromEntries(new URL(to).searchParams)).toMatchObject({ prompt: 'login', max_age: '0' });
    return bring(browser(), await provider.follow(to), `${cookie}; ${own!}`);
  };
  const isFresh = async () => (await agent.post('/api/v1/account/totp').send({})).status === 200;
  expect((await again({ person: NEW })).text).toContain('otherAccount');
  expect((await again({ person: ADA, claims: { auth_time: 1 } })).text).toContain('notRecent');
  expect(await isFresh()).toBe(false);
  expect((await again({ person: ADA })).text).toContain('Close this window');
  expect(await isFresh()).toBe(true);
});

test('a provider that is gone says so, keeps its settings, and the sign-out leads to its own address', async () => {
  const out = await browser().get('/oidc/sign-out').expect(303);
  expect(out.headers['location']).toMatch(new RegExp(`^${provider.issuer}/session/end\\?.*client_id=zest-bell`));
  await unguarded(stage.orm).nativeUpdate(DirectoryRow, { id: 1 }, { issuer: 'http://127.0.0.1:9' });
  const gone = await browser().post('/api/v1/session/directory').send({}).expect(503);
  expect((gone.body as { code: string }).code).toBe('directoryUnreachable');
  const wrong = { ...TERMS, issuer: 'http://127.0.0.1:9', clientId: 'x' };
  const refused = await admin.put('/api/v1/admin/directory').send(wrong).expect(400);
  expect((refused.body as { problems: { path: string }[] }).problems[0]!.path).toBe('issuer');
});

test('with another secret of the server everybody still signs in, and the administrator types the client secret again', async () => {
  await unguarded(stage.orm).nativeUpdate(DirectoryRow, { id: 1 }, { secret: 'sealed by another' });
  expect((await sessionOf(browser())).directory).toMatchObject({ name: 'Saltmarsh' });
  await stage.signIn();
  expect((await admin.get('/api/v1/admin/directory').expect(200)).body).toMatchObject({ hasSecret: false });
  expect((await come()).code).toBe('providerRefused');
  await connect();
  expect((await come()).res.status).toBe(303);
});

test('an invitation to somebody whom the directory knows already leads to it, where they join or read why not', async () => {
  await come();
  const { secret } = await makeLink(asTx(unguarded(stage.orm)), 'invitation', {
    email: 'old@saltmarsh.example',
    course: 1,
    role: 'assistant',
  });
  const { res } = await come({}, { invitation: secret, then: '/c/1' });
  expect([res.status, res.headers['location']]).toEqual([303, `/invitation#${secret}`]);
});

test('the secret is sealed, shown to nobody, and not carried to another provider', async () => {
  const row = await unguarded(stage.orm).findOneOrFail(DirectoryRow, { id: 1 });
  expect(row.secret).not.toContain(CLIENT.secret);
  const shown = (await admin.get('/api/v1/admin/directory').expect(200)).body as object;
  expect(JSON.stringify(shown)).not.toContain(CLIENT.secret);
  expect(shown).toMatchObject({ issuer: provider.issuer, hasSecret: true, isFixed: false, callback: CALLBACK });
  await admin
    .put('/api/v1/admin/directory')
    .send({ ...TERMS, issuer: provider.issuer, clientId: 'another' })
    .expect(204);
  expect((await unguarded(stage.orm).findOneOrFail(DirectoryRow, { id: 1 })).secret).toBeNull();
});
