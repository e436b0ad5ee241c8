// Runs on PostgreSQL too.
/** Who somebody is that launches, and which course it is: LTI 1.3, from memory. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { SessionAnswer } from '@zest-bell/core/exchange';
import { LAUNCH_ROLES as ROLES } from '@zest-bell/standins';
import { Access, Account, SessionRow } from '../../access/entity.ts';
import { CourseRow, PersonRow } from '../../course/entity.ts';
import { bumpVersions } from '../../course/versions.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { openLaunching, TARGET, type LaunchStage } from '../../testing/launching.ts';
import type { Agent } from '../../testing/stage.ts';
import { until } from '../../testing/until.ts';
import { LeaseRow } from '../../platform/work/entity.ts';
import { SourceRow } from '../entity.ts';
import { leaseOf, pull } from '../sources.ts';
import { LaunchAccountRow, LaunchCodeRow } from './entity.ts';
import { addPlatform, platformSchema } from './platforms.ts';
import { unguarded, freely } from '../../testing/unguarded.ts';
import { asTx } from '../../testing/asTx.ts';

let at: LaunchStage;
beforeEach(async () => {
  at = await openLaunching();
});
afterEach(() => at.close());
/** Nobody asks this source now. */
const isPulled = (source: number) =>
  until(async () => (await unguarded(at.stage.orm).count(LeaseRow, { name: leaseOf(source) })) === 0);

describe('who comes later', () => {
  test('is a co-instructor or an assistant; what an owner changed stays, and a lower role lowers', async () => {
    await at.launched();
    const second = await at.launched({ sub: 'user-2', more: { name: 'Ori Fen', email: 'ORI@campus.example' } });
    const role = async ({ agent }: { agent: Agent }) =>
      ((await agent.get('/api/v1/session')).body as SessionAnswer).courses[0]?.role;
    expect(await role(second)).toBe('co-instructor');
    expect(await role(await at.launched({ sub: 'user-3', roles: [ROLES.instructor, ROLES.assistant] }))).toBe(
      'assistant',
    );
    expect(await role(await at.launched({ sub: 'user-2', roles: [ROLES.assistant] }))).toBe('assistant');
    // The last owner stays.
    expect(await role(await at.launched({ roles: [ROLES.assistant] }))).toBe('owner');
    const em = unguarded(at.stage.orm);
    const { account } = await em.findOneOrFail(LaunchAccountRow, { subject: 'user-2' });
    await em.nativeDelete(Access, { account });
    const gone = await at.launch({ sub: 'user-2' });
    expect([gone.status, gone.text]).toEqual([200, expect.stringContaining('took your access away')]);
  });

  test('is somebody else of the same address at another deployment or platform', async () => {
    await at.launched();
    await addPlatform(
      at.stage.services,
      platformSchema.parse({ ...at.registration, clientId: 'tool-2', deployments: ['d1'] }),
    );
    expect(await unguarded(at.stage.orm).count(Account, { reachedAt: 'ines@campus.example' })).toBe(1);
    const b = await at.login({ ...at.asLogin, client_id: 'tool-2' }).expect(302);
    const to = new URL(b.headers['location']!);
    const [set] = b.headers['set-cookie'] as unknown as string[];
    const token = await at.platform.sign({ nonce: to.searchParams.get('nonce')!, target: TARGET, aud: 'tool-2' });
    await at.post({ state: to.searchParams.get('state')!, cookie: set!.split(';')[0]! }, token).expect(303);
    expect(await unguarded(at.stage.orm).count(Account, { reachedAt: 'ines@campus.example' })).toBe(2);
    // And never anyone who signs in with that address.
    await at.launched({ sub: 'user-9', more: { email: 'ada@saltmarsh.example', name: 'Not Ada' } });
    expect((await unguarded(at.stage.orm).findOneOrFail(Account, { email: 'ada@saltmarsh.example' })).name).toBe(
      'Ada Lind',
    );
  });
});

