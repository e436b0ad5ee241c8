import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { makeCourse } from '@zest-bell/core/course';
import { unpackColumn } from '@zest-bell/core/measures';
import { leavesOf } from '@zest-bell/core/conditions';
import { reach, SentFacts, type LimitLog } from '@zest-bell/core/rounds';
import { STARTERS } from '@zest-bell/core/starters';
import type {
  CourseAnswer,
  PastRoundAnswer,
  PastRoundLine,
  RuleCard,
  RuleChange,
  RuleVersionAnswer,
  StarterAnswer,
} from '@zest-bell/core/exchange';
import { CourseRow } from '../../course/entity.ts';
import { NudgeRow } from '../../mail/nudges/entity.ts';
import { AttemptRow } from '../../mail/nudges/attempt.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { at, COURSE, openStage, ruleOf, visit, type Agent, type TestStage } from '../../testing/stage.ts';
import { WordingRow } from '../../wording/entity.ts';
import { RuleRow } from '../../rules/entity.ts';
import { unguarded, freely } from '../../testing/unguarded.ts';

let stage: TestStage;
let ada: Agent;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-07T08:00' });
  ada = await stage.signIn();
  await stage.tell([visit('p1', '2026-09-06T10:00'), visit('p2', '2026-09-01T14:03')]);
});
afterEach(() => stage.close());
const rules = '/api/v1/courses/1/rules';
const switchTo = (status: string, ...versions: [string, number][]) =>
  ada.post(`${rules}/status`).send({ status, rules: versions.map(([rule, version]) => ({ rule, version })) });
const draft = (more: Record<string, unknown> = {}) => ({ ...ruleOf(), spellsFrom: null, ...more });

test('the list says each rule’s sentence, its rounds, and what it sent', async () => {
  const [card] = (await ada.get(rules).expect(200)).body;
  expect(card).toMatchObject({
    sentence:
      'Look every day at 9:30 AM, Aug 31 to Dec 18, for students who have not visited the course for 5 days, and nudge each of them once each time.',
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
    await switchTo('paused', ['away', 1]).expect(200);
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
    const save = await ada.put('/api/v1/courses/1/wordings/gentle').send({ wording, version: 1 }).expect(422);
    expect(save.body).toMatchObject({
      code: 'wordingBroken',
      problems: [
        { path: 'text', message: 'There is no merge field “student.fist_name”; did you mean “student.first_name”?' },
      ],
    });
    const preview = await ada
      .post('/api/v1/courses/1/wordings/preview')
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
    expect(res.body.nudges[0].messages[0].message).toMatchObject({
      subject: 'A quiet week in Coastal Navigation',
      text: 'P2,\n\nit has been 5 days.\n\nA. Lind',
    });
    const em = unguarded(stage.orm);
    expect([await em.count(NudgeRow), await em.count(AttemptRow)]).toEqual([0, 0]);
  });
});

test('[C5] the browser gets values and limit facts, never the course’s history, and comes to the same decision', async () => {
  const rule = ruleOf();
  const moment = at('2026-09-07T09:30');
  const column = (call: object) =>
    ada
      .get('/api/v1/courses/1/columns')
      .query({ call: JSON.stringify(call), at: moment })
      .buffer(true)
      .parse(bytesOf as never);
  const sent = await column({ measure: 'daysSinceVisit' }).expect(200);
  const logged = (await ada.get(`${rules}/limit-log`).query({ rule: 'away', at: moment }).expect(200)).body as LimitLog;
  const course = (await ada.get('/api/v1/courses/1').expect(200)).body as CourseAnswer;
  const facts = new SentFacts(makeCourse(course), [unpackColumn(sent.body as Buffer)!]);
  expect(facts.has(leavesOf(rule.when))).toBe(true);
  expect(reach(rule, facts, logged, moment).decisions.map((d) => d.student)).toEqual(['p2', 'p3']);
  const unknown = await ada.get('/api/v1/courses/1/columns').query({ call: '{"measure":"opens","item":"q9"}', at: 0 });
  expect(unknown.body.problems).toMatchObject([{ path: 'call.item', code: 'notInCourse' }]);
});

test('a measure is not sent again until something of the course has changed', async () => {
  const ask = () => ada.get('/api/v1/courses/1/columns').query({ call: '{"measure":"visits"}', at: 1 });
  const first = await ask().expect(200);
  const tag = first.headers['etag'] as string;
  await ask().set('if-none-match', tag).expect(304);
  await stage.tell([visit('p3', '2026-09-07T07:00')]);
  await ask().set('if-none-match', tag).expect(200);
});

