// Runs on PostgreSQL too.
/** A student’s data as one file, erasing them on request, and what is removed on its own long after a course. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { ErasedAnswer, LogAnswer, StudentData } from '@zest-bell/core/exchange';
import { rowsOf } from '../platform/database/query.ts';
import { tableNames } from '../platform/database/tables.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { setInstallation } from '../access/installation.ts';
import { runDueRounds } from '../rounds/deciding/scheduler.ts';
import { openSmtp, type TestSmtp } from '../testing/smtp.ts';
import { at, COURSE as PARTS, openStage, ruleOf, visit, type Agent, type TestStage } from '../testing/stage.ts';
import { CourseRow, ItemRow } from '../course/entity.ts';
import { ErasedRow } from '../course/erased.ts';
import { ChangeRow } from '../intake/changes/entity.ts';
import { StatementRow } from '../intake/statements/entity.ts';
import { AttemptRow } from '../mail/nudges/attempt.ts';
import { MessageRow, NudgeRow } from '../mail/nudges/entity.ts';
import { PlainMailRow } from '../mail/plainMail/entity.ts';
import { ReplyRow } from '../mail/replies/entity.ts';
import { accountActor } from '@zest-bell/core/access';
import { declarations } from './declarations.ts';
import { beginErasing, goOn } from './erase.ts';
import { forgetOld } from './retention.ts';
import { unguarded } from '../testing/unguarded.ts';
import { asTx } from '../testing/asTx.ts';

const COURSE = '/api/v1/courses/1';
const IMANI = { id: 'imani', firstName: 'Imani', lastName: 'Okoro', email: 'imani@saltmarsh.example' };
let stage: TestStage;
let smtp: TestSmtp;
let ada: Agent;
beforeEach(async () => {
  smtp = await openSmtp();
  stage = await openStage({
    now: '2026-09-10T09:00',
    smtp: smtp.url,
    rules: [
      ruleOf(),
      ruleOf({ id: 'other', status: 'paused', audience: { roles: ['student'], except: ['imani', 'p2'] } }),
    ],
    course: { people: PARTS.people.map((p) => (p.id === 'p1' ? { ...p, ...IMANI } : p)) },
  });
  ada = await stage.signIn();
  await stage.tell([visit('imani', '2026-09-01T10:00'), visit('p2', '2026-09-01T11:00')]);
  stage.clock.set(at('2026-09-10T09:31'));
  await runDueRounds(stage.services);
  await stage.dispatcher.drain();
  await ada.post(`${COURSE}/students/imani/notes`).send({ text: 'Imani Okoro called' }).expect(204);
  await ada
    .put(`${COURSE}/lookout/pins`)
    .send({ students: ['imani'], pinned: true })
    .expect(204);
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

/** Every row of every table as one text, without what is sealed. */
async function everything(): Promise<string> {
  const em = unguarded(stage.orm);
  const texts: string[] = [];
  for (const name of await tableNames(em)) texts.push(JSON.stringify(await rowsOf(em, em.getKnex()(name).select('*'))));
  return texts.join('\n');
}
/** A reply that was answered, and what somebody chose for statements. */
async function writtenTo(): Promise<void> {
  const em = unguarded(stage.orm);
  const nudge = await em.findOneOrFail(NudgeRow, { student: 'imani' });
  const said = {
    subject: 'Re: A quiet week',
    text: 'I was ill. Imani',
    at: at('2026-09-10T09:40'),
    messageId: '<a@b>',
  };
  const reply = em.create(ReplyRow, {
    course: 1,
    nudge: nudge.id,
    student: 'imani',
    kind: 'reply',
    ...said,
    fromName: 'Imani Okoro',
    fromAddress: 'imani@saltmarsh.example',
  });
  const course = await em.findOneOrFail(CourseRow, { id: 1 });
  course.meanings = { people: { 'mailto:io@elsewhere.example': 'imani', 'mailto:p2@elsewhere.example': 'p2' } };
  await em.flush();
  await ada.post(`${COURSE}/replies/${reply.id}/answer`).send({ text: 'Get well, Imani' }).expect(200);
  await stage.dispatcher.drain();
}
const erase = async () => {
  const { body } = await ada.post(`${COURSE}/students/imani/erase`).send({ student: 'imani' }).expect(200);
  await goOn(stage.services);
  return body as ErasedAnswer;
};