describe('a student', () => {
  const STUDENT = { sub: 's1', roles: [ROLES.learner], more: { name: 'S1 Kelp' } };
  test('has a page with what is looked at, and the switch that pauses', async () => {
    expect((await at.launch(STUDENT)).text).toContain('not open here yet');
    at.members().push({
      user_id: 's1',
      status: 'Active',
      roles: [ROLES.learner],
      given_name: 'Sol',
      family_name: 'Kelp',
    });
    await at.launched();
    await until(async () => (await at.person('s1')) !== null);
    const { agent, leadsTo } = await at.launched(STUDENT);
    expect(leadsTo).toBe('/lti/student');
    const page = await agent.get('/lti/student').expect(200);
    expect(page.text).toMatch(/Sol, your instructor uses Zest Bell/);
    expect(page.headers['content-security-policy']).toContain(`frame-ancestors 'self' ${at.platform.base}`);
    await agent.post('/lti/student').type('form').send({ paused: 'yes' }).expect(200);
    expect((await at.person('s1'))!.paused).toBe(true);
    await agent.get('/api/v1/courses/2').expect(401);
    await agent
      .post('/lti/student')
      .set('sec-fetch-site', 'cross-site')
      .type('form')
      .send({ paused: 'no' })
      .expect(403);
    await agent.post('/lti/student').type('form').send({ paused: 'no' }).expect(200);
    expect((await at.person('s1'))!.paused).toBe(false);
  });

  test('who was erased has no page open any more, and no session names them; others keep theirs', async () => {
    for (const id of ['s1', 's2'])
      at.members().push({ user_id: id, status: 'Active', roles: [ROLES.learner], name: `${id} Kelp` });
    const owner = await at.launched();
    await until(async () => (await at.person('s2')) !== null);
    const [own, other] = [await at.launched(STUDENT), await at.launched({ ...STUDENT, sub: 's2' })];
    await own.agent.get('/lti/student').expect(200);
    // On its way from one window to another.
    const hash = 'a code that was not used yet';
    await inTransaction(at.stage.orm, (tx) =>
      freely(tx).insert(LaunchCodeRow, {
        hash,
        leadsTo: '/lti/student',
        endsAt: Date.now() + 60_000,
        session: { launch: { platform: 1, deployment: 'd1' }, student: { course: 2, person: 's1' } },
      }),
    );
    await owner.agent.post('/api/v1/courses/2/students/s1/erase').send({ student: 's1' }).expect(200);
    await until(async () => (await at.person('s1')) === null);
    await own.agent.get('/lti/student').expect(401);
    await own.agent.post('/lti/student').type('form').send({ paused: 'yes' }).expect(401);
    await other.agent.post('/lti/student').type('form').send({ paused: 'yes' }).expect(200);
    const em = unguarded(at.stage.orm);
    const said = [...(await em.find(SessionRow, {})).map((s) => s.data), await em.find(LaunchCodeRow, {})];
    expect(JSON.stringify(said)).not.toContain('s1');
  });

  test('who was removed from the course pauses nothing', async () => {
    at.members().push({ user_id: 's1', status: 'Active', roles: [ROLES.learner], name: 'S1 Kelp' });
    await at.launched();
    await until(async () => (await at.person('s1')) !== null);
    const { agent } = await at.launched(STUDENT);
    await inTransaction(at.stage.orm, async (tx) => {
      await freely(tx).nativeDelete(PersonRow, { course: 2, key: 's1' });
      await bumpVersions(asTx(tx), 2);
    });
    await agent.post('/lti/student').type('form').send({ paused: 'yes' }).expect(404);
  });

  test('is whoever has roles of the institution alone', async () => {
    await at.launched();
    const { leadsTo } = await at.launched({
      sub: 'x',
      roles: ['http://purl.imsglobal.org/vocab/lis/v2/institution/person#Instructor'],
    });
    expect(leadsTo).toBe('/lti/student');
  });

  test('who is gone from a whole listing is inactive, and comes back with the next', async () => {
    const member = (id: string) => ({ user_id: id, status: 'Active', roles: [ROLES.learner], name: `${id} Kelp` });
    at.members().push(member('s1'), member('s2'));
    await at.launched();
    await until(async () => (await at.person('s2')) !== null);
    const { id } = await unguarded(at.stage.orm).findOneOrFail(SourceRow, { course: 2 });
    await isPulled(id);
    const [, second] = at.members().splice(1, 1) as [unknown, object] | [object];
    at.platform.state.faults.push({ on: '/names', status: 500 });
    expect((await pull(at.stage.services, id)).trouble).toMatchObject({ code: 'serverError' });
    expect((await at.person('s2'))!.active).toBe(true);
    expect((await pull(at.stage.services, id)).people).toMatchObject({ gone: 1 });
    expect((await at.person('s2'))!.active).toBe(false);
    at.members().push(second ?? member('s2'));
    await pull(at.stage.services, id);
    expect((await at.person('s2'))!.active).toBe(true);
  });
});

