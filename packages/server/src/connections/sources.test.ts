// Runs on PostgreSQL too.
/** Feeding a course from a OneRoster service: pages, changed and vanished people, faults, and what a person decided by hand. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { Pulled, SourceCard } from '@zest-bell/core/connections';
import type { ChangesAnswer } from '@zest-bell/core/imports';
import { Account } from '../access/entity.ts';
import { CourseRow, PersonRow } from '../course/entity.ts';
import { GradeRow } from '../course/activity/entity.ts';
import { outgoing } from '../platform/http/outgoing.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { LeaseRow } from '../platform/work/entity.ts';
import { LEASE } from '../platform/work/lease.ts';
import { openRoster, type RosterStandIn } from '../testing/roster.ts';
import { at, openStage, type Agent, type TestStage } from '../testing/stage.ts';
import { goOn } from '../privacy/erase.ts';
import { SourceLinkRow, SourceRow } from './entity.ts';
import { addSource, MOST_REFUSED, leaseOf, nextAfter, pull, pullDue } from './sources.ts';
import { unguarded, freely } from '../testing/unguarded.ts';

let stage: TestStage;
let roster: RosterStandIn;
let ada: Agent;
const user = (id: string, more: object = {}) => ({
  sourcedId: id,
  status: 'active',
  dateLastModified: '2026-01-01T00:00:00.000Z',
  givenName: id.toUpperCase(),
  familyName: 'Moss',
  email: `${id}@college.example`,
  enabledUser: 'true',
  ...more,
});
beforeEach(async () => {
  roster = await openRoster();
  roster.lists.students.push(user('m1'), user('m2', { email: 'P1@saltmarsh.example' }));
  roster.lists.teachers.push(user('t1', { preferredFirstName: 'Tess' }));
  roster.lists.categories.push({ sourcedId: 'g1', title: 'Labs' });
  roster.lists.lineItems.push(
    { sourcedId: 'l1', title: 'Lab 1', category: { sourcedId: 'g1' }, resultValueMax: 40, dueDate: '2026-09-20' },
    { sourcedId: 'l2', title: 'Tide tables quiz', resultValueMax: 20 },
  );
  roster.lists.results.push(
    result('r1', 'l1', 'm1', { score: 36, scoreDate: '2026-09-10' }),
    result('r2', 'l2', 'm2', { score: 0 }),
    result('r3', 'l2', 'm1', { score: 12, scoreStatus: 'submitted' }),
    result('r4', 'l2', 'm1', { scoreStatus: 'exempt' }),
    result('r5', 'l1', 'nobody', { score: 3 }),
    result('r6', 'l1', 'm2', { score: -3 }),
  );
  stage = await openStage({ now: '2026-09-14T12:00' });
  ada = await stage.signIn();
});
afterEach(async () => {
  await stage.close();
  await roster.close();
});

const result = (id: string, item: string, student: string, more: object) => ({
  sourcedId: id,
  lineItem: { sourcedId: item },
  student: { sourcedId: student },
  scoreStatus: 'fully graded',
  dateLastModified: '2026-01-01T00:00:00.000Z',
  ...more,
});
const SETTINGS = () => ({
  kind: 'oneroster' as const,
  base: roster.base,
  tokenUrl: roster.tokenUrl,
  version: '1.2' as const,
  clientId: 'client',
  clientSecret: 's:cret',
  course: 1,
  class: 'c1',
});
const add = () => addSource(stage.services, SETTINGS());
const people = () => unguarded(stage.orm).find(PersonRow, { course: 1 }, { orderBy: { position: 'asc' } });
const person = async (key: string) => (await people()).find((p) => p.key === key)!;
const later = () => new Date(Date.now() + 60_000).toISOString();

describe('a first pull', () => {
  test('brings people, items and grades, and names what it refused', async () => {
    const id = await add();
    const pulled = await pull(stage.services, id);
    expect(pulled).toEqual({
      format: 'zest-bell/pulled@1',
      source: id,
      trouble: null,
      people: { new: 2, changed: 1, same: 0, gone: 0 },
      items: { new: 1, changed: 0, same: 1, gone: 0 },
      grades: { new: 2, changed: 0, same: 0, gone: 0 },
      refused: [{ what: 'grade', id: 'r6', code: 'negative', message: '“-3” is less than zero' }],
    });
    // One was found by the address, and keeps the id of the course.
    expect(await person('p1')).toMatchObject({ firstName: 'M2', email: 'P1@saltmarsh.example' });
    expect(await person('t1')).toMatchObject({ firstName: 'Tess', role: 'instructor' });
    const grades = await unguarded(stage.orm).find(GradeRow, {}, { orderBy: { id: 'asc' } });
    expect(grades.map((g) => [g.person, g.item, Number(g.points), g.at])).toEqual([
      ['m1', 'l1', 36, at('2026-09-10T00:00')],
      ['p1', 'q1', 0, at('2026-09-14T12:00')],
    ]);
    const { changes } = (await ada.get('/api/v1/courses/1/changes').expect(200)).body as ChangesAnswer;
    expect(changes[0]).toMatchObject({ by: expect.stringMatching(/^OneRoster at 127\.0\.0\.1/), kind: 'import' });
  });

  test('keeps the first of what it refused and how many they were, also of what a release before kept whole', async () => {
    const wrong = Array.from({ length: MOST_REFUSED + 50 }, (_, i) => result(`w${i}`, 'l1', 'm2', { score: -1 }));
    roster.lists.results.splice(0, Infinity, ...wrong);
    const id = await add();
    const pulled = await pull(stage.services, id);
    expect(pulled.refused).toHaveLength(MOST_REFUSED + 50);
    const card = async () => {
      const cards = (await ada.get('/api/v1/courses/1/sources').expect(200)).body as SourceCard[];
      // Its times follow the course's clock, which is stopped here while the real one runs.
      const { addedAt: _added, heardAt: _heard, nextAt: _next, ...rest } = cards[0]!;
      return rest;
    };
    const told = await card();
    expect(told).toMatchObject({
      refused: MOST_REFUSED + 50,
      last: { refused: pulled.refused.slice(0, MOST_REFUSED) },
    });
    expect(told.last!.refused).toHaveLength(MOST_REFUSED);
    await unguarded(stage.orm).nativeUpdate(SourceRow, { id }, { last: pulled });
    expect(await card()).toEqual(told);
  });

  test('asks for scopes of 1.2 by a token, in the places of its version, page by page', async () => {
    roster.page = 1;
    const id = await add();
    await pull(stage.services, id);
    expect(roster.tokens.seen).toEqual(['basic']);
    expect(roster.asked.filter((a) => a.includes('/students'))).toEqual([
      '/sis/ims/oneroster/rostering/v1p2/classes/c1/students?limit=100&offset=0',
      '/sis/ims/oneroster/rostering/v1p2/classes/c1/students?limit=100&offset=1',
    ]);
    expect(roster.asked).toContain('/sis/ims/oneroster/gradebook/v1p2/classes/c1/results?limit=100&offset=0');
    expect(await person('m1')).toBeDefined();
  });

  test('signs in by the body where it is not let in by its header, and never by both', async () => {
    roster.tokens.how = 'body';
    await pull(stage.services, await add());
    expect(roster.tokens.seen).toEqual(['basic', 'body']);
  });

  test('of version 1.1 asks in one place', async () => {
    await pull(stage.services, await addSource(stage.services, { ...SETTINGS(), version: '1.1' }));
    expect(roster.asked.every((a) => a.startsWith('/sis/ims/oneroster/v1p1/'))).toBe(true);
  });
});

describe('a later pull', () => {
  let id: number;
  beforeEach(async () => {
    id = await add();
    await pull(stage.services, id);
    roster.asked.length = 0;
  });

  test('asks for what changed since an hour before, and is the same where nothing did', async () => {
    const pulled = await pull(stage.services, id);
    expect(pulled).toMatchObject({ people: { new: 0, changed: 0, same: 0 }, grades: { new: 0, changed: 0 } });
    const { heardAt } = await unguarded(stage.orm).findOneOrFail(SourceRow, { id });
    const [, since] = /filter=dateLastModified>'([^']+)'/.exec(roster.asked.find((a) => a.includes('students'))!)!;
    expect(heardAt! - Date.parse(since!)).toBeGreaterThan(3_600_000 - 60_000);
    expect(heardAt! - Date.parse(since!)).toBeLessThan(3_600_000 + 60_000);
  });

  test('changes who changed, makes inactive who is deleted, and takes nobody who was never here', async () => {
    roster.lists.students.push(user('ghost', { status: 'tobedeleted', dateLastModified: later() }));
    Object.assign(roster.lists.students[0]!, { givenName: 'Mira', dateLastModified: later() });
    Object.assign(roster.lists.students[1]!, { status: 'tobedeleted', dateLastModified: later() });
    const pulled = await pull(stage.services, id);
    expect(pulled.people).toEqual({ new: 0, changed: 1, same: 0, gone: 1 });
    expect([await person('m1'), await person('p1')]).toMatchObject([{ firstName: 'Mira' }, { active: false }]);
    expect(await person('ghost')).toBeUndefined();
    Object.assign(roster.lists.students[1]!, { status: 'active', dateLastModified: later() });
    await pull(stage.services, id);
    expect(await person('p1')).toMatchObject({ active: true });
  });

  test('does not change what somebody set by hand, and changes what a file set', async () => {
    const edit = { people: [{ id: 'm1', set: { firstName: 'Mina', email: 'mina@college.example' } }] };
    await ada.post('/api/v1/courses/1/edit').send(edit).expect(200);
    await unguarded(stage.orm).nativeUpdate(PersonRow, { key: 'm1' }, { section: 'B' });
    Object.assign(roster.lists.students[0]!, { givenName: 'X', familyName: 'Young', dateLastModified: later() });
    await pull(stage.services, id);
    expect(await person('m1')).toMatchObject({ firstName: 'Mina', email: 'mina@college.example', lastName: 'Young' });
  });

  test('finds who is newly enrolled though their own data is old', async () => {
    roster.lists.students.push(user('m3'));
    roster.lists.enrollments.push({
      sourcedId: 'e1',
      user: { sourcedId: 'm3' },
      class: { sourcedId: 'c1' },
      role: 'student',
      dateLastModified: later(),
    });
    expect((await pull(stage.services, id)).people).toMatchObject({ new: 1 });
    Object.assign(roster.lists.enrollments[0]!, { status: 'tobedeleted', dateLastModified: later() });
    expect((await pull(stage.services, id)).people).toMatchObject({ gone: 1 });
    expect(await person('m3')).toMatchObject({ active: false });
  });

  test('takes a new score in the place of the old one', async () => {
    Object.assign(roster.lists.results[0]!, { score: 38, dateLastModified: later() });
    expect((await pull(stage.services, id)).grades).toEqual({ new: 0, changed: 1, same: 0, gone: 0 });
    expect((await pull(stage.services, id)).grades).toEqual({ new: 0, changed: 0, same: 1, gone: 0 });
  });
});

describe('a service that fails', () => {
  test.each([
    [{ status: 401 }, 'unauthorized', 0],
    [{ status: 429, headers: { 'retry-after': '7200' } }, 'throttled', 7_200_000],
    [{ status: 503 }, 'serverError', 0],
    [{ status: 200, body: '<html>' }, 'garbage', 0],
    [{ status: 200, body: '{"users":{}}' }, 'garbage', 0],
    [{ status: 302, headers: { location: 'https://elsewhere.example/x' } }, 'refused', 0],
  ])('with %j takes nothing, and says when it is tried again', async (fault, code, wait) => {
    const id = await add();
    roster.faults.push({ on: '/teachers', ...fault });
    const before = Date.now();
    const pulled = await pull(stage.services, id);
    expect(pulled).toMatchObject({ people: { new: 0 }, trouble: { code } });
    expect(Date.parse(pulled.trouble!.tryAgainAt)).toBeGreaterThanOrEqual(before + Math.max(wait, 5 * 60_000) - 1000);
    expect(await person('m1')).toBeUndefined();
    expect(JSON.stringify(pulled)).not.toContain('s:cret');
    // By hand at once.
    expect((await pull(stage.services, id)).trouble).toBeNull();
  });

  test('is asked ever later by the schedule, and at its time', async () => {
    const id = await add();
    const row = () => unguarded(stage.orm).findOneOrFail(SourceRow, { id });
    await pullDue(stage.services);
    expect((await row()).heardAt ?? null).toBeNull();
    for (const tries of [1, 2, 3]) {
      roster.faults.push({ on: '/token', status: 500 });
      await inTransaction(stage.orm, (tx) => freely(tx).nativeUpdate(SourceRow, { id }, { nextAt: 1 }));
      await pullDue(stage.services);
      expect((await row()).tries).toBe(tries);
    }
    expect((await row()).nextAt - Date.now()).toBeGreaterThan(19 * 60_000);
  });

  test('leads nowhere else, by a page or a redirect', async () => {
    roster.faults.push({
      on: '/students',
      status: 200,
      body: '{"users":[]}',
      headers: { link: '<https://elsewhere.example/x>; rel="next"' },
    });
    expect((await pull(stage.services, await add())).trouble).toMatchObject({ code: 'forbiddenAddress' });
  });
});

test('an archived course takes nothing, and a platform is asked at a minute of the night', async () => {
  const id = await add();
  await unguarded(stage.orm).nativeUpdate(CourseRow, { id: 1 }, { archivedAt: 5 });
  expect((await pull(stage.services, id)).trouble).toMatchObject({ code: 'refused' });
  expect(roster.asked).toEqual([]);
  const now = Date.parse('2026-09-14T12:00:00Z');
  const nights = Array.from({ length: 50 }, () => nextAfter('lti', now));
  expect(Math.min(...nights)).toBeGreaterThanOrEqual(Date.parse('2026-09-15T02:00:00Z'));
  expect(Math.max(...nights)).toBeLessThan(Date.parse('2026-09-15T06:00:00Z'));
  expect(new Set(nights).size).toBeGreaterThan(40);
});

test('two pulls of one source wait for each other', async () => {
  const id = await add();
  const [a, b] = await Promise.all([pull(stage.services, id), pull(stage.services, id)]);
  expect([a.people.new, b.people.new].sort()).toEqual([0, 2]);
});

test('the schedule leaves a source to the process that pulls it, and one that died holds it no longer than a lease', async () => {
  const id = await add();
  const em = () => unguarded(stage.orm);
  await em().nativeUpdate(SourceRow, { id }, { nextAt: 0 });
  const held = (until: number) => em().upsert(LeaseRow, { name: leaseOf(id), holder: 'another', until });
  await held(Date.now() + LEASE);
  await pullDue(stage.services);
  expect((await em().findOneOrFail(SourceRow, { id })).last).toBeNull();
  await held(Date.now() - 1000);
  await pullDue(stage.services);
  expect((await em().findOneOrFail(SourceRow, { id })).last).toMatchObject({ trouble: null });
});

describe('who may', () => {
  test('an administrator adds, the course’s people pull and disconnect, and nobody is told the secret', async () => {
    await ada.post('/api/v1/admin/sources/oneroster').send(SETTINGS()).expect(403);
    await unguarded(stage.orm).nativeUpdate(Account, { email: 'ada@saltmarsh.example' }, { isAdministrator: true });
    const wrong = await ada
      .post('/api/v1/admin/sources/oneroster')
      .send({ ...SETTINGS(), base: 'ftp://x', course: 99 })
      .expect(400);
    expect((wrong.body as { problems: { path: string }[] }).problems.map((p) => p.path)).toContain('base');
    const { id } = (await ada.post('/api/v1/admin/sources/oneroster').send(SETTINGS()).expect(201)).body as {
      id: number;
    };
    expect(
      ((await ada.post(`/api/v1/courses/1/sources/${id}/pull`).send({}).expect(200)).body as Pulled).people.new,
    ).toBe(2);
    const cards = await ada.get('/api/v1/courses/1/sources').expect(200);
    expect((cards.body as SourceCard[])[0]).toMatchObject({
      id,
      kind: 'oneroster',
      of: 'c1',
      last: { people: { new: 2 } },
    });
    expect(cards.text).not.toMatch(/s:cret|secret/i);
    const bea = await stage.colleague('assistant');
    await bea.post(`/api/v1/courses/1/sources/${id}/pull`).send({}).expect(403);
    await ada.delete(`/api/v1/courses/1/sources/${id}`).expect(204);
    await ada.post(`/api/v1/courses/1/sources/${id}/pull`).send({}).expect(404);
    expect(await person('m1')).toBeDefined();
  });

  test('no secret stands in the database in clear, and an erased student does not come back', async () => {
    const id = await add();
    const { secret } = await unguarded(stage.orm).findOneOrFail(SourceRow, { id });
    expect(secret).not.toContain('s:cret');
    await pull(stage.services, id);
    await ada.post('/api/v1/courses/1/students/m1/erase').send({ student: 'm1' }).expect(200);
    Object.assign(roster.lists.students[0]!, { dateLastModified: later() });
    expect((await pull(stage.services, id)).people.new).toBe(0);
    expect(await person('m1')).toBeUndefined();
  });

  test('an erased student is known by the source’s own id alone too, and nothing of it is left', async () => {
    const id = await add();
    await pull(stage.services, id);
    // “m2” was found by the address of p1; the source says no address from now on.
    await ada.post('/api/v1/courses/1/students/p1/erase').send({ student: 'p1' }).expect(200);
    await goOn(stage.services);
    const [link] = await unguarded(stage.orm).find(SourceLinkRow, { external: 'm2' });
    expect(link).toBeUndefined();
    Object.assign(roster.lists.students[1]!, { email: null, givenName: 'Again', dateLastModified: later() });
    expect((await pull(stage.services, id)).people.new).toBe(0);
    expect((await people()).map((p) => p.firstName)).not.toContain('Again');
  });

  test('what was refused of an erased student is neither shown nor counted', async () => {
    const refusedOf = (id: string) => ({ what: 'person', id, code: 'noName', message: 'No name' });
    const id = await add();
    const pulled = await pull(stage.services, id);
    const refused = [refusedOf('m2'), refusedOf('x1')];
    await unguarded(stage.orm).nativeUpdate(SourceRow, { id }, { last: { ...pulled, refused } });
    await ada.post('/api/v1/courses/1/students/p1/erase').send({ student: 'p1' }).expect(200);
    await goOn(stage.services);
    const cards = (await ada.get('/api/v1/courses/1/sources').expect(200)).body as SourceCard[];
    expect(cards[0]).toMatchObject({ refused: 1, last: { refused: [refusedOf('x1')] } });
  });
});

test('private addresses are not called unless that is allowed', async () => {
  const guarded = outgoing({ allowPrivate: false });
  expect(guarded.whyNot('http://college.example')).toMatch(/https/);
  expect(guarded.whyNot('https://college.example')).toBeNull();
  for (const host of [
    '127.0.0.1',
    '10.1.2.3',
    '192.168.0.9',
    '169.254.169.254',
    '[::1]',
    '[fd00::1]',
    '[::ffff:10.0.0.1]',
  ])
    expect([host, guarded.whyNot(`https://${host}/`)]).toEqual([host, 'An address of a private network is not called']);
  await expect(guarded.ask('https://localhost:1/', { origins: ['https://localhost:1'] })).rejects.toMatchObject({
    code: 'forbiddenAddress',
  });
});

describe('the classes of a service', () => {
  test('are proposed by code and title for the courses that are there', async () => {
    await unguarded(stage.orm).nativeUpdate(Account, { email: 'ada@saltmarsh.example' }, { isAdministrator: true });
    roster.lists.classes.push(
      { sourcedId: 'c1', classCode: 'nav-120', title: 'Coastal Navigation', status: 'active' },
      { sourcedId: 'c2', classCode: 'ART 1', title: 'Drawing', status: 'active' },
    );
    const { course: _course, class: _class, kind: _kind, ...service } = SETTINGS();
    const asked = (body: object) => ada.post('/api/v1/admin/sources/oneroster/classes').send(body);
    const { body } = await asked(service).expect(200);
    expect(body).toEqual({
      classes: [
        { id: 'c1', code: 'nav-120', title: 'Coastal Navigation', course: 1 },
        { id: 'c2', code: 'ART 1', title: 'Drawing', course: null },
      ],
      courses: [{ id: 1, code: 'NAV 120', title: 'Coastal Navigation' }],
    });
    // What keeps it from answering is shown at the field that an administrator corrects.
    const refused = await asked({ ...service, clientSecret: 'another' }).expect(400);
    expect(refused.body).toMatchObject({ problems: [{ path: 'base', code: 'unauthorized' }] });
  });
});
