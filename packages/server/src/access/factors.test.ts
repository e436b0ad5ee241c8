/** Second factors: codes, recovery codes, and what must be shown again. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import request from 'supertest';
import { Secret, TOTP } from 'otpauth';
import type { FactorsAnswer, SessionAnswer } from '@zest-bell/core/exchange';
import { openSmtp } from '../testing/smtp.ts';
import { until } from '../testing/until.ts';
import { openStage, PASSWORD, type Agent, type TestStage } from '../testing/stage.ts';
import { Account, RecoveryRow, SessionRow } from './entity.ts';
import { periodOf } from './factors.ts';
import { setInstallation } from './installation.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { unguarded } from '../testing/unguarded.ts';
import { asTx } from '../testing/asTx.ts';

let stage: TestStage;
let ada: Agent;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00', publicUrl: 'https://bell.college.example' });
  ada = await stage.signIn();
});
afterEach(() => stage.close());

const ADA = { email: 'ada@saltmarsh.example', password: PASSWORD };
/** A code of now, or of the period after it: either stays good when a period ends on its way. */
const codeOf = (secret: string, periodsOn: 0 | 1 = 0) =>
  new TOTP({ secret: Secret.fromBase32(secret) }).generate({ timestamp: Date.now() + periodsOn * 30_000 });
const problemOf = (res: request.Response) => [res.status, (res.body as { code: string }).code];

async function setUp(who = ada) {
  const { secret, uri } = (await who.post('/api/v1/account/totp').send({}).expect(200)).body as {
    secret: string;
    uri: string;
  };
  const { recoveryCodes } = (
    await who
      .post('/api/v1/account/totp/confirm')
      .send({ code: codeOf(secret) })
      .expect(200)
  ).body as { recoveryCodes: string[] };
  return { secret, uri, recoveryCodes };
}
async function half() {
  const agent = request.agent(stage.app).set('sec-fetch-site', 'same-origin');
  const { body } = await agent.post('/api/v1/session').send(ADA).expect(200);
  return { agent, session: body as SessionAnswer };
}
const show = (agent: Agent, body: object) => agent.post('/api/v1/session/factor').send(body);

// RFC 6238, appendix B (SHA-1, the last six of its eight digits), typed from memory.
test.each([
  [59, '287082'],
  [1_111_111_109, '081804'],
  [1_234_567_890, '005924'],
  [2_000_000_000, '279037'],
])('the code of RFC 6238 at %i s fits, and is of that period', (seconds, code) => {
  const secret = Secret.fromUTF8('12345678901234567890').base32;
  expect(periodOf(secret, code, seconds * 1000)).toBe(Math.floor(seconds / 30));
  expect(periodOf(secret, code, (seconds + 90) * 1000)).toBeNull();
});

describe('with codes of an app', () => {
  test('a password alone opens nothing: the session is good for the second factor, and a code works once', async () => {
    const { secret, uri } = await setUp();
    expect(uri).toMatch(/^otpauth:\/\/totp\/Zest%20Bell:ada%40saltmarsh\.example\?/);
    const { agent, session } = await half();
    expect([session.account, session.needs, session.courses]).toEqual([null, ['totp'], []]);
    await agent.get('/api/v1/courses').expect(401);
    await agent.get('/api/v1/account/factors').expect(401);
    const code = codeOf(secret, 1);
    expect((await show(agent, { code }).expect(200)).body).toMatchObject({ account: { name: 'Ada Lind' } });
    await agent.get('/api/v1/courses').expect(200);
    const again = await half();
    expect(problemOf(await show(again.agent, { code }))).toEqual([401, 'wrongCode']);
  });

  test('five wrong codes end it, and so do five minutes', async () => {
    const { secret } = await setUp();
    const { agent } = await half();
    for (let i = 0; i < 5; i++) expect(problemOf(await show(agent, { code: '000000' }))).toEqual([401, 'wrongCode']);
    expect(problemOf(await show(agent, { code: codeOf(secret, 1) }))).toEqual([401, 'signInNeeded']);

    const late = await half();
    const em = unguarded(stage.orm);
    for (const row of await em.find(SessionRow, { account: null })) {
      const data = JSON.parse(row.data) as { half?: { until: number } };
      if (data.half) data.half.until = Date.now() - 1;
      row.data = JSON.stringify(data);
    }
    await em.flush();
    expect(problemOf(await show(late.agent, { code: codeOf(secret, 1) }))).toEqual([401, 'signInNeeded']);
    // It begins with the password again, and the screen is told so.
    expect((await late.agent.get('/api/v1/session')).body).not.toHaveProperty('needs');
  });

  test('a lost phone is made up for by recovery codes, each once, whatever their case', async () => {
    const { recoveryCodes } = await setUp();
    expect(new Set(recoveryCodes).size).toBe(10);
    expect((await unguarded(stage.orm).find(RecoveryRow, {})).map((r) => r.hash)).not.toContain(recoveryCodes[0]);
    const first = await half();
    await show(first.agent, { recoveryCode: recoveryCodes[0]!.toUpperCase() }).expect(200);
    const second = await half();
    await show(second.agent, { recoveryCode: recoveryCodes[0] }).expect(401);
    await show(second.agent, { recoveryCode: recoveryCodes[1]!.replaceAll('-', ' ') }).expect(200);
    const factors = (await first.agent.get('/api/v1/account/factors')).body as FactorsAnswer;
    expect(factors).toEqual({ totp: true, recoveryCodes: 8, passkeys: [], isRequired: false });
  });

  test('the secret is kept sealed, and a new password does not skip it', async () => {
    const { secret } = await setUp();
    const { totp } = await unguarded(stage.orm).findOneOrFail(Account, { email: ADA.email });
    expect(totp).not.toContain(secret);
    await ada.post('/api/v1/session/password').send({ old: PASSWORD, password: 'rope ladder tide' }).expect(200);
    const agent = request.agent(stage.app).set('sec-fetch-site', 'same-origin');
    const { body } = await agent
      .post('/api/v1/session')
      .send({ ...ADA, password: 'rope ladder tide' })
      .expect(200);
    expect((body as SessionAnswer).account).toBeNull();
  });
});

