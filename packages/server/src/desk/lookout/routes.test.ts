// Runs on PostgreSQL too.
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { unpackDaily } from '@zest-bell/core/activity';
import { Gradebook, type ClassOverview } from '@zest-bell/core/lookout';
import type { LookoutLogAnswer, LookoutRulesAnswer, OwnRemarks, RuleCard, SavedView } from '@zest-bell/core/exchange';
import type { ChangedAnswer } from '@zest-bell/core/imports';
import { Access, Account } from '../../access/entity.ts';
import { hashPassword } from '../../access/passwords.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { at, openStage, PASSWORD, visit, type Agent, type TestStage } from '../../testing/stage.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
let server: TestSmtp;
let ada: Agent;
const base = '/api/v1/courses/1';

beforeEach(async () => {
  server = await openSmtp();
  stage = await openStage({ now: '2026-09-06T09:00', smtp: server.url });
  await stage.tell(['p1', 'p2'].map((p) => visit(p, '2026-09-01T10:00')));
  await stage.tell([visit('p3', '2026-09-05T10:00')]);
  stage.clock.set(at('2026-09-07T09:30'));
  await runDueRounds(stage.services);
  await stage.dispatcher.drain();
  // Later rounds of the spell are held back; p1 comes back.
  stage.clock.set(at('2026-09-08T09:30'));
  await runDueRounds(stage.services);
  stage.clock.set(at('2026-09-09T09:00'));
  await stage.tell([visit('p1', '2026-09-08T12:00')]);
  ada = await stage.signIn();
});
afterEach(async () => {
  await stage.close();
  await server.close();
});

const log = async (when?: string): Promise<LookoutLogAnswer> =>
  (
    await ada
      .get(`${base}/lookout/log`)
      .query(when ? { at: at(when) } : {})
      .expect(200)
  ).body as LookoutLogAnswer;

test('[R13] the log knows of each student the last nudge, how many there were, and who came back', async () => {
  const { students } = await log();
  expect(Object.keys(students).toSorted()).toEqual(['p1', 'p2']);
  expect(students['p1']).toMatchObject({
    sent: 1,
    heldBack: 1,
    replies: 0,
    last: { ruleName: 'Away', state: 'sent', canReturn: true, returnedAt: at('2026-09-08T12:00') },
  });
  expect(students['p2']).toMatchObject({ sent: 1, last: { returnedAt: null } });
});

test('as of an earlier day it is what had happened by then', async () => {
  expect((await log('2026-09-08T09:00')).students['p1']).toMatchObject({
    sent: 1,
    heldBack: 0,
    last: { returnedAt: null },
  });
  expect((await log('2026-09-07T09:00')).students).toEqual({});
});

const columnsFrom = (path: string) =>
  ada
    .get(`${base}/lookout/${path}`)
    .buffer(true)
    .parse((res, done) => {
      const parts: Buffer[] = [];
      res.on('data', (part: Buffer) => parts.push(part)).on('end', () => done(null, Buffer.concat(parts)));
    });

test('activity by day comes as columns, and is not sent again while it is the same', async () => {
  const first = await columnsFrom('activity');
  const daily = unpackDaily(new Uint8Array(first.body as Buffer))!;
  expect(daily).toMatchObject({ from: '2026-08-31', days: 110 });
  expect([1, 8].map((day) => daily.events[day])).toEqual([1, 1]);
  await ada
    .get(`${base}/lookout/activity`)
    .set('if-none-match', first.headers['etag'] as string)
    .expect(304);
});

