// Runs on PostgreSQL too.
/** Joining the account of a launch to the one that its owner signs in to. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import request from 'supertest';
import type { AdminPerson, SessionAnswer } from '@zest-bell/core/exchange';
import { openProvider, CLIENT } from '../../testing/directory/openProvider.ts';
import { BASE, openLaunching, type LaunchStage } from '../../testing/launching.ts';
import { PASSWORD } from '../../testing/stage.ts';
import { unguarded } from '../../testing/unguarded.ts';
import { Access, Account, SessionRow } from '../entity.ts';
import { OwnSenderRow } from '../../course/entity.ts';
import { DirectoryAccountRow } from './entity.ts';

let at: LaunchStage;
beforeEach(async () => {
  at = await openLaunching();
});
afterEach(() => at.close());

const BODY = { email: 'ada@saltmarsh.example', password: PASSWORD };
const partsOf = async (account: number) =>
  (await unguarded(at.stage.orm).find(Access, { account }, { orderBy: { course: 'asc' } })).map((a) => [
    a.course,
    a.role,
  ]);
const launchedId = async () => (await unguarded(at.stage.orm).findOneOrFail(Account, { name: 'Ines Vale' })).id;

test('its parts in courses are added up, and who launches is signed in to their own account', async () => {
  const { agent } = await at.launched();
  const from = await launchedId();
  const em = unguarded(at.stage.orm);
  em.create(Access, { account: from, course: 1, role: 'observer' });
  em.create(OwnSenderRow, {
    account: from,
    course: 2,
    sender: { name: 'Ines Vale', address: '', replyTo: '', signature: 'I. Vale', officeHours: '' },
  } as never);
  await em.flush();
  const res = await agent.post('/api/v1/account/join').send(BODY).expect(200);
  const session = res.body as SessionAnswer;
  expect(session.account).toMatchObject({ id: 1, name: 'Ada Lind', cameBy: 'password' });
  // The higher role of the two stays.
  expect(await partsOf(1)).toEqual([
    [1, 'owner'],
    [2, 'owner'],
  ]);
  expect(await partsOf(from)).toEqual([]);
  expect(await unguarded(at.stage.orm).count(OwnSenderRow, { account: 1, course: 2 })).toBe(1);
  const again = await at.launched();
  const later = (await again.agent.get('/api/v1/session').expect(200)).body as SessionAnswer;
  expect(later.account).toMatchObject({ id: 1, name: 'Ada Lind', cameBy: 'launch' });
  // The platform speaks for its own account alone: the keys of this one take its password.
  await again.agent.post('/api/v1/account/totp').send({}).expect(409);
  // A launch still reaches the courses of its deployment alone.
  await again.agent.get('/api/v1/courses/1').expect(404);
  expect(later.courses.map((c) => c.id)).toEqual([2]);
  const idsOf = async (path: string, of: (body: never) => number[]) =>
    of((await again.agent.get(path).expect(200)).body as never);
  expect(await idsOf('/api/v1/courses', (all: { id: number }[]) => all.map((c) => c.id))).toEqual([2]);
  expect(
    await idsOf('/api/v1/inbox', ({ courses }: { courses: { course: number }[] }) => courses.map((c) => c.course)),
  ).toEqual([2]);
  expect(await idsOf('/api/v1/rules', (all: { course: number }[]) => all.map((r) => r.course))).toEqual([]);
  expect(await idsOf('/api/v1/courses/2/term/others', (all: { id: number }[]) => all.map((c) => c.id))).toEqual([]);

  const people = async () => {
    const answer = await admin.get('/api/v1/admin/people').expect(200);
    return (answer.body as { people: AdminPerson[] }).people.find((p) => p.account === from)?.joinedTo;
  };
  await unguarded(at.stage.orm).nativeUpdate(Account, { email: 'bo@saltmarsh.example' }, { isAdministrator: true });
  const admin = await at.stage.signIn('bo@saltmarsh.example');
  expect(await people()).toBe('Ada Lind');
  const ada = await at.stage.signIn();
  const token = { name: 'Of the launched course', capabilities: ['course.read'] };
  const made = await ada.post('/api/v1/courses/2/tokens').send(token).expect(201);
  const byToken = () =>
    request(at.stage.app)
      .get('/api/v1/courses/2')
      .set('authorization', `Bearer ${(made.body as { secret: string }).secret}`);
  await byToken().expect(200);
  await at.stage.signIn().then((own) => own.post(`/api/v1/admin/people/${from}/separate`).send({}).expect(403));
  await admin.post(`/api/v1/admin/people/${from}/separate`).send({}).expect(204);
  expect(await people()).toBeNull();
  await byToken().expect(401);
  expect(await partsOf(1)).toEqual([[1, 'owner']]);
  expect(await partsOf(from)).toEqual([
    [1, 'observer'],
    [2, 'owner'],
  ]);
  await admin.post(`/api/v1/admin/people/${from}/separate`).send({}).expect(404);
});

test('takes the password, the second factor, and a launch of the last ten minutes', async () => {
  const { agent } = await at.launched();
  const codeOf = async (body: object, status: number) =>
    ((await agent.post('/api/v1/account/join').send(body).expect(status)).body as { code: string }).code;
  expect(await codeOf({ ...BODY, password: 'not that one' }, 401)).toBe('wrongPassword');
  const em = unguarded(at.stage.orm);
  await em.nativeUpdate(Account, { id: 1 }, { totp: at.stage.services.seal.close('JBSWY3DPEHPK3PXP') });
  expect(await codeOf(BODY, 409)).toBe('codeNeeded');
  expect(await codeOf({ ...BODY, code: '000000' }, 401)).toBe('wrongCode');
  const row = await em.findOneOrFail(SessionRow, { account: await launchedId() });
  const data = { ...(JSON.parse(row.data) as object), shownAt: Date.now() - 11 * 60_000 };
  await em.nativeUpdate(SessionRow, { id: row.id }, { data: JSON.stringify(data) });
  expect(await codeOf(BODY, 409)).toBe('launchAgain');
  const own = await at.stage.signIn('bo@saltmarsh.example');
  await own.post('/api/v1/account/join').send(BODY).expect(409);
  expect(await partsOf(1)).toEqual([[1, 'owner']]);
});

test('by the directory, for an account that it knows', async () => {
  const provider = await openProvider([`${BASE}/oidc/callback`]);
  try {
    const em = unguarded(at.stage.orm);
    await em.nativeUpdate(Account, { email: 'bo@saltmarsh.example' }, { isAdministrator: true });
    const admin = await at.stage.signIn('bo@saltmarsh.example');
    const terms = { name: 'Saltmarsh', trustsAddresses: false, admits: null, acr: [], amr: [], passwordsOff: false };
    await admin
      .put('/api/v1/admin/directory')
      .send({ ...terms, issuer: provider.issuer, ...CLIENT })
      .expect(204);
    await provider.orders({ person: { sub: 'u-ada' } });
    const { agent, cookie: launched } = await at.launched();
    const from = await launchedId();
    const join = async () => {
      const begun = await agent
        .post('/api/v1/session/directory')
        .send({ purpose: 'join', then: '/account' })
        .expect(200);
      const [set] = begun.headers['set-cookie'] as unknown as string[];
      const answer = await provider.follow((begun.body as { to: string }).to);
      const cookie = `${launched}; ${set!.split(';')[0]!}`;
      return request(at.stage.app).get(`${answer.pathname}${answer.search}`).set('cookie', cookie);
    };
    expect((await join()).text).toContain('joinNeedsAccount');
    em.create(DirectoryAccountRow, { account: 1, issuer: provider.issuer, subject: 'u-ada', at: 0 });
    await em.flush();
    const done = await join();
    expect([done.status, done.headers['location']]).toEqual([303, '/account']);
    expect(await partsOf(from)).toEqual([]);
    expect((await partsOf(1)).map(([course]) => course)).toEqual([1, 2]);
  } finally {
    await provider.close();
  }
});
