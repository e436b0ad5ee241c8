// Runs on PostgreSQL too.
/** Wrong passwords: whoever guesses is slowed down and refused, and nobody else. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import request from 'supertest';
import { openStage, PASSWORD, type TestStage } from '../testing/stage.ts';
import { SignInTryRow } from './entity.ts';
import { countTry, forgetTries, mayTry, MOST_WRONG, REFUSED_FOR } from './tries.ts';

let stage: TestStage;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-08T12:00', trustedProxy: ['loopback'] });
});
afterEach(() => stage.close());

const ADA = 'ada@saltmarsh.example';
const signIn = (email: string, password: string, from: string) =>
  request(stage.app)
    .post('/api/v1/session')
    .set('sec-fetch-site', 'same-origin')
    .set('x-forwarded-for', from)
    .send({ email, password });
/** Nine wrong ones, without the time that they would take. */
const nineWrong = () => stage.orm.em.fork().nativeUpdate(SignInTryRow, {}, { wrong: MOST_WRONG - 1 });

describe('ten wrong passwords in a quarter of an hour', () => {
  beforeEach(async () => {
    await signIn(ADA, 'no', '203.0.113.7').expect(401);
    await nineWrong();
    await signIn(ADA, 'no', '203.0.113.7').expect(401);
  });

  test('refuse that address for that account, even with the right one; nobody else is kept out', async () => {
    const refused = await signIn(ADA, PASSWORD, '203.0.113.7').expect(429);
    expect(refused.body.code).toBe('tooManyAttempts');
    await signIn(ADA, PASSWORD, '198.51.100.4').expect(200);
    await signIn('bo@saltmarsh.example', PASSWORD, '203.0.113.7').expect(200);
  });

  test('are over after a quarter of an hour, and a right password clears what was counted', async () => {
    const em = stage.orm.em.fork();
    await em.nativeUpdate(SignInTryRow, {}, { since: Date.now() - REFUSED_FOR });
    await signIn(ADA, PASSWORD, '203.0.113.7').expect(200);
    expect(await em.fork().count(SignInTryRow)).toBe(0);
  });

  test('keep neither the account nor the address as it is, and are forgotten', async () => {
    const [row] = await stage.orm.em.fork().find(SignInTryRow, {});
    expect(JSON.stringify(row)).not.toMatch(/ada|203/);
    expect(await forgetTries(stage.orm, Date.now() + REFUSED_FOR)).toBe(1);
  });
});

test('an account that does not exist is counted alike: nothing tells it from one that does', async () => {
  await signIn('eve@saltmarsh.example', 'no', '203.0.113.7').expect(401);
  await nineWrong();
  await signIn('eve@saltmarsh.example', 'no', '203.0.113.7').expect(401);
  await signIn('eve@saltmarsh.example', 'no', '203.0.113.7').expect(429);
});

test('where a request comes from is what a trusted proxy says, and nobody else', async () => {
  await stage.close();
  stage = await openStage({ now: '2026-09-08T12:00' });
  await signIn(ADA, 'no', '203.0.113.7').expect(401);
  await nineWrong();
  await signIn(ADA, 'no', '198.51.100.4').expect(401);
  // It is the same machine, whatever it says of itself.
  await signIn(ADA, PASSWORD, '192.0.2.9').expect(429);
});

test('wrong ones in a row cost ever more time, up to a bound; after a quarter of an hour they begin anew', async () => {
  const guess = { email: ADA, address: '203.0.113.7' };
  const now = Date.now();
  for (let i = 0; i < 5; i++) await countTry(stage.orm, guess, false, now);
  const from = performance.now();
  await mayTry(stage.orm, guess, now);
  expect(performance.now() - from).toBeGreaterThanOrEqual(95);
  await countTry(stage.orm, guess, false, now + REFUSED_FOR);
  expect(await stage.orm.em.fork().find(SignInTryRow, {})).toMatchObject([{ wrong: 1 }]);
});
