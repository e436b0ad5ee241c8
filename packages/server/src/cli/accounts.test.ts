// Runs on PostgreSQL too.
/** Rescue at the machine when nobody can sign in, and which secret a database is used with. */
import { chmodSync, mkdirSync, mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import request from 'supertest';
import { Account, ActRow, ProvenAddressRow } from '../access/entity.ts';
import { readConfig, StartProblem } from '../platform/process/config.ts';
import { keepToOneself, openDataFolder } from '../platform/process/dataFolder.ts';
import { fingerprintOf, mustFitDatabase, replaceSecret } from '../wiring/secret.ts';
import { isOnPostgres, placeIn } from '../testing/database.ts';
import { openStage, type TestStage } from '../testing/stage.ts';
import { addAccount, listAccounts, resetFactor, resetPassword } from './accounts.ts';
import { listPlatforms, onConnections } from './connections.ts';
import { unguarded } from '../testing/unguarded.ts';

const BASE = 'https://bell.college.example';
const DEAN = 'dean@uni.example';
const PASSWORD = 'a kettle of gulls';
let stage: TestStage;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-08T12:00', publicUrl: BASE });
});
afterEach(() => stage.close());

const anybody = () => request.agent(stage.app).set('sec-fetch-site', 'same-origin');
const secretIn = (said: string) => /password#(\S+)/.exec(said)![1]!;
const set = (said: string) =>
  anybody()
    .post('/api/v1/password/new')
    .send({ secret: secretIn(said), password: PASSWORD });
const acts = async () => (await unguarded(stage.orm).find(ActRow, {})).map((row) => row.act);

describe('an account at the machine', () => {
  test('is made with a link that sets its password, once; it is an administrator, and its address is proven', async () => {
    const said = await addAccount(stage.orm, 'Dean@Uni.example', true, BASE);
    await set(said).expect(204);
    await set(said).expect(410);
    const dean = anybody();
    const { body } = await dean.post('/api/v1/session').send({ email: DEAN, password: PASSWORD }).expect(200);
    expect(body).toMatchObject({ account: { isAdministrator: true }, mayMakeCourses: true });
    expect(await unguarded(stage.orm).count(ProvenAddressRow, { address: DEAN, how: 'machine' })).toBe(1);
    expect(await listAccounts(stage.orm)).toContain('dean@uni.example\tdean\tadministrator');
    const { acts: log } = (await dean.get('/api/v1/admin/acts?act=commandLine').expect(200)).body as {
      acts: { by: string; says: string }[];
    };
    expect(log).toMatchObject([{ by: 'the command line', says: 'Make an account or an administrator' }]);
  });

  test('that is there becomes an administrator, and is not made a second time', async () => {
    await expect(addAccount(stage.orm, 'bo@saltmarsh.example', false, BASE)).rejects.toThrow('has an account already');
    await expect(addAccount(stage.orm, 'no address', false, BASE)).rejects.toThrow('is no email address');
    expect(await addAccount(stage.orm, 'bo@saltmarsh.example', true, BASE)).toBe(
      'bo@saltmarsh.example is an administrator now.',
    );
  });

  test('gets a new password, and loses a lost factor; its sessions end', async () => {
    const ada = await stage.signIn();
    await unguarded(stage.orm).nativeUpdate(Account, { id: 1 }, { totp: 'lost' });
    const said = await resetPassword(stage.orm, 'ada@saltmarsh.example', BASE);
    await ada.get('/api/v1/courses').expect(401);
    await set(said).expect(204);
    expect(await resetFactor(stage.orm, 'ada@saltmarsh.example')).toContain('with the password alone');
    const { body } = await anybody()
      .post('/api/v1/session')
      .send({ email: 'ada@saltmarsh.example', password: PASSWORD });
    expect(body).toMatchObject({ account: { id: 1 } });
    await expect(resetFactor(stage.orm, DEAN)).rejects.toThrow(`No account has the address ${DEAN}`);
    expect(await acts()).toEqual(
      expect.arrayContaining(['commandLine.passwordReset', 'commandLine.factorReset', 'signIn.done']),
    );
  });
});

test('commands use the database and the secret that the server uses', async () => {
  const secret = 'a secret of thirty-two characters and more';
  const place = placeIn(stage.folder);
  const config = readConfig(
    { ZEST_DATA: stage.folder, ZEST_SECRET: secret, ...(isOnPostgres ? { ZEST_DATABASE_URL: place } : {}) },
    '/',
  );
  expect(await onConnections(config, listPlatforms)).toEqual({ text: '[]', code: 0 });
  // The first one was kept: another one is refused.
  const other = readConfig(
    { ZEST_DATA: stage.folder, ZEST_SECRET: `${secret}!`, ...(isOnPostgres ? { ZEST_DATABASE_URL: place } : {}) },
    '/',
  );
  await expect(onConnections(other, listPlatforms)).rejects.toThrow(StartProblem);
});

test('a process with another secret does not start and names both fingerprints, until that is meant', async () => {
  await mustFitDatabase(stage.orm, 'one');
  await mustFitDatabase(stage.orm, 'one');
  const refused = await mustFitDatabase(stage.orm, 'two').catch((error: unknown) => String(error));
  expect(refused).toContain(fingerprintOf('one'));
  expect(refused).toContain(fingerprintOf('two'));
  expect(await replaceSecret(stage.orm, 'two')).toEqual({ before: fingerprintOf('one'), now: fingerprintOf('two') });
  await mustFitDatabase(stage.orm, 'two');
});

describe('the data folder', () => {
  const mode = (path: string) => (statSync(path).mode & 0o777).toString(8);
  let parent: string;
  beforeEach(() => {
    parent = mkdtempSync(join(tmpdir(), 'zest-bell-modes-'));
  });
  afterEach(() => rmSync(parent, { recursive: true, force: true }));

  test('is made for the server’s account alone, and an open one is tightened', () => {
    const before = process.umask(0o022);
    try {
      const folder = join(parent, 'data');
      expect(openDataFolder(folder)).toBeNull();
      expect(mode(folder)).toBe('700');
      rmSync(folder, { recursive: true });
      process.umask(0o022);
      mkdirOpen(folder, 0o755);
      expect(openDataFolder(folder)).toBeNull();
      expect(mode(folder)).toBe('700');
      mkdirOpen(join(parent, 'shared'), 0o777);
      expect(openDataFolder(join(parent, 'shared'))).toContain('chmod 700');
      expect(mode(join(parent, 'shared'))).toBe('777');
      keepToOneself();
      expect(process.umask()).toBe(0o077);
    } finally {
      process.umask(before);
    }
  });
});

function mkdirOpen(folder: string, bits: number): void {
  mkdirSync(folder, { recursive: true });
  chmodSync(folder, bits);
}
