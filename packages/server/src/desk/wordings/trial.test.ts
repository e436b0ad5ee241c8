// Runs on PostgreSQL too.
/** A fair trial of two texts: drawn by lot, kept for each student, told with what chance may have done (engine O5). */
import { asTx } from '../../testing/asTx.ts';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { drawTexts } from '@zest-bell/core/outcomes';
import type { TrialAnswer } from '@zest-bell/core/exchange';
import { Access } from '../../access/entity.ts';
import { MessageRow } from '../../mail/nudges/entity.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { at, classOf, COURSE, openStage, SENDER, visit, type Agent, type TestStage } from '../../testing/stage.ts';
import { TrialCourseRow, TrialDrawRow, TrialRow } from '../../wording/trials/entity.ts';
import { openTrials, writeDraws } from '../../wording/trials/draws.ts';
import { insertWording } from '../../wording/repository.ts';
import { unguarded } from '../../testing/unguarded.ts';
import { insertCourse } from '../../testing/insertCourse.ts';

const MANY = 9;
const TEXTS = { subject: 'A quiet week', text: 'You were missed.' };
const OTHER = { subject: 'Still there?', text: 'How are things?' };
const WORDING = { id: 'gentle', name: 'Gentle', purpose: 'support' as const, ...TEXTS, variants: [OTHER] };
const path = '/api/v1/courses/1/wordings/gentle';

