// Runs on PostgreSQL too.
/** Signing in under attack: bounds that hold for tries at the same moment, and that keep nobody out who has signed in before. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import request from 'supertest';
import { pino } from 'pino';
import { DAY, HOUR } from '@zest-bell/core/time';
import type { ActsAnswer } from '@zest-bell/core/exchange';
import { inTransaction } from '../platform/database/transaction.ts';
import { openSmtp, type TestSmtp } from '../testing/smtp.ts';
import { openStage, PASSWORD, type TestStage } from '../testing/stage.ts';
import { until } from '../testing/until.ts';
import { Account, KnownPairRow, SignInTryRow } from './entity.ts';
import { prove } from './links.ts';
import { SignInLog } from './signInLog.ts';
import { BOUNDS, forgetTries, KNOWN_FOR, TryCounter, type Guess } from './tries.ts';
import { unguarded } from '../testing/unguarded.ts';
import { asTx } from '../testing/asTx.ts';

const ADA = 'ada@saltmarsh.example';
const BO = 'bo@saltmarsh.example';
const HERE = '203.0.113.7';
const THERE = '198.51.100.4';

let stage: TestStage;
let smtp: TestSmtp;
beforeEach(async () => {
  smtp = await openSmtp();
  stage = await openStage({ now: '2026-09-08T12:00', trustedProxy: ['loopback'], smtp: smtp.url });
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

const signIn = (email: string, password: string, from: string, cookie = '') =>
  request(stage.app)
    .post('/api/v1/session')
    .set({ 'sec-fetch-site': 'same-origin', 'x-forwarded-for': from, cookie })
    .send({ email, password });
/** As many wrong ones as a counter takes, without the time that they would take. */
const full = (most: number) => unguarded(stage.orm).nativeUpdate(SignInTryRow, {}, { wrong: most });
const knownCookie = (res: request.Response): string =>
  (res.headers['set-cookie'] as unknown as string[]).find((c) => c.startsWith('zest-bell-known'))!.split(';')[0]!;

describe('ten wrong passwords in a quarter of an hour', () => {
  test('are a bound for tries at the same moment too', async () => {
    const all = await Promise.all(Array.from({ length: 16 }, () => signIn(ADA, 'no', HERE)));
    const statuses = all.map((res) => res.status).sort();
    expect(statuses).toEqual([...Array.from({ length: 10 }, () => 401), ...Array.from({ length: 6 }, () => 429)]);
  });

  test('refuse that address for that account, even with the right one; nobody else is kept out', async () => {
    await signIn(ADA, 'no', HERE).expect(401);
    await full(BOUNDS.pair.most);
    const refused = await signIn(ADA, PASSWORD, HERE).expect(429);
    expect(refused.body.code).toBe('tooManyAttempts');
    await signIn(ADA, PASSWORD, THERE).expect(200);
    await signIn(BO, PASSWORD, HERE).expect(200);
  });

  test('are over after a quarter of an hour; a right password clears what was counted for the pair', async () => {
    await signIn(ADA, 'no', HERE).expect(401);
    const em = unguarded(stage.orm);
    await em.nativeUpdate(SignInTryRow, {}, { wrong: 10, since: Date.now() - BOUNDS.pair.within });
    await signIn(ADA, PASSWORD, HERE).expect(200);
    await em.nativeDelete(KnownPairRow, {});
    for (let i = 0; i < BOUNDS.pair.most; i++) await signIn(ADA, 'no', HERE).expect(401);
  });

  test('keep neither the account nor the address as it is, and are forgotten', async () => {
    await signIn(ADA, 'no', HERE).expect(401);
    expect(JSON.stringify(await unguarded(stage.orm).find(SignInTryRow, {}))).not.toMatch(/ada@|203\.0/);
    expect(await forgetTries(stage.orm, Date.now() + HOUR + 1)).toBe(3);
  });

  test('count alike for an account that does not exist: nothing tells it from one that does', async () => {
    await signIn('eve@saltmarsh.example', 'no', HERE).expect(401);
    await full(BOUNDS.pair.most);
    await signIn('eve@saltmarsh.example', 'no', HERE).expect(429);
  });
});

describe('who has signed in before', () => {
  test('in the same browser has counters of their own, from wherever it is', async () => {
    const cookie = knownCookie(await signIn(ADA, PASSWORD, HERE).expect(200));
    await unguarded(stage.orm).nativeDelete(KnownPairRow, {});
    await signIn(ADA, 'no', THERE).expect(401);
    await full(BOUNDS.account.most);
    await signIn(ADA, PASSWORD, THERE).expect(429);
    // Of another account, or changed, it says nothing.
    await signIn(ADA, PASSWORD, THERE, cookie.replace('known-1', 'known-2')).expect(429);
    await signIn(ADA, PASSWORD, THERE, `${cookie.slice(0, -2)}xx`).expect(429);
    await signIn(ADA, PASSWORD, THERE, cookie).expect(200);
  });

  test('from the same network address is known for 90 days', async () => {
    await signIn(ADA, PASSWORD, HERE).expect(200);
    await signIn(ADA, 'no', THERE).expect(401);
    await full(BOUNDS.account.most);
    await signIn(ADA, PASSWORD, HERE).expect(200);
    const em = unguarded(stage.orm);
    const [pair] = await em.find(KnownPairRow, {});
    expect(pair!.until - Date.now()).toBeGreaterThan(KNOWN_FOR - HOUR);
    await em.nativeUpdate(KnownPairRow, {}, { until: Date.now() - 1 });
    await signIn(ADA, PASSWORD, HERE).expect(429);
  });

  test('may be wrong ten times as well', async () => {
    const cookie = knownCookie(await signIn(ADA, PASSWORD, HERE).expect(200));
    for (let i = 0; i < BOUNDS.pair.most; i++) await signIn(ADA, 'no', HERE, cookie).expect(401);
    await signIn(ADA, PASSWORD, HERE, cookie).expect(429);
  });
});