test('everything that is known of a student comes as one file, for owners', async () => {
  const res = await ada.get(`${COURSE}/students/imani/data`).expect(200);
  expect(res.headers['content-disposition']).toContain('NAV 120 student data.json');
  const data = res.body as StudentData;
  const { format: _format, madeAt: _madeAt, course: _course, ...sections } = data;
  const declared = declarations.flatMap(({ told }) => (typeof told === 'string' ? [told] : []));
  expect(Object.keys(sections).toSorted()).toEqual([...new Set(declared)].toSorted());
  expect(data.person).toMatchObject({ id: 'imani', firstName: 'Imani', email: 'imani@saltmarsh.example' });
  expect(data.activity).toEqual([{ at: expect.stringContaining('2026-09-01'), kind: 'visit', item: null }]);
  expect(data.nudges).toHaveLength(1);
  expect(data.mail[0]).toMatchObject({ to: 'Imani Okoro <imani@saltmarsh.example>', outcome: 'sent' });
  expect(data.notes).toEqual([{ at: expect.any(String), text: 'Imani Okoro called' }]);
  expect(data.seenBy).toEqual(['Ada Lind']);
  await ada.get(`${COURSE}/students/nobody/data`).expect(404);
  await ada.get(`${COURSE}/students/ada/data`).expect(404);
});

test('a file has nothing of somebody whose id or address only begins alike', async () => {
  const em = unguarded(stage.orm);
  const said = (actor: string, words: string) => ({
    course: 1,
    statement: `s ${words}`,
    standard: 'xapi',
    digest: '',
    actor,
    verb: 'v',
    activity: 'a',
    registration: null,
    storedAt: 1,
    voided: false,
    state: 'taken',
    about: null,
    said: null,
    why: null,
    json: JSON.stringify({
      actor: { account: { homePage: 'https://lms.example', name: actor.split(' ').at(-1) } },
      words,
    }),
  });
  await em.insertMany(StatementRow, [
    said('account https://lms.example p2', 'theirs'),
    said('account https://lms.example p20', 'of another'),
    said('account https://lms.example xp2', 'of one more'),
  ] as never[]);
  await ada
    .post(`${COURSE}/edit`)
    .send({ people: [{ id: 'p2', set: { email: null } }] })
    .expect(200);
  const data = (await ada.get(`${COURSE}/students/p2/data`).expect(200)).body as StudentData;
  expect(data.statements.map((s) => s['words'])).toEqual(['theirs']);
});

