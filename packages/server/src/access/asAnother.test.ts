/**
 * An account that was only ever an observer tries to send as another person, and to get an account at another person's address, by every
 * request of the contract that takes an address.
 */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { CourseAnswer } from '@zest-bell/core/exchange';
import { endpoints, openApi } from '@zest-bell/core/contract';
import { openSmtp, type TestSmtp } from '../testing/smtp.ts';
import { openStage, SENDER, type Agent, type TestStage } from '../testing/stage.ts';
import { Account, ProvenAddressRow } from './entity.ts';
import { unguarded } from '../testing/unguarded.ts';

const DEAN = 'dean@uni.example';
const as = { ...SENDER, address: DEAN, replyTo: DEAN };
const details = { code: 'X 1', title: 'X', timeZone: 'UTC', start: '2026-09-01', end: '2026-12-01' };
const written = { to: { sheet: null, students: ['p1'] }, subject: 'A', text: 'Hello there', confirmed: true };

let stage: TestStage;
let smtp: TestSmtp;
let observer: Agent;
beforeEach(async () => {
  smtp = await openSmtp();
  stage = await openStage({ now: '2026-09-08T12:00', smtp: smtp.url, publicUrl: 'https://bell.example.edu' });
  observer = await stage.colleague('observer', 'oz@saltmarsh.example');
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

/** What a body calls an address, or somebody to whom mail goes. */
const OF_ADDRESSES = /^(?:email|address|sender|replyTo|outside|contacts|courseMakers)$/;

/** Requests with an address in their body, by name. */
function taking(): string[] {
  const { paths } = openApi('', { schemas: {}, answers: {} }, []) as {
    readonly paths: Readonly<Record<string, Readonly<Record<string, { operationId: string; requestBody?: object }>>>>;
  };
  const names = (part: unknown): string[] =>
    typeof part !== 'object' || part === null
      ? []
      : [
          ...Object.keys((part as { properties?: object }).properties ?? {}),
          ...Object.values(part).flatMap((inner) => names(inner)),
        ];
  const known = new Set(endpoints.map(({ module, name }) => `${module}.${name}`));
  return Object.values(paths)
    .flatMap((of) => Object.values(of))
    .filter(
      ({ operationId, requestBody }) => known.has(operationId) && names(requestBody).some((n) => OF_ADDRESSES.test(n)),
    )
    .map(({ operationId }) => operationId);
}

/** What each answers: in the course in which they observe, and in one that they begin themselves. */
const TRIES: Readonly<Record<string, (course: number) => Promise<readonly [observed: number, own: number]>>> = {
  'access.signIn': () => both(() => observer.post('/api/v1/session').send({ email: DEAN, password: 'guessed-1234' })),
  'access.firstAccount': () =>
    both(() => observer.post('/api/v1/accounts/first').send({ name: 'Dean', email: DEAN, password: 'guessed-123456' })),
  'access.join': () =>
    both(() => observer.post('/api/v1/account/join').send({ email: DEAN, password: 'guessed-1234' })),
  // Mail goes to the address itself, in the installation's name.
  'access.forgotten': () => both(() => observer.post('/api/v1/password/forgotten').send({ email: DEAN })),
  'access.mailCode': () => both(() => observer.post('/api/v1/account/addresses/code').send({ address: DEAN })),
  'access.proveAddress': () =>
    both(() => observer.post('/api/v1/account/addresses').send({ address: DEAN, code: '12345678' })),
  'admin.acceptAddress': () =>
    both(() => observer.post('/api/v1/admin/senders/accept').send({ account: 3, address: DEAN })),
  'admin.setSettings': () =>
    both(() =>
      observer
        .put('/api/v1/admin/settings')
        .send({ factorRequired: false, keepMonths: 24, sender: { name: 'Dean', address: DEAN } }),
    ),
  // An invitation is mailed to the person invited. The person who invites does not see its link.
  'people.invite': (id) => each(id, (c) => observer.post(`${c}/invitations`).send({ email: DEAN, role: 'owner' })),
  'course.sender': (id) => each(id, (c) => observer.put(`${c}/sender`).send({ sender: as, version: 1 })),
  'course.ownSender': (id) => each(id, (c) => observer.put(`${c}/sender/own`).send({ sender: as })),
  'rules.status': (id) =>
    each(id, (c) =>
      observer.post(`${c}/rules/status`).send({ rules: [{ rule: 'away', version: 1 }], status: 'on', outside: [DEAN] }),
    ),
  'rules.change': (id) =>
    each(id, (c) => observer.put(`${c}/rules/away`).send({ rule: {}, version: 1, outside: [DEAN] })),
  'rules.publish': (id) =>
    each(id, (c) => observer.post(`${c}/rules/away/publish`).send({ version: 1, outside: [DEAN] })),
  'rules.unarchive': (id) =>
    each(id, (c) => observer.post(`${c}/rules/away/unarchive`).send({ version: 1, outside: [DEAN] })),
  'mail.previewWriting': (id) => each(id, (c) => observer.post(`${c}/write/preview`).send(written)),
  'mail.write': (id) => each(id, (c) => observer.post(`${c}/write`).send({ ...written, outside: [DEAN] })),
  'intake.edit': (id) => each(id, (c) => observer.post(`${c}/edit`).send({ people: [{ id: 'p1', email: DEAN }] })),
  'intake.address': (id) => each(id, (c) => observer.put(`${c}/students/p1/address`).send({ email: DEAN })),
  'carry.preview': (id) =>
    each(id, (c) => observer.post(`${c}/carry/preview`).send({ from: { course: 1 }, sender: true })),
  'carry.over': (id) => each(id, (c) => observer.post(`${c}/carry`).send({ from: { course: 1 }, sender: true })),
  'sets.take': (id) => each(id, (c) => observer.post(`${c}/sets/rule/away/take`).send({ version: 1, outside: [DEAN] })),
  'sets.settle': (id) =>
    each(id, (c) => observer.post(`${c}/sets/rule/away/settle`).send({ version: 1, outside: [DEAN] })),
};

type WithStatus = { readonly status: number };
const both = async (ask: () => PromiseLike<WithStatus>) => {
  const { status } = await ask();
  return [status, status] as const;
};
const each = async (id: number, ask: (course: string) => PromiseLike<WithStatus>) => {
  const [observed, mine] = [await ask('/api/v1/courses/1'), await ask(`/api/v1/courses/${id}`)];
  return [observed.status, mine.status] as const;
};

test('an observer neither sends as another person nor gets an account at their address, by any request', async () => {
  expect(taking().toSorted()).toEqual(Object.keys(TRIES).toSorted());
  const { id } = (await observer.post('/api/v1/courses').send({ details }).expect(201)).body as { id: number };
  const scenario = JSON.stringify({ format: 'zest-bell/scenario@1' });
  await observer
    .post('/api/v1/courses/scenario')
    .set('content-type', 'application/octet-stream')
    .send(Buffer.from(scenario))
    .then(({ status }) => expect(status).toBe(400));
  const answers: Record<string, readonly [number, number]> = {};
  for (const [name, ask] of Object.entries(TRIES)) answers[name] = await ask(id);
  expect(answers).toMatchObject({
    'access.signIn': [401, 401],
    'access.firstAccount': [409, 409],
    'access.join': [409, 409],
    'access.forgotten': [204, 204],
    'access.mailCode': [204, 204],
    'access.proveAddress': [400, 400],
    'admin.acceptAddress': [403, 403],
    'admin.setSettings': [403, 403],
    'people.invite': [403, 201],
  });
  // Whatever their own course answers, in the one that they observe every request that takes an address is refused.
  for (const [name, [observed]] of Object.entries(answers))
    if (name.includes('.') && !name.startsWith('access.'))
      expect([name, observed]).toEqual([name, observed === 404 ? 404 : 403]);
  expect([answers['course.sender']![1], answers['course.ownSender']![1]]).toEqual([400, 400]);

  const { sender } = (await observer.get(`/api/v1/courses/${id}`).expect(200)).body as CourseAnswer;
  expect([sender.address, sender.replyTo]).toEqual(['oz@saltmarsh.example', 'oz@saltmarsh.example']);
  const em = unguarded(stage.orm);
  expect(await em.count(Account, { email: DEAN })).toBe(0);
  expect(await em.count(ProvenAddressRow, { address: DEAN })).toBe(0);
  for (const { mail } of smtp.mails) expect(`${mail.from?.text} ${mail.replyTo?.text}`).not.toContain(DEAN);
});
