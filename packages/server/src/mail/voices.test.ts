/** The name that a message carries, and where answers to it go. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { ruleDocument } from '@zest-bell/core/rules';
import type { CourseAnswer, InboxAnswer, RehearsalAnswer, RuleCard } from '@zest-bell/core/exchange';
import { runDueRounds } from '../rounds/deciding/scheduler.ts';
import { openSmtp, type TestSmtp } from '../testing/smtp.ts';
import { at, openStage, ruleOf, SENDER, ZONE, type Agent, type TestStage } from '../testing/stage.ts';
import { RuleRow } from '../rules/entity.ts';
import { forward } from './replies/forward.ts';
import { ReplyRow } from './replies/entity.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { unguarded, freely } from '../testing/unguarded.ts';
import { asTx } from '../testing/asTx.ts';

const COURSE = '/api/v1/courses/1';
const OWN = {
  name: 'Cy Ngo',
  address: 'cy@saltmarsh.example',
  replyTo: 'cy@saltmarsh.example',
  signature: 'Cy',
  officeHours: 'Mondays at ten',
};

let stage: TestStage;
let smtp: TestSmtp;
let ada: Agent;
let cy: Agent;
beforeEach(async () => {
  smtp = await openSmtp();
  stage = await openStage({ now: '2026-09-04T12:00', smtp: smtp.url, rules: [ruleOf({ status: 'draft' })] });
  ada = await stage.signIn();
  cy = await stage.colleague('co-instructor', 'cy@saltmarsh.example', 'Cy Ngo');
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

const sign = (who: Agent, sender: object | null = OWN) => who.put(`${COURSE}/sender/own`).send({ sender });
const cards = async (who: Agent) => (await who.get(`${COURSE}/rules`).expect(200)).body as RuleCard[];
const turnOn = async (who: Agent) => {
  const [card] = await cards(who);
  const rules = [{ rule: card!.rule.id, version: card!.version }];
  await who.post(`${COURSE}/rules/status`).send({ rules, status: 'on', confirmed: true }).expect(200);
};
const roundAt = async (when: string) => {
  stage.clock.set(at(when));
  await runDueRounds(stage.services);
  await stage.dispatcher.drain();
};
const senders = () => smtp.mails.map(({ mail }) => [mail.from?.value[0]?.name, mail.replyTo?.value[0]?.address]);

test('a rule writes as whoever first turned it on, also after somebody else changed it', async () => {
  await sign(cy).expect(204);
  const rehearsed = await ada
    .post(`${COURSE}/rules/rehearse`)
    .send({ rule: ruleDocument(ruleOf({ id: 'new', status: 'draft' }), ZONE), at: at('2026-09-05T09:30') });
  expect((rehearsed.body as RehearsalAnswer).from.name).toBe(SENDER.name);
  await turnOn(cy);
  expect((await cards(cy))[0]!.writesAs).toEqual({ name: 'Cy Ngo', isYou: true });
  expect((await cards(ada))[0]!.writesAs).toEqual({ name: 'Cy Ngo', isYou: false });
  await turnOn(ada);
  await roundAt('2026-09-05T09:30');
  expect(senders()).toEqual(Array.from({ length: 3 }, () => ['Cy Ngo', 'cy@saltmarsh.example']));
  expect(smtp.mails[0]!.mail.text).toContain('Cy');
});

test('it writes as the course where they sign nothing of their own, when told so, and once they have left', async () => {
  await turnOn(cy);
  expect((await cards(cy))[0]!.writesAs).toBeNull();
  await sign(cy).expect(204);
  await ada.put(`${COURSE}/rules/away/sender`).send({ as: 'course' }).expect(204);
  await roundAt('2026-09-05T09:30');
  expect(senders()[0]).toEqual([SENDER.name, SENDER.replyTo]);
  await cy.put(`${COURSE}/rules/away/sender`).send({ as: 'me' }).expect(204);
  expect((await cards(cy))[0]!.writesAs?.isYou).toBe(true);
  await cy.post(`${COURSE}/access/leave`).send({}).expect(204);
  expect((await cards(ada))[0]!.writesAs).toBeNull();
  expect((await stage.rule()).owner).toBe(0);
});

test('whoever may no longer run rules no longer speaks in one', async () => {
  await sign(cy).expect(204);
  await turnOn(cy);
  const { account } = (await cy.get('/api/v1/session').expect(200)).body as { account: { id: number } };
  await ada.put(`${COURSE}/access/${account.id}`).send({ role: 'assistant' }).expect(204);
  expect((await stage.rule()).owner).toBe(0);
});

test('what somebody writes by hand comes from them, and shows so beforehand', async () => {
  await sign(cy).expect(204);
  const order = { to: { sheet: null, students: ['p1'] }, subject: 'A', text: 'Hello,\n\n{{ sender.signature }}' };
  const preview = await cy
    .post(`${COURSE}/write/preview`)
    .send({ ...order, at: 0 })
    .expect(200);
  expect((preview.body as { message: { text: string } }).message.text).toBe('Hello,\n\nCy');
  await cy
    .post(`${COURSE}/write`)
    .send({ ...order, text: `${order.text} and more` })
    .expect(201);
  await ada
    .post(`${COURSE}/write`)
    .send({ ...order, text: 'From the course', passBudget: true })
    .expect(201);
  await stage.dispatcher.drain();
  expect(senders().toSorted()).toEqual(
    [
      ['Cy Ngo', 'cy@saltmarsh.example'],
      [SENDER.name, SENDER.replyTo],
    ].toSorted(),
  );
});

test('a reply goes on to whoever wrote, the inbox says whose it is, and an answer comes from whoever answers', async () => {
  await sign(cy).expect(204);
  await turnOn(cy);
  await roundAt('2026-09-05T09:30');
  await inTransaction(stage.orm, async (tx) => {
    const reply = freely(tx).create(ReplyRow, {
      course: 1,
      nudge: 1,
      student: 'p1',
      kind: 'reply',
      at: stage.clock.now(),
      messageId: '<r@saltmarsh.example>',
      fromName: 'P1 Lind',
      fromAddress: 'p1@saltmarsh.example',
      subject: 'Re: A',
      text: 'I am back',
    });
    await freely(tx).flush();
    await forward(asTx(tx), reply, stage.clock.now());
  });
  await stage.dispatcher.drain();
  expect(smtp.mails.at(-1)!.to).toEqual(['cy@saltmarsh.example']);
  const inbox = async (who: Agent) => ((await who.get('/api/v1/inbox').expect(200)).body as InboxAnswer).replies[0]!;
  expect([(await inbox(cy)).writer, (await inbox(ada)).writer]).toEqual([
    { name: 'Cy Ngo', isYou: true },
    { name: 'Cy Ngo', isYou: false },
  ]);
  await ada.post(`${COURSE}/replies/1/answer`).send({ text: 'Good.' }).expect(200);
  await stage.dispatcher.drain();
  expect(senders().at(-1)).toEqual([SENDER.name, SENDER.replyTo]);
});

test('nobody signs from outside the institution, and each sees and tests their own sender alone', async () => {
  const refused = await sign(cy, { ...OWN, replyTo: 'cy@elsewhere.example' }).expect(400);
  expect((refused.body as { problems: object[] }).problems).toEqual([
    { path: 'sender.replyTo', code: 'outsideAddress', message: 'Type an address at saltmarsh.example' },
  ]);
  await sign(cy).expect(204);
  const own = async (who: Agent) => ((await who.get(COURSE).expect(200)).body as CourseAnswer).own;
  expect([await own(cy), await own(ada)]).toEqual([expect.objectContaining({ name: 'Cy Ngo' }), null]);
  await cy.post(`${COURSE}/sender/own/test`).send({}).expect(200);
  expect(smtp.mails[0]!.to).toEqual(['cy@saltmarsh.example']);
  expect(senders()).toEqual([['Cy Ngo', 'cy@saltmarsh.example']]);
  await sign(cy, null).expect(204);
  expect(await own(cy)).toBeNull();
  const observer = await stage.colleague('observer');
  await sign(observer).expect(403);
});

test('a rule that a course began with writes as the course until somebody says otherwise', async () => {
  await unguarded(stage.orm).nativeUpdate(RuleRow, {}, { owner: 0 });
  await sign(cy).expect(204);
  await turnOn(cy);
  expect((await cards(cy))[0]!.writesAs).toBeNull();
});
