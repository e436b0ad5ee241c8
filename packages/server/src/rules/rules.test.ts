import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { leavesOf, makeCourse, reach, SentFacts, type CourseAnswer, type ReachFacts } from '@zest-bell/core';
import { NudgeRow } from '../nudges/entity.ts';
import { AttemptRow } from '../sendLog/entity.ts';
import { at, openStage, ruleOf, visit, type Agent, type TestStage } from '../testing/stage.ts';

let stage: TestStage;
let ada: Agent;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-07T08:00' });
  ada = await stage.signIn();
  await stage.tell([visit('p1', '2026-09-06T10:00'), visit('p2', '2026-09-01T14:03')]);
});
afterEach(() => stage.close());
const rules = '/api/courses/1/rules';
const draft = (more: Record<string, unknown> = {}) => ({ ...ruleOf(), spellsFrom: null, ...more });

test('the list says each rule’s sentence, its rounds, and what it sent', async () => {
  const [card] = (await ada.get(rules).expect(200)).body;
  expect(card).toMatchObject({
    sentence:
      'Look every day at 9:30 AM, Aug 31 to Dec 18, for students who have not visited the course for 5 days, and nudge each of them once per spell.',
    nextRoundAt: at('2026-09-07T09:30'),
    lastRound: null,
    sentInAll: 0,
    version: 1,
  });
});

describe('changing a rule', () => {
  test('makes a new version, and moves its next round', async () => {
    const rule = draft({ rhythm: { start: '2026-08-31T11:00', rrule: 'FREQ=DAILY', skipBreaks: false } });
    const res = await ada.put(`${rules}/away`).send({ rule, version: 1 }).expect(200);
    expect(res.body.rule).toMatchObject({ version: 2, nextRoundAt: at('2026-09-07T11:00') });
  });

  test('of which somebody else has saved a newer version is refused, and nothing is lost', async () => {
    await ada
      .put(`${rules}/away`)
      .send({ rule: draft({ name: 'First' }), version: 1 })
      .expect(200);
    const res = await ada
      .put(`${rules}/away`)
      .send({ rule: draft({ name: 'Second' }), version: 1 })
      .expect(409);
    expect(res.body.code).toBe('changedMeanwhile');
    expect((await stage.rule()).document).toMatchObject({ name: 'First' });
  });

  test('names every problem at its field', async () => {
    const rule = draft({
      name: ' ',
      when: { all: [{ measure: 'score', item: 'q9', is: '<=', value: 50 }] },
      rhythm: { start: '2026-09-08', rrule: 'FREQ=DAILY;COUNT=3', skipBreaks: false },
    });
    const res = await ada.put(`${rules}/away`).send({ rule, version: 1 }).expect(400);
    const paths = res.body.problems.map((p: { path: string }) => p.path);
    expect(paths).toEqual(['rule.name', 'rule.rhythm.start', 'rule.rhythm.rrule']);
    const unknown = await ada
      .put(`${rules}/away`)
      .send({ rule: draft({ when: rule['when'] }), version: 1 })
      .expect(400);
    expect(unknown.body.problems).toMatchObject([{ path: 'rule.when.all[0].item', code: 'notInCourse' }]);
  });

  test('cannot turn it on by the way: that is a switch of its own', async () => {
    await ada.post(`${rules}/away/status`).send({ status: 'paused', version: 1 }).expect(200);
    const res = await ada
      .put(`${rules}/away`)
      .send({ rule: draft({ status: 'on' }), version: 2 })
      .expect(200);
    expect(res.body.rule.rule.status).toBe('paused');
    expect(res.body.rule.nextRoundAt).toBeNull();
  });
});

test('a copy is off until it is turned on', async () => {
  const res = await ada
    .post(rules)
    .send({ rule: draft({ name: 'Copy' }) })
    .expect(201);
  expect(res.body.rule).toMatchObject({ name: 'Copy', status: 'draft' });
  expect(res.body.nextRoundAt).toBeNull();
});

describe('a wording that cannot be rendered is a problem before anything is sent', () => {
  test('an unknown field is named, with the one that was probably meant', async () => {
    const wording = {
      id: 'gentle',
      name: 'Gentle',
      purpose: 'support',
      subject: 'Hello',
      text: 'Dear {{ student.fist_name }}',
    };
    const save = await ada.put('/api/courses/1/wordings/gentle').send({ wording, version: 1 }).expect(422);
    expect(save.body).toMatchObject({
      code: 'wordingBroken',
      problems: [
        { path: 'text', message: 'There is no merge field “student.fist_name”; did you mean “student.first_name”?' },
      ],
    });
    const preview = await ada
      .post('/api/courses/1/wordings/preview')
      .send({ wording, student: 'p1', when: null })
      .expect(422);
    expect(preview.body.code).toBe('wordingBroken');
  });

  test('a rule whose wording does not exist can be neither saved, rehearsed nor turned on', async () => {
    const rule = draft({ steps: [{ after: { days: 0 }, deliver: 'send', to: ['student'], wording: 'lost' }] });
    for (const call of [
      ada.put(`${rules}/away`).send({ rule, version: 1 }),
      ada.post(`${rules}/rehearse`).send({ rule }),
      ada.post(rules).send({ rule }),
    ]) {
      expect((await call.expect(422)).body.problems[0].path).toBe('rule.steps[0].wording.wording');
    }
  });
});

describe('[R10] a rehearsal', () => {
  test('is the round itself with no effect: who would get what, rendered, and who is withheld', async () => {
    const res = await ada
      .post(`${rules}/rehearse`)
      .send({ rule: draft(), at: at('2026-09-07T09:30') })
      .expect(200);
    expect(res.body.matching).toBe(2);
    expect(res.body.nudges.map((n: { decision: { student: string } }) => n.decision.student)).toEqual(['p2', 'p3']);
    expect(res.body.nudges[0].message).toMatchObject({
      subject: 'A quiet week in Coastal Navigation',
      text: 'P2,\n\nit has been 5 days.\n\nA. Lind',
    });
    const em = stage.orm.em.fork();
    expect([await em.count(NudgeRow), await em.count(AttemptRow)]).toEqual([0, 0]);
  });
});

test('[C5] the browser gets values and limit facts, never the course’s history, and comes to the same decision', async () => {
  const rule = ruleOf();
  const body = { conditions: leavesOf(rule.when), at: at('2026-09-07T09:30') };
  const facts = (await ada.post(`${rules}/reach`).send(body).expect(200)).body as ReachFacts;
  const course = (await ada.get('/api/courses/1').expect(200)).body as CourseAnswer;
  expect(Object.keys(facts)).toEqual(['at', 'calls', 'nudges']);
  const live = reach(rule, new SentFacts(makeCourse(course), facts), facts.nudges, facts.at);
  expect(live.decisions.map((d) => d.student)).toEqual(['p2', 'p3']);
  const unknown = await ada
    .post(`${rules}/reach`)
    .send({ conditions: [{ measure: 'opens', item: 'q9', is: 'equals', value: 0 }] })
    .expect(400);
  expect(unknown.body.problems[0]).toMatchObject({ path: 'conditions[0].item', code: 'notInCourse' });
});
