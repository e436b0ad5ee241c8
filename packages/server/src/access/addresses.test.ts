// Runs on PostgreSQL too. Covers desk/people.
/** Proven addresses: who may send as whom, and who may make courses. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { CourseAnswer, InstallationAnswer, ProvenAddress, SessionAnswer } from '@zest-bell/core/exchange';
import { inTransaction } from '../platform/database/transaction.ts';
import { openSmtp, type TestSmtp } from '../testing/smtp.ts';
import { openStage, SENDER, type Agent, type TestStage } from '../testing/stage.ts';
import { Account, AddressCodeRow, ProvenAddressRow } from './entity.ts';
import { setInstallation } from './installation.ts';
import { unguarded, freely } from '../testing/unguarded.ts';
import { asTx } from '../testing/asTx.ts';

const COURSE = '/api/v1/courses/1';
const NEW = 'president@uni.example';

let stage: TestStage;
let smtp: TestSmtp;
let ada: Agent;
beforeEach(async () => {
  smtp = await openSmtp();
  stage = await openStage({ now: '2026-09-08T12:00', smtp: smtp.url });
  ada = await stage.signIn();
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

const codeOf = (body: unknown) => (body as { code: string }).code;
const mailCode = (address: string, who = ada) => who.post('/api/v1/account/addresses/code').send({ address });
const mailed = () => /^(\d{8})$/m.exec(smtp.mails.at(-1)!.mail.text!)![1]!;
const prove = (address: string, code: string, who = ada) =>
  who.post('/api/v1/account/addresses').send({ address, code });
const addresses = async () =>
  ((await ada.get('/api/v1/account/addresses').expect(200)).body as ProvenAddress[]).map((p) => p.address);
const course = async () => (await ada.get(COURSE).expect(200)).body as CourseAnswer;
const setSender = async (part: object, who = ada) => {
  const { sender, settingsVersion: version } = await course();
  return who.put(`${COURSE}/sender`).send({ sender: { ...sender, ...part }, version });
};

describe('a code', () => {
  test('that is mailed to an address proves it for the account that types it', async () => {
    await mailCode('President@Uni.example').expect(204);
    expect([smtp.mails[0]!.to, smtp.mails[0]!.mail.from?.text]).toEqual([[NEW], expect.stringContaining('Zest Bell')]);
    const code = mailed();
    const bo = await stage.signIn('bo@saltmarsh.example');
    expect(codeOf((await prove(NEW, code, bo).expect(400)).body)).toBe('wrongAddressCode');
    await prove(NEW, `${code.slice(0, 4)} ${code.slice(4)}`).expect(204);
    expect(await addresses()).toEqual(['ada@saltmarsh.example', NEW]);
    // It works once.
    await unguarded(stage.orm).nativeDelete(ProvenAddressRow, { address: NEW });
    await prove(NEW, code).expect(400);
  });

  test('works for half an hour, for five tries, and not once a newer one was mailed', async () => {
    await mailCode(NEW).expect(204);
    const first = mailed();
    await mailCode(NEW).expect(204);
    await prove(NEW, first).expect(400);
    for (let i = 1; i < 5; i++) await prove(NEW, '00000000').expect(400);
    await prove(NEW, mailed()).expect(400);
    await mailCode(NEW).expect(204);
    const [last] = await unguarded(stage.orm).find(AddressCodeRow, {}, { orderBy: { id: 'desc' }, limit: 1 });
    expect(last!.endsAt - last!.at).toBe(30 * 60_000);
    await unguarded(stage.orm).nativeUpdate(AddressCodeRow, { id: last!.id }, { endsAt: Date.now() - 1 });
    await prove(NEW, mailed()).expect(400);
  });

  test('is one of five an hour for an account, and of five a day for an address', async () => {
    for (let i = 0; i < 5; i++) await mailCode(`x${i}@uni.example`).expect(204);
    const refused = await mailCode(NEW).expect(429);
    expect([codeOf(refused.body), Number(refused.headers['retry-after']) > 3500]).toEqual(['tooManyCodes', true]);
    await unguarded(stage.orm).nativeUpdate(AddressCodeRow, {}, { account: 99, address: NEW });
    expect(Number((await mailCode(NEW).expect(429)).headers['retry-after'])).toBeGreaterThan(86_000);
    await mailCode('other@uni.example').expect(204);
  });

  test('is kept so that nobody reads it, and is nobody’s whose mail did not leave', async () => {
    await mailCode(NEW).expect(204);
    const [row] = await unguarded(stage.orm).find(AddressCodeRow, {});
    expect(JSON.stringify(row)).not.toContain(mailed());
    smtp.answer = { code: 550, at: 'rcpt' };
    expect(codeOf((await mailCode(NEW).expect(409)).body)).toBe('codeNotMailed');
  });
});

describe('the sender of a course', () => {
  test('is proven by the person who sets it; unchanged addresses are not asked about', async () => {
    await setSender({ name: 'A. Lind', replyTo: SENDER.replyTo }).then((res) => expect(res.status).toBe(204));
    const refused = await setSender({ address: NEW });
    expect([refused.status, codeOf(refused.body)]).toEqual([400, 'senderNotProven']);
    await mailCode(NEW).expect(204);
    await prove(NEW, mailed()).expect(204);
    expect((await setSender({ address: NEW })).status).toBe(204);
    // Proven by one is not proven by another; replies may go to any member.
    const bo = await stage.colleague('co-instructor', 'bo2@saltmarsh.example');
    await inTransaction(stage.orm, (tx) => freely(tx).nativeDelete(ProvenAddressRow, { address: SENDER.address }));
    const other = await setSender({ address: 'ada@saltmarsh.example' }, bo);
    expect((other.body as { problems: object[] }).problems).toMatchObject([{ path: 'sender.address' }]);
    expect((await setSender({ replyTo: NEW }, bo)).status).toBe(204);
  });

  test('is on the installation’s list, or is the installation’s own', async () => {
    await inTransaction(stage.orm, (tx) =>
      setInstallation(asTx(tx), {
        senderDomains: ['college.example'],
        sender: { name: 'Zest Bell', address: 'bell@college.example' },
      }),
    );
    await stage.services.refreshInstallationSender();
    await mailCode(NEW).expect(204);
    await prove(NEW, mailed()).expect(204);
    const refused = await setSender({ address: NEW });
    expect([codeOf(refused.body), (refused.body as { problems: { message: string }[] }).problems[0]!.message]).toEqual([
      'senderNotAllowed',
      'Your installation sends from college.example only.',
    ]);
    expect((await setSender({ address: '', replyTo: NEW })).status).toBe(204);
    await ada.post(`${COURSE}/mail/test`).send({}).expect(200);
    const { mail } = smtp.mails.at(-1)!;
    expect([mail.from?.value[0], mail.replyTo?.value[0]?.address]).toEqual([
      { name: `${SENDER.name}, via Zest Bell`, address: 'bell@college.example' },
      NEW,
    ]);
  });

  test('that is no longer proven turns no rule on and writes nothing by hand', async () => {
    await mailCode(NEW).expect(204);
    await prove(NEW, mailed()).expect(204);
    await setSender({ address: NEW, replyTo: NEW });
    const write = () =>
      ada
        .post(`${COURSE}/write`)
        .send({ to: { sheet: null, students: ['p1'] }, subject: 'A', text: 'Hello there', confirmed: true });
    await write().expect(201);
    await unguarded(stage.orm).nativeDelete(ProvenAddressRow, { address: NEW });
    expect(codeOf((await write().expect(400)).body)).toBe('senderNotProven');
    const { version } = await stage.rule();
    const on = (status: string, v: number) =>
      ada.post(`${COURSE}/rules/status`).send({ rules: [{ rule: 'away', version: v }], status, confirmed: true });
    await on('paused', version).expect(200);
    expect(codeOf((await on('on', version + 1).expect(400)).body)).toBe('senderNotProven');
  });
});

describe('who may make courses', () => {
  const details = { code: 'X 1', title: 'X', timeZone: 'UTC', start: '2026-09-01', end: '2026-12-01' };
  const make = (who = ada) => who.post('/api/v1/courses').send({ details });
  const may = async (who = ada) => ((await who.get('/api/v1/session')).body as SessionAnswer).mayMakeCourses;
  const say = (settings: object) => inTransaction(stage.orm, (tx) => setInstallation(asTx(tx), settings));

  test('is everybody with a proven address, those named, or administrators', async () => {
    await make().expect(201);
    await unguarded(stage.orm).nativeDelete(ProvenAddressRow, { account: 1 });
    expect(codeOf((await make().expect(403)).body)).toBe('addressNotProven');
    await mailCode('ada@saltmarsh.example').expect(204);
    await prove('ada@saltmarsh.example', mailed()).expect(204);
    await make().expect(201);
    await say({ coursesBy: 'named', courseMakers: [2] });
    expect([await may(), codeOf((await make().expect(403)).body)]).toEqual([false, 'mayNotMakeCourses']);
    const bo = await stage.signIn('bo@saltmarsh.example');
    expect(await may(bo)).toBe(true);
    await make(bo).expect(201);
    await say({ coursesBy: 'administrators' });
    await make(bo).expect(403);
    await unguarded(stage.orm).nativeUpdate(Account, { id: 2 }, { isAdministrator: true });
    await make(bo).expect(201);
  });

  test('begins with an address that the installation sends from', async () => {
    await say({ senderDomains: ['college.example'] });
    const { id } = (await make().expect(201)).body as { id: number };
    const { sender } = (await ada.get(`/api/v1/courses/${id}`).expect(200)).body as CourseAnswer;
    expect([sender.address, sender.replyTo]).toEqual(['', 'ada@saltmarsh.example']);
  });
});

test('an administrator says what holds, sees what the settings fix, and answers for an address', async () => {
  await unguarded(stage.orm).nativeUpdate(Account, { id: 1 }, { isAdministrator: true });
  const settings = async () => (await ada.get('/api/v1/admin/settings').expect(200)).body as InstallationAnswer;
  expect(await settings()).toMatchObject({ sender: null, senderDomains: [], coursesBy: 'proven', fixed: [] });
  const body = { factorRequired: false, keepMonths: 24, sender: { name: 'Bell', address: 'bell@uni.example' } };
  await ada.put('/api/v1/admin/settings').send(body).expect(204);
  // What an older client leaves out stays.
  await ada.put('/api/v1/admin/settings').send({ factorRequired: false, keepMonths: 12 }).expect(204);
  expect(await settings()).toMatchObject({ keepMonths: 12, sender: body.sender });
  expect(stage.services.installationSender()).toEqual(body.sender);
  const listed = async () => (await ada.get('/api/v1/admin/senders').expect(200)).body as { addresses: string[] }[];
  expect((await listed()).map((l) => l.addresses)).toEqual([[SENDER.replyTo]]);
  await ada.post('/api/v1/admin/senders/accept').send({ account: 1, address: SENDER.replyTo }).expect(204);
  expect(await listed()).toEqual([]);
  expect(await addresses()).toContain(SENDER.replyTo);
});