describe('a hundred wrong passwords', () => {
  const guess = (i: number, more: Partial<Guess> = {}): Guess => ({
    email: ADA,
    address: `192.0.2.${i}`,
    browser: null,
    ...more,
  });

  test('for one account, from anywhere, refuse unknown browsers and addresses', async () => {
    const tries = new TryCounter(stage.orm);
    for (let i = 0; i < BOUNDS.account.most; i++) await tries.begin(guess(i));
    await expect(tries.begin(guess(200))).rejects.toMatchObject({ code: 'tooManyAttempts' });
    await tries.begin(guess(200), Date.now() + BOUNDS.account.within + 1);
  });

  test('from one address slow it down: one answer at a time, twenty wait, and the next come back later', async () => {
    const tries = new TryCounter(stage.orm, { every: 150 });
    const from = (i: number) => tries.begin({ email: `x${i}@y.example`, address: HERE, browser: null });
    for (let i = 0; i < BOUNDS.address.most; i++) await from(i);
    const answers = await Promise.allSettled(Array.from({ length: 25 }, (_, i) => from(200 + i)));
    const refused = answers.flatMap((a) => (a.status === 'rejected' ? [a.reason as object] : []));
    expect(refused).toHaveLength(5);
    expect(refused[0]).toMatchObject({ code: 'tooManyRequests', retryAfter: 30 });
  });
});

describe('a second factor', () => {
  test('takes ten wrong codes in a quarter of an hour, over all half sign-ins, and fifty a day', async () => {
    const tries = new TryCounter(stage.orm);
    const now = Date.now();
    for (let i = 0; i < BOUNDS.factor.most; i++) await tries.beginFactor(1, now);
    await expect(tries.beginFactor(1, now)).rejects.toMatchObject({ code: 'tooManyAttempts' });
    for (let quarter = 1; quarter < 5; quarter++)
      for (let i = 0; i < BOUNDS.factor.most; i++)
        await tries.beginFactor(1, now + quarter * (BOUNDS.factor.within + 1));
    await expect(tries.beginFactor(1, now + HOUR * 2)).rejects.toMatchObject({ code: 'tooManyAttempts' });
    await tries.beginFactor(1, now + DAY + 1);
    // A right one is given back.
    await (await tries.beginFactor(2, now)).right();
    for (let i = 0; i < BOUNDS.factor.most; i++) await tries.beginFactor(2, now);
  });
});

describe('what is kept of it', () => {
  test('is in the audit log for administrators: one row for alike refusals, with a count', async () => {
    await unguarded(stage.orm).nativeUpdate(Account, { email: ADA }, { isAdministrator: true });
    for (let i = 0; i < 3; i++) await signIn(BO, 'no', HERE).expect(401);
    await signIn('eve@saltmarsh.example', 'no', HERE).expect(401);
    const ada = await stage.signIn();
    const { acts } = (await ada.get('/api/v1/admin/acts?act=signIn').expect(200)).body as ActsAnswer;
    expect(acts.map(({ by, says, about, count, from }) => [by, says, about['reason'] ?? '', count, from])).toEqual([
      ['Ada Lind', 'Sign in', '', 1, expect.any(String)],
      ['Somebody without an account', 'Sign in: refused', 'wrongPassword', 1, HERE],
      ['Bo Quist', 'Sign in: refused', 'wrongPassword', 3, HERE],
    ]);
    expect(JSON.stringify(acts)).not.toContain('eve');
  });

  test('is one line each in the log of the server, never with what was typed', async () => {
    const lines: string[] = [];
    const logger = pino({ level: 'info' }, { write: (line: string) => void lines.push(line) });
    const log = new SignInLog({ ...stage.services, logger }, new TryCounter(stage.orm));
    await log.signedIn(1, HERE);
    await log.refused(null, HERE, 'wrongPassword');
    expect(lines.map((line) => JSON.parse(line) as object)).toMatchObject([
      { event: 'signIn', account: 1, address: HERE, reason: null },
      { event: 'signInRefused', account: null, address: HERE, reason: 'wrongPassword' },
    ]);
  });

  test('is told to the owner at a proven address, once a day', async () => {
    await inTransaction(stage.orm, (tx) => prove(asTx(tx), 1, ADA, 'machine'));
    await signIn(ADA, 'no', HERE).expect(401);
    await full(BOUNDS.pair.most);
    await signIn(ADA, 'no', HERE).expect(429);
    await until(() => smtp.mails.length === 1);
    expect(smtp.mails[0]!.mail.subject).toBe('Sign-ins to your Zest Bell account were refused');
    await signIn(ADA, 'no', HERE).expect(429);
    expect(await new TryCounter(stage.orm).mayTell(1, 'password')).toBe(false);
    expect(await new TryCounter(stage.orm).mayTell(1, 'factor')).toBe(true);
  });
});

test('where a request comes from is what a trusted proxy says, and nobody else', async () => {
  await stage.close();
  stage = await openStage({ now: '2026-09-08T12:00' });
  await signIn(ADA, 'no', HERE).expect(401);
  await full(BOUNDS.pair.most);
  // It is the same machine, whatever it says of itself.
  await signIn(ADA, PASSWORD, '192.0.2.9').expect(429);
});