test('pins and notes are private to whoever made them', async () => {
  await ada
    .put(`${base}/lookout/pins`)
    .send({ students: ['p1', 'p2'], pinned: true })
    .expect(204);
  await ada
    .put(`${base}/lookout/pins`)
    .send({ students: ['p1', 'p1'], pinned: true })
    .expect(204);
  await ada
    .put(`${base}/lookout/pins`)
    .send({ students: ['p2'], pinned: false })
    .expect(204);
  await ada
    .put(`${base}/lookout/pins`)
    .send({ students: ['nobody'], pinned: true })
    .expect(404);
  await ada.post(`${base}/students/p1/notes`).send({ text: 'Works nights' }).expect(204);
  await ada.post(`${base}/students/p1/notes`).send({ text: ' ' }).expect(400);
  const remarks = async (who: Agent) => (await who.get(`${base}/lookout/remarks`).expect(200)).body as OwnRemarks;
  expect(await remarks(ada)).toEqual({ pins: ['p1'], notes: { p1: 1 }, aside: {} });

  const em = unguarded(stage.orm);
  const bo = await em.findOneOrFail(Account, { name: 'Bo Quist' });
  bo.passwordHash = await hashPassword(PASSWORD);
  em.create(Access, { account: bo.id, course: 1, role: 'assistant' });
  await em.flush();
  const other = await stage.signIn('bo@saltmarsh.example');
  expect(await remarks(other)).toEqual({ pins: [], notes: {}, aside: {} });
  expect((await other.get(`${base}/students/p1/notes`).expect(200)).body).toEqual([]);

  const [note] = (await ada.get(`${base}/students/p1/notes`)).body as { id: number; text: string }[];
  expect(note).toMatchObject({ text: 'Works nights' });
  await other.delete(`${base}/students/p1/notes/${note!.id}`).expect(204);
  expect((await remarks(ada)).notes).toEqual({ p1: 1 });
  await ada.delete(`${base}/students/p1/notes/${note!.id}`).expect(204);
  expect((await remarks(ada)).notes).toEqual({});
});

test('many students are set aside until a day, and taken back', async () => {
  const put = (body: object) => ada.put(`${base}/lookout/aside`).send(body);
  await put({ students: ['p1', 'p2'], until: '2026-09-20', note: 'At sea' }).expect(204);
  const past = await put({ students: ['p1'], until: '2026-09-01' }).expect(400);
  expect(past.body.problems).toMatchObject([{ path: 'until' }]);
  const { aside } = (await ada.get(`${base}/lookout/remarks`)).body as OwnRemarks;
  expect(aside).toEqual({ p1: at('2026-09-20T00:00'), p2: at('2026-09-20T00:00') });
  await put({ students: ['p1'], until: null }).expect(204);
  expect(Object.keys(((await ada.get(`${base}/lookout/remarks`)).body as OwnRemarks).aside)).toEqual(['p2']);
});

test('a view is saved under its name, once, and what does not fit is named', async () => {
  const view = {
    columns: [{ kind: 'measure', call: { measure: 'daysSinceVisit' } }],
    when: { measure: 'daysSinceVisit', is: '>=', value: 4 },
    logBrushes: [{ log: 'replied', brush: { kind: 'some', values: [false] } }],
    sort: [{ by: 'name', down: false }],
  };
  const post = (body: object) => ada.post(`${base}/lookout/views`).send(body);
  await post({ name: 'Quiet', view }).expect(201);
  await post({ name: 'Quiet', view: { ...view, sort: [] } }).expect(201);
  const views = (await ada.get(`${base}/lookout/views`).expect(200)).body as SavedView[];
  expect(views).toMatchObject([{ name: 'Quiet', by: 'Ada Lind', view: { ...view, sort: [] } }]);
  const refused = await post({ name: '', view }).expect(400);
  expect(refused.body.problems).toMatchObject([{ path: 'name', message: 'Give the view a name' }]);
  const broken = await post({ name: 'x', view: { columns: [], when: { measure: 'score' } } }).expect(400);
  expect(broken.body.problems[0]).toMatchObject({ path: 'when.item' });
  await ada.delete(`${base}/lookout/views/${views[0]!.id}`).expect(204);
  expect((await ada.get(`${base}/lookout/views`)).body).toEqual([]);
});

test('nobody reads what belongs to a course of others', async () => {
  const bo = await unguarded(stage.orm).findOneOrFail(Account, { name: 'Bo Quist' });
  expect(bo.id).toBeGreaterThan(0);
  const stranger = await stage.signIn('bo@saltmarsh.example');
  for (const path of ['lookout/log', 'lookout/activity', 'lookout/remarks', 'lookout/views', 'students/p1/notes']) {
    await stranger.get(`${base}/${path}`).expect(404);
  }
});