test('what changes how somebody signs in wants the password again after a while', async () => {
  const em = unguarded(stage.orm);
  for (const row of await em.find(SessionRow, {})) {
    row.data = JSON.stringify({ ...(JSON.parse(row.data) as object), shownAt: Date.now() - 11 * 60_000 });
  }
  await em.flush();
  expect(problemOf(await ada.post('/api/v1/account/totp').send({}))).toEqual([409, 'confirmYourself']);
  expect(problemOf(await ada.delete('/api/v1/account/totp'))).toEqual([409, 'confirmYourself']);
  await ada.post('/api/v1/session/confirm').send({ password: 'not this one' }).expect(401);
  await ada.post('/api/v1/session/confirm').send({ password: PASSWORD }).expect(204);
  await setUp();
});

test('an installation that wants a second factor of everybody lets nobody do anything before they have one', async () => {
  await inTransaction(stage.orm, (tx) => setInstallation(asTx(tx), { factorRequired: true, keepMonths: 24 }));
  const { agent, session } = await half();
  expect([session.account?.name, session.mustSetFactor]).toEqual(['Ada Lind', true]);
  expect(problemOf(await agent.get('/api/v1/courses'))).toEqual([409, 'factorNeeded']);
  await setUp(agent);
  await agent.get('/api/v1/courses').expect(200);
});

test('an administrator takes a lost factor away, and nobody else does', async () => {
  await setUp();
  const bo = await stage.signIn('bo@saltmarsh.example');
  await bo.post('/api/v1/admin/people/1/factors/reset').send({}).expect(403);
  await unguarded(stage.orm).nativeUpdate(Account, { email: 'bo@saltmarsh.example' }, { isAdministrator: true });
  await bo.post('/api/v1/admin/people/1/factors/reset').send({}).expect(204);
  expect((await half()).session.account?.name).toBe('Ada Lind');
  expect(problemOf(await bo.put('/api/v1/admin/people/2').send({ isAdministrator: false }))).toEqual([
    ...[409, 'lastAdministrator'],
  ]);
});

describe('a passkey', () => {
  test('is made for the application’s own address, and an answer to no challenge is none', async () => {
    const { body } = await ada.post('/api/v1/account/passkeys/begin').send({}).expect(200);
    expect(body).toMatchObject({ rp: { id: 'bell.college.example', name: 'Zest Bell' }, user: { name: ADA.email } });
    const made = { name: 'Laptop', passkey: { id: 'x', rawId: 'x', type: 'public-key', response: {} } };
    expect(problemOf(await ada.post('/api/v1/account/passkeys').send(made))).toEqual([401, 'wrongCode']);
    // The challenge was used by that.
    expect(problemOf(await ada.post('/api/v1/account/passkeys').send(made))).toEqual([401, 'wrongCode']);
    await ada.delete('/api/v1/account/passkeys/9').expect(404);
  });
});

test('whoever owns an account is told by mail when its keys are changed, and not what they are', async () => {
  const smtp = await openSmtp();
  const told = await openStage({ now: '2026-09-10T12:00', smtp: smtp.url, publicUrl: 'https://bell.college.example' });
  try {
    const who = await told.signIn();
    const { secret, recoveryCodes } = await setUp(who);
    await who.post('/api/v1/session/password').send({ old: PASSWORD, password: 'rope ladder tide' }).expect(200);
    await who.delete('/api/v1/account/totp').expect(204);
    await until(() => smtp.mails.length === 3);
    const texts = smtp.mails.map(({ mail }) => mail.text ?? '').join('\n');
    expect(smtp.mails.map((m) => m.to)).toEqual(Array.from({ length: 3 }, () => ['ada@saltmarsh.example']));
    // Each on a line of its own to the mail server, in whatever order they come.
    for (const said of ['A second factor was added', 'The password of your account was changed', 'was taken from'])
      expect(texts).toContain(said);
    for (const hidden of [secret, 'rope ladder tide', ...recoveryCodes]) expect(texts).not.toContain(hidden);
  } finally {
    await told.close();
    await smtp.close();
  }
});