test('sections come by the groups of a course, where the platform has them and one group says which', async () => {
  const member = (id: string, ...groups: string[]) => ({
    user_id: id,
    status: 'Active',
    roles: [ROLES.learner],
    name: `${id} Kelp`,
    group_enrollments: groups.map((group_id) => ({ group_id })),
  });
  at.members().push(member('s1', 'g1', 'g3'), member('s2', 'g1', 'g2'), member('s3'));
  at.platform.groups.set('c7', [
    { id: 'g1', name: 'Morning', tag: 'section' },
    { id: 'g2', name: 'Evening', tag: 'section' },
    { id: 'g3', name: 'Project A', tag: 'project' },
  ]);
  const claim = 'https://purl.imsglobal.org/spec/lti-gs/claim/groupsservice';
  const service = { context_groups_url: `${at.platform.base}/groups/c7`, service_versions: ['1.0'] };
  await at.launched({ more: { [claim]: service } });
  await until(async () => (await at.person('s3')) !== null);
  const sections = [await at.person('s1'), await at.person('s2'), await at.person('s3')].map((p) => p!.section ?? null);
  // Who is in two sections is in none that is known.
  expect(sections).toEqual(['Morning', null, null]);
});

describe('the course of a context', () => {
  const claim = (context: object) => ({ more: { [at.platform.claim('context')]: context } });

  test('is one for two tabs that launch at once, and for two people of one browser each has their own session', async () => {
    const [one, two] = [await at.begun(), await at.begun()];
    const send = async (b: typeof one, sub: string) =>
      at.post(
        { ...b, cookie: `${one.cookie}; ${two.cookie}` },
        await at.platform.sign({ nonce: b.nonce, target: TARGET, sub }),
      );
    const [first, second] = [await send(two, 'user-1'), await send(one, 'user-2')];
    expect([first.headers['location'], second.headers['location']]).toEqual(['/c/2/setup', '/c/2/setup']);
    const names = await unguarded(at.stage.orm).count(LaunchAccountRow, {});
    expect(names).toBe(2);
  });

  test('that is archived is opened and takes nothing, and another term is a course of its own', async () => {
    const { agent } = await at.launched();
    await agent.post('/api/v1/courses/2/archive').send({}).expect(204);
    const again = await at.launched();
    expect(again.leadsTo).toMatch(/^\/c\/2\//);
    const source = await unguarded(at.stage.orm).findOneOrFail(SourceRow, { course: 2 });
    await isPulled(source.id);
    expect((await pull(at.stage.services, source.id)).trouble).toMatchObject({ code: 'refused' });
    const next = await at.launched(claim({ id: 'c8', label: 'OCE 210', title: 'Oceans, spring' }));
    expect(next.leadsTo).toBe('/c/3/setup');
    expect((await unguarded(at.stage.orm).findOneOrFail(CourseRow, { id: 3 })).title).toBe('Oceans, spring');
  });

  test('is reached again after the session ended, by the link alone', async () => {
    const { agent } = await at.launched();
    await agent.delete('/api/v1/session').expect(204);
    await agent.get('/api/v1/courses/2').expect(401);
    const { agent: back } = await at.launched();
    await back.get('/api/v1/courses/2').expect(200);
  });
});