test('the gradebook and the class are told as of now or an earlier day, never a later one', async () => {
  await stage.tell([{ id: 'e-late', person: 'p1', kind: 'submit', item: 'q1', at: '2026-09-08T13:00:00-04:00' }]);
  const book = async (query: string) =>
    Gradebook.unpack(new Uint8Array((await columnsFrom(`gradebook${query}`)).body as Buffer))!;
  expect((await book('')).cell(0, 0)).toMatchObject({ state: 'onTime', awaitsGrade: true });
  expect((await book(`?at=${at('2026-09-05T09:00')}`)).cell(0, 0)).toMatchObject({ state: 'open', doneAt: null });
  const later = await book(`?at=${at('2026-12-01T09:00')}`);
  expect(later.about.at).toBe(at('2026-09-09T09:00'));
  const overview = (await ada.get(`${base}/lookout/overview`).expect(200)).body as ClassOverview;
  expect(overview).toMatchObject({ students: 3, submissions: [{ item: 'q1', onTime: 1, open: 2 }] });
  await ada.get('/api/v1/courses/99/lookout/gradebook').expect(404);
});

test('the criteria of rubrics are known by name, for sentences that are typed', async () => {
  const criteria = async () => (await ada.get(`${base}/criteria`).expect(200)).body as string[];
  expect(await criteria()).toEqual([]);
  const grade = { person: 'p1', item: 'q1', at: '2026-09-08T13:00:00-04:00' };
  await stage.tell(
    [],
    [
      { ...grade, id: 'g-1', criterion: 'Plot', points: 2 },
      { ...grade, id: 'g-2', criterion: 'Fix', points: 1 },
      { ...grade, id: 'g-3', points: 3 },
    ],
  );
  expect(await criteria()).toEqual(['Fix', 'Plot']);
});

test('rules as columns: who matches each that is asked about, since when and why, now or on an earlier day', async () => {
  const rules = (await ada.get(`${base}/rules`).expect(200)).body as RuleCard[];
  const [{ rule }] = rules as [RuleCard];
  const ask = async (query: object) =>
    (await ada.get(`${base}/lookout/rules`).query(query).expect(200)).body as LookoutRulesAnswer;
  const answer = await ask({ rules: `${rule.id},gone` });
  // A rule that is gone is left out; anyone who does not match is not told of.
  expect(Object.keys(answer.rules)).toEqual([rule.id]);
  expect(Object.keys(answer.rules[rule.id]!)).toEqual(['p2']);
  expect(answer.rules[rule.id]!['p2']!.since).toBeLessThan(answer.at);
  expect(answer.rules[rule.id]!['p2']!.evidence).toMatch(/last visit .* · \d+ days/);
  const before = await ask({ rules: rule.id, at: at('2026-09-08T09:00') });
  expect(Object.keys(before.rules[rule.id]!).toSorted()).toEqual(['p1', 'p2']);
  await ada.get(`${base}/lookout/rules`).expect(400);
  await ada.get('/api/v1/courses/99/lookout/rules?rules=x').expect(404);
});

test('a score is corrected from now on, is kept as a change, and is taken back', async () => {
  const path = `${base}/students/p1/grades/q1`;
  const book = async () =>
    Gradebook.unpack(new Uint8Array((await columnsFrom('gradebook')).body as Buffer))!.cell(0, 0).points;
  const changed = (await ada.put(path).send({ points: 17 }).expect(200)).body as ChangedAnswer;
  expect(changed.summary).toMatch(/17 points for /);
  expect(await book()).toBe(17);
  await ada.put(path).send({ points: -1 }).expect(400);
  await ada.put(`${base}/students/p1/grades/gone`).send({ points: 1 }).expect(404);
  await ada.put(`${base}/students/gone/grades/q1`).send({ points: 1 }).expect(404);
  await ada.post(`${base}/changes/${changed.change}/undo`).expect(200);
  expect(await book()).toBeNull();
});