describe('erasing a student', () => {
  test('leaves nobody who could be found anywhere, and the log with a line and its counts', async () => {
    await writtenTo();
    expect(await everything()).toMatch(/imani/i);
    await erase();
    expect(await everything()).not.toMatch(/imani|okoro/i);
    const rule = await stage.rule('other');
    expect((rule.document as { audience: { except: string[] } }).audience.except).toEqual(['p2']);
    const { meanings } = await unguarded(stage.orm).findOneOrFail(CourseRow, { id: 1 });
    expect(meanings.people).toEqual({ 'mailto:p2@elsewhere.example': 'p2' });
    const { lines, counts } = (await ada.get(`${COURSE}/log`).expect(200)).body as LogAnswer;
    expect(lines.map((n) => n.studentName)).toContain('a student, erased on Sep 10');
    expect(counts.all).toBe(3);
    await ada.get(`${COURSE}/students/imani`).expect(404);
    // The course goes on with the others.
    await stage.tell([visit('p2', '2026-09-10T09:00')]);
    await ada.get(`${COURSE}/rules`).expect(200);
  });

  test('leaves nobody in the mail that lists several students, in replies that were passed on, and in what changes say of items', async () => {
    const em = unguarded(stage.orm);
    const [theirs] = await em.find(AttemptRow, { recipientName: /Imani/ });
    const others = await em.find(AttemptRow, { id: { $ne: theirs!.id } }, { orderBy: { id: 'asc' }, limit: 1 });
    // The advisor got one mail about both.
    const list = { messageId: theirs!.messageId, body: 'Imani Okoro\nP2 Lind', html: '<p>Imani Okoro</p>' };
    Object.assign(others[0]!, list);
    theirs!.replyTo = 'imani@saltmarsh.example';
    const [item] = await em.find(ItemRow, { course: 1 });
    await em.flush();
    const excuse = { excused: ['imani', 'p2'], extensions: [{ person: 'imani', dueAt: at('2026-09-12T12:00') }] };
    await ada
      .post(`${COURSE}/edit`)
      .send({ items: [{ id: item!.key, set: excuse }] })
      .expect(200);
    expect(await everything()).toMatch(/excused.{1,10}imani/);
    await erase();
    expect(await everything()).not.toMatch(/imani|okoro/i);
    const [change] = await em.fork().find(ChangeRow, { course: 1 }, { orderBy: { id: 'desc' }, limit: 1 });
    expect(change!.changes.items[0]!.after!.excused).toEqual(['p2']);
  });

  test('happens on the day that it is in the course, in an American evening as well', async () => {
    stage.clock.set(at('2026-09-10T21:00'));
    await erase();
    const { lines } = (await ada.get(`${COURSE}/log`).expect(200)).body as LogAnswer;
    expect(lines.map((n) => n.studentName)).toContain('a student, erased on Sep 10');
  });

  test('leaves what came of their nudges as it was counted, and so does forgetting the course', async () => {
    stage.clock.set(at('2026-09-11T12:00'));
    await stage.tell([visit('imani', '2026-09-11T10:00'), visit('p2', '2026-09-11T11:00')]);
    const em = unguarded(stage.orm);
    const nudge = await em.findOneOrFail(NudgeRow, { student: 'imani' });
    const said = { subject: 'Re', text: 'Here', at: at('2026-09-11T10:30'), messageId: '<c@d>' };
    await em.insert(ReplyRow, {
      course: 1,
      nudge: nudge.id,
      student: 'imani',
      kind: 'reply',
      ...said,
      fromName: 'Imani Okoro',
      fromAddress: 'imani@saltmarsh.example',
    });
    stage.clock.set(at('2026-10-10T12:00'));
    const outcomes = async () => {
      const { body } = await ada.get(`${COURSE}/log/outcomes`).expect(200);
      return body as object;
    };
    const before = await outcomes();
    expect(before).toMatchObject({ all: { returns: { count: 2, of: 3 }, replies: { count: 1, of: 3 } } });
    await erase();
    expect(await outcomes()).toEqual(before);
    stage.clock.set(at('2029-10-10T12:00'));
    const later = await outcomes();
    await forgetOld(stage.services);
    expect(await outcomes()).toEqual(later);
  });

  test('sends nothing that waits for them', async () => {
    stage.clock.set(at('2026-09-10T10:00'));
    await stage.tell([visit('imani', '2026-09-10T10:00'), visit('p2', '2026-09-10T10:00')]);
    stage.clock.set(at('2026-09-20T09:31'));
    await runDueRounds(stage.services);
    const before = smtp.mails.length;
    await erase();
    await stage.dispatcher.drain();
    const to = smtp.mails.slice(before).flatMap((m) => m.to);
    expect([to.includes('imani@saltmarsh.example'), to.includes('p2@saltmarsh.example')]).toEqual([false, true]);
  });

  test('ends in its first transaction what a mail process has claimed, and what answers them', async () => {
    await writtenTo();
    const em = unguarded(stage.orm);
    const [nudge] = await em.find(NudgeRow, { student: 'imani' });
    const [answer] = await em.find(PlainMailRow, { nudge: nudge!.id, kind: 'answer' });
    const claimed = { state: 'handing', claimedBy: 'another process', settledAt: null } as const;
    await em.nativeUpdate(MessageRow, { nudge: nudge!.id }, { ...claimed, begunAt: null });
    await em.nativeUpdate(MessageRow, { plainMail: answer!.id }, { state: 'queued', settledAt: null });
    await beginErasing(stage.services, { course: 1, student: 'imani', by: accountActor(1) });
    const left = await em.find(
      MessageRow,
      { $or: [{ nudge: nudge!.id }, { plainMail: answer!.id }] },
      { disableIdentityMap: true },
    );
    expect(left.map((m) => [m.state, m.claimedBy])).toEqual(left.map(() => ['withdrawn', null]));
    expect(left).toHaveLength(2);
  });

  test('leaves alone what the mail server has already begun to receive', async () => {
    const em = unguarded(stage.orm);
    const [nudge] = await em.find(NudgeRow, { student: 'imani' });
    const begun = { state: 'handing', claimedBy: 'another process', begunAt: stage.clock.now() } as const;
    await em.nativeUpdate(MessageRow, { nudge: nudge!.id }, begun);
    await beginErasing(stage.services, { course: 1, student: 'imani', by: accountActor(1) });
    const [message] = await em.find(MessageRow, { nudge: nudge!.id }, { disableIdentityMap: true });
    expect(message).toMatchObject({ state: 'handing', claimedBy: 'another process' });
    await goOn(stage.services);
    const erased = async () => (await ada.get(`${COURSE}/erased`).expect(200)).body as object;
    expect(await erased()).toMatchObject([{ done: false, inHand: 1 }]);
    // The mail server answers, and names them once more.
    await em.nativeUpdate(AttemptRow, { nudge: nudge!.id }, { response: '250 imani@saltmarsh.example: taken' });
    await em.nativeUpdate(MessageRow, { nudge: nudge!.id }, { state: 'sent', claimedBy: null, begunAt: null });
    await goOn(stage.services);
    expect(await erased()).toMatchObject([{ done: true, inHand: 0 }]);
    expect(await everything()).not.toMatch(/imani|okoro/i);
  });

  test('no source brings them back, until an owner says so', async () => {
    const erased = await erase();
    const add = () =>
      ada
        .post(`${COURSE}/edit`)
        .send({
          people: [{ id: null, set: { firstName: 'Imani', lastName: 'Okoro', email: 'IMANI@saltmarsh.example' } }],
        });
    const refused = await add();
    expect([refused.status, JSON.stringify(refused.body)]).toEqual([400, expect.stringContaining('erased')]);
    await ada.post(`${COURSE}/erased/${erased.id}/allow`).send({}).expect(204);
    expect((await ada.get(`${COURSE}/erased`).expect(200)).body).toMatchObject([
      { id: erased.id, by: 'Ada Lind', done: true, allowed: true },
    ]);
    await ada.post(`${COURSE}/erased/${erased.id}/allow`).send({}).expect(404);
  });

  test('goes on after the server was stopped in the midst of it', async () => {
    const { orm } = stage;
    await beginErasing(stage.services, { course: 1, student: 'imani', by: accountActor(1) });
    expect((await unguarded(orm).findOneOrFail(ErasedRow, { id: 1 })).who).not.toBeNull();
    await goOn(stage.services);
    await goOn(stage.services);
    expect((await unguarded(orm).findOneOrFail(ErasedRow, { id: 1 })).who).toBeNull();
    expect(await everything()).not.toMatch(/imani|okoro/i);
  });

  test('wants the id once more, and an owner', async () => {
    await ada.post(`${COURSE}/students/imani/erase`).send({ student: 'p2' }).expect(400);
    await ada.post(`${COURSE}/students/nobody/erase`).send({ student: 'nobody' }).expect(404);
  });
});