test('limits of a rule being composed count its own nudges, and what the budget may count of others', async () => {
  await freely(stage.orm.em.fork()).nativeUpdate(
    CourseRow,
    { id: 1 },
    { version: 2, settings: { quietHours: null, budget: { count: 1, days: 2 } } },
  );
  const em = unguarded(stage.orm);
  const nudge = (rule: string, day: string, student = 'p1') => ({
    course: 1,
    idempotencyKey: `${rule} ${day}`,
    rule,
    ruleVersion: 1,
    student,
    roundAt: at(`${day}T09:30`),
    step: 0,
    spellStart: 0,
    state: 'sent' as const,
    toStudent: true,
    wording: 'gentle',
    evidence: [],
  });
  await em.insertMany(NudgeRow, [
    nudge('away', '2026-09-01'),
    nudge('other', '2026-09-01'),
    nudge('other', '2026-09-06'),
  ]);
  const asked = await ada
    .get(`${rules}/limit-log`)
    .query({ rule: 'away', at: at('2026-09-07T08:00') })
    .expect(200);
  expect((asked.body as LimitLog).nudges.map((n) => [n.rule, n.round])).toEqual([
    ['away', at('2026-09-01T09:30')],
    ['other', at('2026-09-06T09:30')],
  ]);
});

function bytesOf(res: NodeJS.ReadableStream, done: (error: Error | null, body: Buffer) => void): void {
  const parts: Buffer[] = [];
  res.on('data', (part: Buffer) => parts.push(part));
  res.on('end', () => done(null, Buffer.concat(parts)));
}

describe('the list', () => {
  const create = async (name: string) =>
    (
      await ada
        .post(rules)
        .send({ rule: draft({ name }) })
        .expect(201)
    ).body as RuleCard;
  const list = async () => (await ada.get(rules).expect(200)).body as RuleCard[];

  test('keeps the order that rules are given, in which they decide', async () => {
    const [b, c] = [await create('B'), await create('C')];
    await ada
      .post(`${rules}/order`)
      .send({ rules: [c.rule.id, 'away'] })
      .expect(200);
    expect((await list()).map((r) => r.rule.name)).toEqual(['C', 'Away', 'B']);
    const twice = { rules: [b.rule.id, b.rule.id] };
    await ada.post(`${rules}/order`).send(twice).expect(404);
  });

  test('turns several on or off at once, all of them or none', async () => {
    const b = await create('B');
    const both = await switchTo('on', ['away', 1], [b.rule.id, 1]).expect(200);
    expect(both.body.map((c: RuleChange) => [c.rule.rule.name, c.before])).toEqual([
      ['Away', 'on'],
      ['B', 'draft'],
    ]);
    await switchTo('paused', ['away', 2], [b.rule.id, 99]).expect(409);
    expect((await list()).map((r) => r.rule.status)).toEqual(['on', 'on']);
  });

  test('puts a rule away, paused, and takes it out as it was', async () => {
    const away = await ada.post(`${rules}/away/archive`).send({ version: 1 }).expect(200);
    expect(away.body).toMatchObject({ before: 'on', rule: { rule: { status: 'paused' }, nextRoundAt: null } });
    expect((await list())[0]!.archivedAt).toBe(at('2026-09-07T08:00'));
    expect((await switchTo('on', ['away', 2]).expect(409)).body.code).toBe('ruleArchived');
    const back = await ada.post(`${rules}/away/unarchive`).send({ version: 2, status: 'on' }).expect(200);
    expect(back.body.rule).toMatchObject({ archivedAt: null, nextRoundAt: at('2026-09-07T09:30') });
  });
});

describe('a rule that would reach more of the class than passes without a question', () => {
  beforeEach(async () => {
    const em = unguarded(stage.orm);
    await em.nativeUpdate(CourseRow, { id: 1 }, { guards: { askAbove: 0.5, staleHours: null } });
    await em.nativeUpdate(RuleRow, { key: 'away' }, { document: { ...draft(), status: 'paused' }, status: 'paused' });
  });

  test('is turned on, changed and rung with a yes alone', async () => {
    // p2 and p3 are away at the next round: two of three.
    const refused = await switchTo('on', ['away', 1]).expect(409);
    expect(refused.body).toMatchObject({
      code: 'reachesMany',
      problems: [
        { message: '“Away” would write to 2 of 3 students; more than 50% of the class needs your confirmation' },
      ],
    });
    const yes = { status: 'on', rules: [{ rule: 'away', version: 1 }], confirmed: true };
    await ada.post(`${rules}/status`).send(yes).expect(200);
    const wider = { rule: draft({ name: 'Wider' }), version: 2 };
    expect((await ada.put(`${rules}/away`).send(wider).expect(409)).body.code).toBe('reachesMany');
    await ada
      .put(`${rules}/away`)
      .send({ ...wider, confirmed: true })
      .expect(200);
    expect((await ada.post(`${rules}/away/ring`).expect(409)).body.code).toBe('reachesMany');
    expect((await ada.post(`${rules}/away/ring`).send({ confirmed: true }).expect(200)).body.round.heard).toBe(2);
  });

  test('[R2] can be turned on for those who start to match from now on', async () => {
    const now = { status: 'on', rules: [{ rule: 'away', version: 1 }], newSpellsOnly: true };
    const [change] = (await ada.post(`${rules}/status`).send(now).expect(200)).body as RuleChange[];
    expect(change!.rule.rule.spellsFrom).toBe(at('2026-09-07T08:00'));
    stage.clock.set(at('2026-09-07T09:30'));
    await runDueRounds(stage.services);
    expect(await unguarded(stage.orm).count(NudgeRow)).toBe(0);
  });
});