let stage: TestStage;
let smtp: TestSmtp;
let ada: Agent;
beforeEach(async () => {
  smtp = await openSmtp();
  stage = await openStage({ now: '2026-09-04T12:00', smtp: smtp.url, course: { people: classOf(MANY) } });
  ada = await stage.signIn();
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

const twoTexts = () => ada.put(path).send({ wording: WORDING, version: 1 }).expect(200);
const start = (body: object = { points: 20 }) => ada.post(`${path}/trial`).send(body);
const answer = async () => (await ada.get(`${path}/trial`).expect(200)).body as TrialAnswer;
const roundAt = async (when: string) => {
  stage.clock.set(at(when));
  await runDueRounds(stage.services);
  await stage.dispatcher.drain();
};
const draws = () => unguarded(stage.orm).find(TrialDrawRow, {}, { orderBy: { place: 'asc' } });

describe('a fair trial', () => {
  test('is refused for one text, and says why', async () => {
    expect((await answer()).plan.refused).toContain('two texts or more');
    expect((await start().expect(400)).body.problems[0].message).toContain('two texts or more');
    await start({ points: 15 }).expect(400);
  });

  test('draws a text for each student in blocks, from a seed that is kept, and it stays theirs', async () => {
    await twoTexts();
    await start().expect(201);
    await roundAt('2026-09-05T09:30');
    expect(smtp.mails).toHaveLength(MANY);
    const { seed } = await unguarded(stage.orm).findOneOrFail(TrialRow, { id: 1 });
    const drawn = await draws();
    expect(drawn.map((d) => d.text)).toEqual(drawTexts(`${seed} 1`, 2, MANY));
    expect(drawn.map((d) => d.place)).toEqual(drawn.map((_, i) => i));
    const textOf = new Map(drawn.map((d) => [`${d.student}@saltmarsh.example`, d.text]));
    for (const { to, mail } of smtp.mails) expect(mail.subject).toBe([TEXTS, OTHER][textOf.get(to[0]!)!]!.subject);
    // s0 comes, and is away again: their second nudge has the same text, though another would be its turn.
    stage.clock.set(at('2026-09-06T12:00'));
    await stage.tell([visit('s0', '2026-09-06T10:00')]);
    await roundAt('2026-09-12T09:30');
    expect(await draws()).toHaveLength(MANY);
    const again = smtp.mails.filter((m) => m.to[0] === 's0@saltmarsh.example').map((m) => m.mail.subject);
    expect(again).toHaveLength(2);
    expect(new Set(again).size).toBe(1);
  });

  test('counts who came back and whose two weeks are over; a look in between is an interim one', async () => {
    await twoTexts();
    await start().expect(201);
    await roundAt('2026-09-05T09:30');
    stage.clock.set(at('2026-09-08T12:00'));
    await stage.tell([visit('s0', '2026-09-06T10:00'), visit('s1', '2026-09-07T10:00')]);
    const early = (await answer()).trial!;
    expect(early).toMatchObject({ standing: 'interim', courses: ['NAV 120 Coastal Navigation'], points: 20 });
    expect(early.texts.reduce((n, t) => n + t.of, 0)).toBe(2);
    expect(early.open.reduce((a, b) => a + b)).toBe(MANY - 2);
    stage.clock.set(at('2026-09-20T12:00'));
    const later = (await answer()).trial!;
    expect(later.texts.reduce((n, t) => n + t.of, 0)).toBe(MANY);
    expect(later.texts.reduce((n, t) => n + t.count, 0)).toBe(2);
    expect(later.pairs[0]!.differ).toBe(false);
    expect(later.standing).toBe('interim');
    await ada.post(`${path}/trial/end`).expect(204);
    expect((await answer()).trial).toMatchObject({ standing: 'done' });
    await ada.post(`${path}/trial/end`).expect(404);
  });

  test('holds its texts still while it runs; name and files may change', async () => {
    await twoTexts();
    await start().expect(201);
    const changed = { ...WORDING, variants: [{ ...OTHER, text: 'Other words' }] };
    expect((await ada.put(path).send({ wording: changed, version: 2 }).expect(409)).body.code).toBe('trialRuns');
    expect((await start().expect(409)).body.code).toBe('trialRuns');
    await ada
      .put(path)
      .send({ wording: { ...WORDING, name: 'Kind' }, version: 2 })
      .expect(200);
    await ada.post(`${path}/trial/end`).expect(204);
    await ada.put(path).send({ wording: changed, version: 3 }).expect(200);
  });

  test('spans the courses whose wording has the same texts, each with draws of its own', async () => {
    await twoTexts();
    const second = await unguarded(stage.orm).transactional(async (em) => {
      const tokenHash = 'of another course';
      const guards = { askAbove: 1, staleHours: null };
      const id = await insertCourse(asTx(em), { ...COURSE, code: 'MET 115' }, { sender: SENDER, tokenHash, guards });
      await insertWording(asTx(em), id, { ...WORDING, name: 'As there' });
      em.create(Access, { account: 1, course: id, role: 'owner' });
      return id;
    });
    expect((await answer()).plan.courses.map((c) => c.id)).toEqual([1, second]);
    await start({ points: 30, courses: [second] }).expect(201);
    expect(await unguarded(stage.orm).count(TrialCourseRow)).toBe(2);
    expect((await answer()).trial!.courses).toEqual(['NAV 120 Coastal Navigation', 'MET 115 Coastal Navigation']);
    // Somebody who works in one of them alone does not learn what the other is.
    const em = unguarded(stage.orm);
    await em.nativeDelete(Access, { course: second });
    expect((await answer()).trial!.courses).toEqual(['NAV 120 Coastal Navigation', 'another course']);
  });

  test('of two processes that draw the same place one stands, and the other is judged again', async () => {
    await twoTexts();
    await start().expect(201);
    const em = unguarded(stage.orm);
    const draw = (student: string) =>
      openTrials(em, 1, ['gentle'], [student]).then((t) => t.get('gentle')!.textOf(student, 2)!.draw!);
    const [a, b] = [await draw('s0'), await draw('s1')];
    expect(a.place).toBe(b.place);
    await writeDraws(asTx(em), [{ ...a, course: 1, student: 's0' }], 0);
    const stands = await writeDraws(asTx(em), [{ ...b, course: 1, student: 's1' }], 0);
    expect(stands({ ...b, student: 's1' })).toBe(false);
    await roundAt('2026-09-05T09:30');
    expect(await em.fork().count(MessageRow, { state: 'sent' })).toBe(MANY);
    expect((await draws()).map((d) => d.place)).toEqual(Array.from({ length: MANY }, (_, i) => i));
  });
});