test('what is known is removed so many months after a course’s end, and counts stay', async () => {
  await inTransaction(stage.orm, (tx) => setInstallation(asTx(tx), { factorRequired: false, keepMonths: 6 }));
  stage.clock.set(at('2027-06-17T12:00'));
  await forgetOld(stage.services);
  expect(await everything()).toContain('called');
  stage.clock.set(at('2027-06-21T12:00'));
  await forgetOld(stage.services);
  const left = await everything();
  expect(left).not.toMatch(/called|it has been \d/);
  const { counts } = (await ada.get(`${COURSE}/log`).expect(200)).body as LogAnswer;
  expect(counts.all).toBe(3);
  const again = await everything();
  await forgetOld(stage.services);
  expect(await everything()).toBe(again);
});

describe('a course keeps it', () => {
  const kept = async () => (await ada.get(`${COURSE}/kept`).expect(200)).body as object;
  test('as long as everywhere, or shorter, and never longer', async () => {
    expect(await kept()).toEqual({ months: 24, own: null, until: '2028-12-17' });
    const refused = await ada.put(`${COURSE}/kept`).send({ months: 25 }).expect(400);
    expect((refused.body as { problems: object[] }).problems).toMatchObject([
      { path: 'months', message: 'This installation keeps it for 24 months. Type 24 or less' },
    ]);
    await ada.put(`${COURSE}/kept`).send({ months: 3 }).expect(204);
    expect(await kept()).toEqual({ months: 24, own: 3, until: '2027-03-19' });
    stage.clock.set(at('2027-03-18T12:00'));
    await forgetOld(stage.services);
    expect(await everything()).toContain('called');
    stage.clock.set(at('2027-03-22T12:00'));
    await forgetOld(stage.services);
    expect(await everything()).not.toContain('called');
  });

  test('shorter where everywhere became shorter meanwhile', async () => {
    await ada.put(`${COURSE}/kept`).send({ months: 12 }).expect(204);
    await inTransaction(stage.orm, (tx) => setInstallation(asTx(tx), { factorRequired: false, keepMonths: 6 }));
    expect(await kept()).toMatchObject({ months: 6, own: 12, until: '2027-06-18' });
  });
});
