// Runs on PostgreSQL too.
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { LogAnswer, TrayAnswer } from '@zest-bell/core/exchange';
import type { SheetAnswer, WritePreview, WrittenAnswer } from '@zest-bell/core/imports';
import { CourseRow } from '../../course/entity.ts';
import { at, openStage, COURSE, type Agent, type TestStage } from '../../testing/stage.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
let server: TestSmtp;
let agent: Agent;
const base = '/api/v1/courses/1';

beforeEach(async () => {
  server = await openSmtp();
  const settings = { quietHours: null, budget: { count: 1, days: 7 } };
  stage = await openStage({ now: '2026-10-26T08:00', smtp: server.url, course: { ...COURSE, settings }, rules: [] });
  agent = await stage.signIn();
});
afterEach(async () => {
  await stage.close();
  await server.close();
});

const SHEET =
  'Student ID,Name,E-mail,Boat,Mentor\np1,,,Tern,mentor@saltmarsh.example\np2,,,,\n,Berit Lund,berit@saltmarsh.example,Gull,\n,Nobody Known,,Skua,\np1,,,Twice,\n';
const text = {
  subject: 'Your boat',
  text: '{{ student.first_name }}, you sail {{ column["Boat"] | default: "a boat" }}.',
};
const bring = async () => {
  const res = await agent
    .post(`${base}/sheets`)
    .query({ name: 'boats.csv' })
    .set('content-type', 'application/octet-stream')
    .send(Buffer.from(SHEET))
    .expect(201);
  return (res.body as { id: number }).id;
};
const to = (sheet: number, more: object = {}) => ({ sheet, rows: [0, 1, 2, 3, 4], ...more });
const letters = () => server.mails.map((l) => [l.to[0], (l.mail.text ?? '').split('\n')[0]]);

test('a sheet is written from row by row: to people of the course, to guests, and never to nobody or twice', async () => {
  const sheet = await bring();
  const seen = (await agent.get(`${base}/sheets/${sheet}`).expect(200)).body as SheetAnswer;
  expect(seen.lines.map((l) => [l.who, l.name])).toEqual([
    ['person', 'P1 Lind'],
    ['person', 'P2 Lind'],
    ['guest', 'Berit Lund'],
    ['nobody', ''],
    ['person', 'P1 Lind'],
  ]);
  expect(seen.addresses).toEqual(['E-mail', 'Mentor']);
  const preview = (
    await agent
      .post(`${base}/write/preview`)
      .send({ to: to(sheet), ...text, at: 2 })
      .expect(200)
  ).body as WritePreview;
  expect(preview.message?.text).toBe('Berit, you sail Gull.');
  expect(preview.lines.map((l) => [l.name, l.outcome, l.reason])).toEqual([
    ['P1 Lind', 'sent', null],
    ['P2 Lind', 'sent', null],
    ['Berit Lund', 'sent', null],
    ['Nobody Known', 'withheld', 'nobody'],
    ['p1', 'withheld', 'sameReader'],
  ]);
  const done = (
    await agent
      .post(`${base}/write`)
      .send({ to: to(sheet, { columns: ['Mentor'] }), ...text })
      .expect(201)
  ).body as WrittenAnswer;
  expect(done).toMatchObject({ sent: 3, notSent: 2 });
  await stage.dispatcher.drain();
  expect(letters().toSorted()).toEqual([
    ['berit@saltmarsh.example', 'Berit, you sail Gull.'],
    ['mentor@saltmarsh.example', expect.stringContaining('For your information')],
    ['p1@saltmarsh.example', 'P1, you sail Tern.'],
    ['p2@saltmarsh.example', 'P2, you sail a boat.'],
  ]);
  const log = (await agent.get(`${base}/log`).expect(200)).body as LogAnswer;
  expect(log.lines.map((l) => [l.ruleName, l.state])).toContainEqual(['Written by hand', 'sent']);
  const file = await agent.get(`${base}/sheets/${sheet}/file`).expect(200);
  const sentAt = 'Mon Oct 26, 8:00 AM';
  const [header, first, , third, fourth] = file.text.split('\r\n');
  expect(header).toBe('\ufeffStudent ID,Name,E-mail,Boat,Mentor,Message,Message sent on,Sent to,Not sent to');
  expect(first).toBe(
    `p1,,,Tern,mentor@saltmarsh.example,sent,"${sentAt}","p1@saltmarsh.example (${sentAt}); mentor@saltmarsh.example (${sentAt})",`,
  );
  expect(third).toMatch(/,sent,"Mon Oct 26, 8:00 AM","berit@saltmarsh.example \(Mon Oct 26, 8:00 AM\)",$/);
  expect(fourth).toBe(`,Nobody Known,,Skua,,,,,${seen.lines[3]!.why}`);
});

test('a sheet comes back with why an address got nothing', async () => {
  const sheet = await bring();
  const notBefore = at('2026-10-27T09:00');
  await agent
    .post(`${base}/write`)
    .send({ to: { ...to(sheet), rows: [0] }, ...text, notBefore })
    .expect(201);
  const back = async () =>
    (await agent.get(`${base}/sheets/${sheet}/file`).expect(200)).text
      .split('\r\n')
      .map((l) => l.split(',').at(-1)!.replaceAll('"', ''));
  expect((await back())[1]).toBe('p1@saltmarsh.example (queued); mentor@saltmarsh.example (no message)');
  await agent
    .post(`${base}/edit`)
    .send({ people: [{ id: 'p1', set: { active: false } }] })
    .expect(200);
  stage.clock.set(notBefore);
  await stage.dispatcher.drain();
  const [, first, , third] = await back();
  expect(first).toBe('p1@saltmarsh.example (no longer in the course); mentor@saltmarsh.example (no message)');
  expect(third).toBe('berit@saltmarsh.example (no message)');
});

