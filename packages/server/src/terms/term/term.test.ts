// Runs on PostgreSQL too.
/** What became of a term, as the server tells it and as a PDF that another library opens. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { extractText, getDocumentProxy } from 'unpdf';
import type { TermReport } from '@zest-bell/core/term';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { at, linesOf, openStage, ruleOf, visit, type Agent, type TestStage } from '../../testing/stage.ts';

let stage: TestStage;
let smtp: TestSmtp;
let ada: Agent;
const WORRY = { measure: 'courseGrade', is: '<', value: 60 };

beforeEach(async () => {
  smtp = await openSmtp();
  const silent = ruleOf({ id: 'silent', name: 'Silent', when: { measure: 'missing', is: '>=', value: 9 } });
  stage = await openStage({ now: '2026-09-09T12:00', smtp: smtp.url, rules: [ruleOf(), silent] });
  const grade = (person: string, points: number) => ({
    id: `g-${person}`,
    person,
    item: 'q1',
    points,
    at: '2026-09-08T10:00:00-04:00',
  });
  await stage.tell([visit('p1', '2026-09-08T10:00')], [grade('p1', 18), grade('p2', 5), grade('p3', 9)]);
  ada = await stage.signIn();
  for (const when of ['2026-09-10T09:31', '2026-09-11T09:31']) {
    stage.clock.set(at(when));
    await runDueRounds(stage.services);
    await stage.dispatcher.drain();
  }
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

test('each rule with what it sent, what was held back and whom it found; what is computed is said', async () => {
  const { answer } = await linesOf<TermReport>(ada.post('/api/v1/courses/1/term/report').send({ outcome: WORRY }));
  expect(answer).toMatchObject({ students: 3, known: 3, worried: 2, missedByAll: 0, texts: [] });
  expect(answer.rules.map((r) => [r.name, r.rounds, r.result.sent, r.reached])).toEqual([
    ['Away', 2, 2, 2],
    ['Silent', 2, 0, 0],
  ]);
  expect(answer.rules[0]).toMatchObject({
    heldBack: [{ reason: 'perSpell', students: 2, neverNudged: 0, rounds: 2 }],
    hindsight: { counts: { found: 2, missed: 0, needless: 1, leftAlone: 0 } },
  });
  expect(answer.changes).toEqual([
    '“Silent” ran 2 times and found nobody to nudge. Change its condition, or put it away.',
  ]);
  await ada
    .post('/api/v1/courses/1/term/report')
    .send({ outcome: { measure: 'score', item: 'gone', is: '<', value: 1 } })
    .expect(400);
});

test('the same as a PDF', async () => {
  const res = await ada
    .post('/api/v1/courses/1/term/pdf')
    .send({ outcome: WORRY })
    .buffer(true)
    .parse((part, done) => {
      const pieces: Buffer[] = [];
      part.on('data', (piece: Buffer) => pieces.push(Buffer.from(piece)));
      part.on('end', () => done(null, Buffer.concat(pieces)));
    })
    .expect(200);
  expect(res.headers['content-disposition']).toContain('NAV 120 how the term went.pdf');
  const { text } = await extractText(await getDocumentProxy(new Uint8Array(res.body as Buffer)), { mergePages: true });
  expect(text).toMatch(/How the term went/);
  expect(text).toMatch(/2 of 3 students have a course grade under 60%/);
  expect(text).toMatch(/Away.*2 nudges to 2 students in 2 checks/s);
});