describe('what a rule was and did', () => {
  test('every version with who saved it and when', async () => {
    stage.clock.set(at('2026-09-07T08:30'));
    await ada
      .put(`${rules}/away`)
      .send({ rule: draft({ name: 'Gone' }), version: 1 })
      .expect(200);
    const versions = (await ada.get(`${rules}/away/versions`).expect(200)).body as RuleVersionAnswer[];
    expect(versions.map((v) => [v.version, v.by, v.savedAt, v.rule.name])).toEqual([
      [2, 'Ada Lind', at('2026-09-07T08:30'), 'Gone'],
      [1, 'Ada Lind', at('2026-09-07T08:00'), 'Away'],
    ]);
  });

  test('every past round with all it decided', async () => {
    for (const day of [7, 8]) {
      stage.clock.set(at(`2026-09-0${day}T09:30`));
      await runDueRounds(stage.services);
    }
    const rounds = (await ada.get(`${rules}/away/rounds`).expect(200)).body as PastRoundLine[];
    expect(rounds.map((r) => [r.at, r.heard, r.withheld])).toEqual([
      [at('2026-09-08T09:30'), 0, 2],
      [at('2026-09-07T09:30'), 2, 0],
    ]);
    const past = async (i: number) =>
      (await ada.get(`${rules}/away/rounds/${rounds[i]!.id}`).expect(200)).body as PastRoundAnswer;
    expect((await past(1)).nudges.map((n) => [n.student, n.state])).toEqual([
      ['p2', 'queued'],
      ['p3', 'queued'],
    ]);
    // Both messages are still on their way at the second round.
    expect((await past(0)).withheld.map((w) => [w.student, w.reason])).toEqual([
      ['p2', 'pending'],
      ['p3', 'pending'],
    ]);
    await ada.get(`${rules}/away/rounds/99`).expect(404);
  });
});

describe('starters', () => {
  test('say how many they would match here now, or what the course lacks', async () => {
    const starters = (await ada.get(`${rules}/starters`).expect(200)).body as StarterAnswer[];
    expect(starters).toHaveLength(STARTERS.length);
    expect(starters.find((s) => s.id === 'away')).toMatchObject({ matching: 2, needs: null });
    expect(starters.find((s) => s.id === 'practice')).toMatchObject({ sentence: null, needs: 'practice items' });
  });

  test('bring the words that the course does not have, and leave those that it has', async () => {
    const built = STARTERS.find((s) => s.id === 'away')!.build(makeCourse(COURSE), stage.clock.now());
    if (!built.ok) throw new Error(built.needs);
    const make = () =>
      ada
        .post(rules)
        .send({ rule: { ...built.rule, spellsFrom: null }, starter: 'away' })
        .expect(201);
    await make();
    const em = unguarded(stage.orm);
    await em.nativeUpdate(WordingRow, { key: 'away-first' }, { subject: 'My own' });
    await make();
    const rows = await em.find(WordingRow, {}, { refresh: true });
    expect(rows.map((w) => w.key)).toEqual(['gentle', 'away-first', 'away-firm']);
    expect(rows[1]!.subject).toBe('My own');
  });
});

test('[R10] what a rule would have done so far is a replay from its first day, with nothing beside it', async () => {
  stage.clock.set(at('2026-09-09T12:00'));
  const res = await ada.post(`${rules}/past`).send({ rule: draft() }).expect(200);
  // p1 and p3 on Sep 5, p2 on Sep 7; p1 came back on Sep 6.
  expect(res.body).toMatchObject({ rounds: 10, nudges: 3, students: 3, busiest: 2, from: at('2026-08-31T09:30') });
});