test('the budget holds back, and is passed only on purpose and with a name', async () => {
  const students = { sheet: null, students: ['p1'] };
  const send = (more: object = {}) =>
    agent.post(`${base}/write`).send({ to: students, subject: 'A', text: 'Hello there', ...more });
  expect((await send().expect(201)).body).toMatchObject({ sent: 1 });
  expect((await send().expect(201)).body).toMatchObject({ sent: 0, notSent: 1 });
  expect((await send({ passBudget: true }).expect(201)).body).toMatchObject({ sent: 1 });
  const log = (await agent.get(`${base}/log`).expect(200)).body as LogAnswer;
  const detail = await agent.get(`${base}/log/${log.lines[0]!.nudge}`).expect(200);
  expect(detail.body).toMatchObject({ passed: { by: 'Ada Lind', limits: ['budget'] } });
});

test('a message for later leaves then, unless its reader has left by then', async () => {
  const notBefore = at('2026-10-27T09:00');
  await agent
    .post(`${base}/write`)
    .send({ to: { sheet: null, students: ['p1', 'p2'] }, subject: 'A', text: 'Hello there', notBefore })
    .expect(201);
  await stage.dispatcher.drain();
  expect(letters()).toEqual([]);
  await agent
    .post(`${base}/edit`)
    .send({ people: [{ id: 'p2', set: { active: false } }] })
    .expect(200);
  stage.clock.set(notBefore);
  await stage.dispatcher.drain();
  expect(letters()).toEqual([['p1@saltmarsh.example', 'Hello there']]);
  const log = (await agent.get(`${base}/log`).expect(200)).body as LogAnswer;
  expect(log.lines.map((l) => [l.student, l.state, l.reason])).toContainEqual(['p2', 'withdrawn', 'inactive']);
});

test('the preview names what goes with a message to the student, and with one to others nothing', async () => {
  const order = { subject: 'A', text: 'Hello there', letter: { page: 'Letter', fileName: 'A plan', attach: true } };
  const files = async (to: object) => {
    const body = { ...order, to: { sheet: null, students: ['p1'], ...to } };
    return ((await agent.post(`${base}/write/preview`).send(body).expect(200)).body as WritePreview).files;
  };
  expect(await files({})).toEqual(['A plan.pdf']);
  expect(await files({ student: false, contacts: ['advisor'] })).toEqual([]);
});

test('an address outside the institution needs a yes, and a broken text sends nothing', async () => {
  const edit = {
    people: [{ id: 'p1', set: { contacts: [{ kind: 'advisor', name: 'B', email: 'b@harbor.example' }] } }],
  };
  await agent.post(`${base}/edit`).send(edit).expect(200);
  const order = {
    to: { sheet: null, students: ['p1'], student: false, contacts: ['advisor'] },
    subject: 'A',
    text: 'Hello there',
  };
  const res = await agent.post(`${base}/write`).send(order).expect(409);
  expect(res.body).toMatchObject({ code: 'outsideAddresses' });
  await agent
    .post(`${base}/write`)
    .send({ ...order, outside: ['b@harbor.example'] })
    .expect(201);
  await stage.dispatcher.drain();
  expect(letters().map(([who]) => who)).toEqual(['b@harbor.example']);
  await agent
    .post(`${base}/write`)
    .send({ ...order, text: '{{ student.nothing }}' })
    .expect(422);
  const bo = await stage.signIn('bo@saltmarsh.example');
  await bo.post(`${base}/write`).send(order).expect(404);
});

test('one that waits for a yes to an outside address stands in the Tray, where its text can be changed and it is sent', async () => {
  const sheet = await bring();
  const order = { to: to(sheet, { columns: ['Mentor'] }), ...text, notBefore: at('2026-10-27T08:00') };
  await agent.post(`${base}/write`).send(order).expect(201);
  // In the meantime the mentor's address is no longer one of the institution.
  const em = unguarded(stage.orm);
  const row = await em.findOneOrFail(CourseRow, { id: 1 });
  row.sender = { ...row.sender, domains: ['elsewhere.example'] };
  await em.flush();
  stage.clock.set(at('2026-10-27T08:00'));
  await stage.dispatcher.drain();
  const tray = async () => ((await agent.get(`${base}/tray`).expect(200)).body as TrayAnswer).lines;
  const [line] = await tray();
  expect(line).toMatchObject({
    student: 'p1',
    name: 'P1 Lind',
    rule: null,
    heldFor: 'outside',
    stillTrue: true,
    trouble: null,
    to: [{ address: 'mentor@saltmarsh.example' }],
    evidence: [],
    source: text,
    message: { text: expect.stringContaining('P1, you sail Tern.') },
  });
  const path = `${base}/tray/${line!.nudge}/text`;
  const refused = await agent.put(path).send({ text: null, wording: 'gentle' }).expect(400);
  expect(refused.body.problems).toMatchObject([{ path: 'wording', message: expect.stringContaining('by hand') }]);
  const own = { subject: 'The boat', text: '{{ student.first_name }} has the {{ column["Boat"] }}.' };
  await agent.put(path).send({ text: own, wording: line!.wording }).expect(204);
  expect((await tray())[0]!.message!.text).toContain('P1 has the Tern.');
  await agent
    .post(`${base}/tray/decide`)
    .send({ as: 'send', nudges: [line!.nudge] })
    .expect(200);
  expect(await tray()).toEqual([]);
  const last = server.mails.at(-1)!;
  expect(last.to).toEqual(['mentor@saltmarsh.example']);
  expect(last.mail.text).toContain('P1 has the Tern.');
});
