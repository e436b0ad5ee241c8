import { afterEach, expect, test } from '@jest/globals';
import type { TrayAnswer } from '@zest-bell/core/exchange';
import { MessageRow, NudgeRow } from '../nudges/entity.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { AttemptRow } from '../nudges/attempt.ts';
import { WordingRow } from '../../wording/entity.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { at, openStage, ruleOf, visit, type TestStage } from '../../testing/stage.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
let smtp: TestSmtp;
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

const step = { to: ['instructor', 'address:dean@saltmarsh.example'], wording: 'gentle', together: true };

async function open(deliver: 'send' | 'hold' = 'send') {
  smtp = await openSmtp();
  stage = await openStage({
    now: '2026-09-07T09:00',
    smtp: smtp.url,
    rules: [ruleOf({ repeat: { perSpell: null }, steps: [{ ...step, deliver }] })],
  });
  await unguarded(stage.orm).transactional(async (em) => {
    const wording = await em.findOneOrFail(WordingRow, { key: 'gentle' });
    wording.purpose = 'toMyself';
    wording.body = 'To talk to:\n\n{{ students.list }}\n\nThat is all.';
  });
}

async function round(when: string) {
  stage.clock.set(at(when));
  await runDueRounds(stage.services);
  await stage.dispatcher.drain();
}
const em = () => unguarded(stage.orm);

test('[R11a] each recipient gets one mail a round about all students, and the log stays one a student', async () => {
  await open();
  await round('2026-09-07T09:30');
  expect(smtp.mails.flatMap((m) => m.to).sort()).toEqual(['ada@saltmarsh.example', 'dean@saltmarsh.example']);
  expect(await em().count(NudgeRow, { state: 'sent', toStudent: false })).toBe(3);
  const messages = await em().find(MessageRow, {});
  expect(messages).toHaveLength(6);
  expect(messages.every((m) => m.state === 'sent')).toBe(true);
  const attempts = await em().find(AttemptRow, { address: 'ada@saltmarsh.example' }, { orderBy: { id: 'asc' } });
  expect(attempts).toHaveLength(3);
  expect(attempts[0]!.body).toMatch(
    /^To talk to:\n\n- P1 Lind: no visit yet.*\n- P2 Lind: .*\n- P3 Lind: .*\n\nThat is all\.$/,
  );
  expect(new Set(attempts.map((a) => a.body)).size).toBe(1);
  expect(attempts.every((a) => a.outcome === 'sent')).toBe(true);
});

test('[R11a] who no longer matches at the second look leaves the list, and with nobody left nothing goes', async () => {
  await open('hold');
  await round('2026-09-07T09:30');
  const ada = await stage.signIn();
  const tray = async () => (await ada.get('/api/v1/courses/1/tray')).body as TrayAnswer;
  const { lines } = await tray();
  expect(new Set(lines.map((l) => l.together)).size).toBe(1);
  expect(lines[0]).toMatchObject({ toStudent: false, together: expect.any(String) });
  expect(lines[0]!.message!.text).toContain('- P3 Lind');
  stage.clock.set(at('2026-09-07T11:00'));
  await stage.tell([visit('p2', '2026-09-07T10:00')]);
  await ada
    .post('/api/v1/courses/1/tray/decide')
    .send({ as: 'send', nudges: lines.map((l) => l.nudge) })
    .expect(200);
  expect(smtp.mails).toHaveLength(2);
  expect(smtp.mails[0]!.mail.text).toContain('P1 Lind');
  expect(smtp.mails[0]!.mail.text).not.toContain('P2 Lind');
  const states = (await em().find(NudgeRow, {}, { orderBy: { student: 'asc' } })).map((n) => n.state);
  expect(states).toEqual(['sent', 'withdrawn', 'sent']);
});

test('[R11a] students who are decided one by one go one by one', async () => {
  await open('hold');
  await round('2026-09-07T09:30');
  const ada = await stage.signIn();
  const { lines } = (await ada.get('/api/v1/courses/1/tray')).body as TrayAnswer;
  for (const line of lines.slice(0, 2))
    await ada
      .post('/api/v1/courses/1/tray/decide')
      .send({ as: 'send', nudges: [line.nudge] })
      .expect(200);
  expect(smtp.mails).toHaveLength(4);
  expect(await em().count(NudgeRow, { state: 'held' })).toBe(1);
});

test('[R11a] a mail server that answers “later” has all of a list tried again, as one', async () => {
  await open();
  smtp.answer = { code: 451, at: 'data' };
  await round('2026-09-07T09:30');
  expect(await em().count(MessageRow, { state: 'queued' })).toBe(6);
  smtp.answer = 'accept';
  stage.clock.set(at('2026-09-07T10:30'));
  await stage.dispatcher.drain();
  expect(await em().count(MessageRow, { state: 'sent' })).toBe(6);
  expect(smtp.mails).toHaveLength(2);
});
