// Runs on PostgreSQL too.
/** Two terms side by side, for people who may see both. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { extractText, getDocumentProxy } from 'unpdf';
import { makeCourse } from '@zest-bell/core/course';
import type { OtherTerm, TermsAnswer } from '@zest-bell/core/exchange';
import { Access } from '../../access/entity.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { asTx } from '../../testing/asTx.ts';
import { insertCourse } from '../../testing/insertCourse.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { at, COURSE, openStage, SENDER, visit, type Agent, type TestStage } from '../../testing/stage.ts';
import { unguarded } from '../../testing/unguarded.ts';
import { ShelfCopyRow } from '../shelf/entity.ts';

let stage: TestStage;
let smtp: TestSmtp;
let ada: Agent;
const WORRY = { measure: 'courseGrade', is: '<', value: 60 };

beforeEach(async () => {
  smtp = await openSmtp();
  stage = await openStage({ now: '2026-09-09T12:00', smtp: smtp.url });
  const em = unguarded(stage.orm);
  const spring = makeCourse({ ...COURSE, code: 'NAV 121', start: '2027-01-11', end: '2027-04-30', people: [] });
  const id = await insertCourse(asTx(em), spring, {
    sender: SENDER,
    tokenHash: 'x',
    guards: { askAbove: 1, staleHours: null },
  });
  em.create(Access, { account: 1, course: id, role: 'owner' });
  await em.flush();
  const grade = { id: 'g1', person: 'p2', item: 'q1', points: 5, at: '2026-09-08T10:00:00-04:00' };
  await stage.tell([visit('p1', '2026-09-08T10:00')], [grade]);
  ada = await stage.signIn();
  stage.clock.set(at('2026-09-10T09:31'));
  await runDueRounds(stage.services);
  await stage.dispatcher.drain();
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

const compare = (agent: Agent, course: number, other: number) =>
  agent.post(`/api/v1/courses/${course}/term/compare`).send({ outcome: WORRY, other });
const carry = () =>
  ada
    .post('/api/v1/courses/2/carry')
    .send({ from: 1, rules: null, views: null, told: {}, withItems: false })
    .expect((res) => {
      if (res.status >= 300) throw new Error(JSON.stringify(res.body));
    });

test('rules that were carried over stand side by side, whichever course is asked', async () => {
  await carry();
  const others = (await ada.get('/api/v1/courses/2/term/others').expect(200)).body as OtherTerm[];
  expect(others).toMatchObject([{ id: 1, code: 'NAV 120', isCarried: true }]);
  const answer = (await compare(ada, 2, 1).expect(200)).body as TermsAnswer;
  expect(answer).toMatchObject({
    here: { code: 'NAV 121' },
    other: { code: 'NAV 120', known: 1, worried: 1 },
    ownOutcome: false,
  });
  expect(answer.pairs).toMatchObject([
    {
      here: { name: 'Away', result: { sent: 0 }, firstDay: null },
      other: { name: 'Away', result: { sent: 2 }, firstDay: 11 },
      differences: [],
    },
  ]);
  const back = (await compare(ada, 1, 2).expect(200)).body as TermsAnswer;
  expect(back.pairs).toMatchObject([{ here: { result: { sent: 2 } }, other: { result: { sent: 0 } } }]);
});

test('rules without a common origin are listed by themselves', async () => {
  await ada
    .post('/api/v1/courses/2/rules')
    .send({ rule: { ...(await ownRule()), name: 'Own' } })
    .expect((res) => {
      if (res.status >= 300) throw new Error(JSON.stringify(res.body));
    });
  const { pairs, alone } = (await compare(ada, 1, 2).expect(200)).body as TermsAnswer;
  expect([pairs, alone.here.map((r) => r.name), alone.other.map((r) => r.name)]).toEqual([[], ['Away'], ['Own']]);
  // Both taken from one thing on the shelf: they have one origin.
  const key = alone.other[0]!.rule!;
  const em = unguarded(stage.orm);
  em.create(ShelfCopyRow, { course: 1, kind: 'rule', key: 'away', item: 7, version: 1 });
  em.create(ShelfCopyRow, { course: 2, kind: 'rule', key, item: 7, version: 1 });
  await em.flush();
  const again = (await compare(ada, 1, 2).expect(200)).body as TermsAnswer;
  expect(again.pairs).toMatchObject([
    { here: { name: 'Away' }, other: { name: 'Own' }, differences: [{ part: 'Name' }, { part: 'Step 1' }] },
  ]);
});

const ownRule = async () => {
  const [card] = (await ada.get('/api/v1/courses/1/rules').expect(200)).body as { rule: object }[];
  const { id: _id, status: _status, steps: _steps, ...rule } = card!.rule as Record<string, unknown>;
  const wording = { name: 'W', purpose: 'support', subject: 'S', text: 'T' };
  const made = (await ada.post('/api/v1/courses/2/wordings').send({ wording }).expect(201)).body as { id: string };
  return { ...rule, id: 'x', status: 'draft', steps: [{ deliver: 'send', to: ['student'], wording: made.id }] };
};

test('a course that one may not see is not there', async () => {
  await unguarded(stage.orm).nativeDelete(Access, { course: 2 });
  await compare(ada, 1, 2).expect(404);
  await compare(ada, 1, 1).expect(404);
  expect((await ada.get('/api/v1/courses/1/term/others').expect(200)).body).toEqual([]);
  const observer = await stage.colleague('observer');
  await compare(observer, 1, 2).expect(403);
});

test('the same as a PDF', async () => {
  await carry();
  const res = await ada
    .post('/api/v1/courses/1/term/compare/pdf')
    .send({ outcome: WORRY, other: 2 })
    .buffer(true)
    .parse((part, done) => {
      const pieces: Buffer[] = [];
      part.on('data', (piece: Buffer) => pieces.push(Buffer.from(piece)));
      part.on('end', () => done(null, Buffer.concat(pieces)));
    })
    .expect(200);
  expect(res.headers['content-disposition']).toContain('NAV 120 beside NAV 121.pdf');
  const { text } = await extractText(await getDocumentProxy(new Uint8Array(res.body as Buffer)), { mergePages: true });
  expect(text).toMatch(/Two terms side by side/);
  expect(text).toMatch(/Away.*NAV 120: 2 nudges to 2 students, first reached in week 2\./s);
});
