/** Envelopes of Caliper against the real route. The examples of events are typed from memory of the published standard. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import request from 'supertest';
import type { WaitingGroup } from '@zest-bell/core/imports';
import { EventRow, GradeRow } from '../../course/activity/entity.ts';
import { CourseRow } from '../../course/entity.ts';
import { StatementRow } from './entity.ts';
import { goOn } from '../../privacy/erase.ts';
import { COURSE, openStage, TOKEN, visit, type Agent, type TestStage } from '../../testing/stage.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
let ada: Agent;
const CONTEXT = 'http://purl.imsglobal.org/ctx/caliper/v1p2';
const SITE = 'https://example.edu';
beforeEach(async () => {
  const short = { ...COURSE.people[0]!, id: 'ko', firstName: 'Kei', lastName: 'Ono', email: 'ko@saltmarsh.example' };
  stage = await openStage({ now: '2026-10-26T08:00', course: { people: [...COURSE.people, short] } });
  ada = await stage.signIn();
  await unguarded(stage.orm).nativeUpdate(CourseRow, { id: 1 }, { url: `${SITE}/courses/7` });
});
afterEach(() => stage.close());

let n = 0;
const event = (type: string, action: string, object: object | string, more: object = {}) => ({
  '@context': CONTEXT,
  id: `urn:uuid:3a648e68-f00d-4c08-aa59-${String(++n).padStart(12, '0')}`,
  type,
  action,
  object,
  actor: { id: `${SITE}/users/p1`, type: 'Person' },
  eventTime: '2026-10-20T10:15:00.000Z',
  ...more,
});
const QUIZ = { id: `${SITE}/courses/7/assess/q1`, type: 'Assessment', name: 'Tide tables quiz' };
const envelope = (data: object[], dataVersion = CONTEXT) => ({
  sensor: `${SITE}/sensors/1`,
  sendTime: '2026-10-20T10:16:00.000Z',
  dataVersion,
  data,
});
const send = (body: object | string, token: string | null = TOKEN, type = 'application/json') => {
  const asked = request(stage.app).post('/caliper/1').set('content-type', type);
  return (token === null ? asked : asked.set('authorization', `Bearer ${token}`)).send(body);
};
const events = async () =>
  (await unguarded(stage.orm).find(EventRow, {}, { orderBy: { id: 'asc' } })).map((e) => [
    e.person,
    e.kind,
    e.item ?? null,
  ]);

describe('an envelope', () => {
  test('of what students do becomes events, each once, and the rest is left', async () => {
    const data = [
      event('SessionEvent', 'LoggedIn', { id: `${SITE}`, type: 'SoftwareApplication' }),
      event('NavigationEvent', 'NavigatedTo', { id: `${SITE}/courses/7`, type: 'CourseSection' }),
      event('ViewEvent', 'Viewed', QUIZ),
      event('AssessmentEvent', 'Submitted', QUIZ, { eventTime: '2026-10-20T11:00:00.123Z' }),
      event('MessageEvent', 'Posted', {
        id: `${SITE}/messages/4`,
        type: 'Message',
        isPartOf: { id: `${SITE}/threads/1`, type: 'Thread', isPartOf: { id: QUIZ.id, type: 'Forum' } },
      }),
      event('ToolUseEvent', 'Used', { id: `${SITE}/tool`, type: 'SoftwareApplication' }),
      { id: `${SITE}/users/p1`, type: 'Person', dateCreated: '2026-08-01T06:00:00.000Z' },
    ];
    await send(envelope(data)).expect(202);
    expect(await events()).toEqual([
      ['p1', 'signIn', null],
      ['p1', 'visit', null],
      ['p1', 'open', 'q1'],
      ['p1', 'submit', 'q1'],
      ['p1', 'post', 'q1'],
    ]);
    await send(envelope(data)).expect(202);
    expect(await events()).toHaveLength(5);
    // Statements of the other standard are read without them.
    const capabilities = ['course.read'];
    const { secret } = (await ada.post('/api/v1/courses/1/tokens').send({ name: 'reads', capabilities }).expect(201))
      .body as { secret: string };
    const read = await request(stage.app)
      .get('/xapi/1/statements')
      .set('X-Experience-API-Version', '2.0.0')
      .auth('any', secret)
      .expect(200);
    expect(read.body).toMatchObject({ statements: [] });
  });

  test('of a grade is a grade of whose attempt it is, in the points of its item', async () => {
    const attempt = {
      id: `${SITE}/attempts/1`,
      type: 'Attempt',
      assignee: { id: 'mailto:p2@saltmarsh.example' },
      assignable: QUIZ,
    };
    const generated = { id: `${SITE}/scores/1`, type: 'Score', maxScore: 15, scoreGiven: 10.5 };
    const graded = event('GradeEvent', 'Graded', attempt, {
      generated,
      actor: { id: `${SITE}/autograder`, type: 'SoftwareApplication' },
    });
    await send(envelope([graded], 'http://purl.imsglobal.org/ctx/caliper/v1p1')).expect(202);
    const [grade] = await unguarded(stage.orm).find(GradeRow, {});
    expect([grade!.person, grade!.item, Number(grade!.points)]).toEqual(['p2', 'q1', 14]);
  });

  test('that names nobody waits for a choice, which is remembered', async () => {
    const stranger = { actor: { id: `${SITE}/users/554433`, type: 'Person' } };
    await send(envelope([event('SessionEvent', 'LoggedIn', SITE, stranger)])).expect(202);
    const waiting = (await ada.get('/api/v1/courses/1/statements/waiting').expect(200)).body as WaitingGroup[];
    expect(waiting).toMatchObject([{ about: 'person', said: `${SITE}/users/554433`, count: 1 }]);
    const meanings = { people: { [`${SITE}/users/554433`]: 'p3' }, items: {} };
    expect((await ada.put('/api/v1/courses/1/data/meanings').send(meanings).expect(200)).body).toEqual({ taken: 1 });
    await send(
      envelope([event('SessionEvent', 'LoggedIn', SITE, { ...stranger, eventTime: '2026-10-21T10:00:00Z' })]),
    ).expect(202);
    expect(await events()).toEqual([
      ['p3', 'signIn', null],
      ['p3', 'signIn', null],
    ]);
  });

  test('tells of one fact what another source told before: it is one fact', async () => {
    await stage.tell([{ ...visit('p1', '2026-10-20T06:15'), kind: 'signIn' }]);
    await send(envelope([event('SessionEvent', 'LoggedIn', SITE)])).expect(202);
    expect(await events()).toHaveLength(1);
  });

  test('of a student who is erased is gone with them, however short their id is', async () => {
    const of = (id: string) => ({ actor: { id: `${SITE}/users/${id}`, type: 'Person' } });
    const chosen = { people: { [`${SITE}/users/Kei.O`]: 'ko' }, items: {} };
    await ada.put('/api/v1/courses/1/data/meanings').send(chosen).expect(200);
    const events = ['ko', 'Kei.O', 'kos', 'p1'].map((id) => event('SessionEvent', 'LoggedIn', SITE, of(id)));
    await send(envelope(events)).expect(202);
    await ada.post('/api/v1/courses/1/students/ko/erase').send({ student: 'ko' }).expect(200);
    await goOn(stage.services);
    const left = await unguarded(stage.orm).find(StatementRow, {}, { orderBy: { id: 'asc' } });
    expect(left.map((s) => s.actor)).toEqual([`${SITE}/users/kos`, `${SITE}/users/p1`]);
  });

  test('is all or nothing, of its own type and version, and wants the token of its course', async () => {
    const good = event('SessionEvent', 'LoggedIn', SITE);
    const refused = await send(envelope([good, { ...good, id: 'urn:uuid:x', eventTime: 'yesterday' }])).expect(400);
    expect((refused.body as { error: string }).error).toMatch(/^data\[1\]\.eventTime: /);
    await send({ ...envelope([good]), sensor: undefined }).expect(400);
    await send(envelope([good], 'http://purl.imsglobal.org/ctx/caliper/v1p0')).expect(422);
    await send('x', TOKEN, 'text/plain').expect(415);
    await send('{', TOKEN).expect(400);
    expect((await send(envelope([good]), null).expect(401)).headers['www-authenticate']).toMatch(/^Bearer/);
    await send(envelope([good]), 'other').expect(401);
    await request(stage.app)
      .post('/caliper/2')
      .set('authorization', `Bearer ${TOKEN}`)
      .send(envelope([good]))
      .expect(401);
    expect(await events()).toEqual([]);
  });

  test('means what the course says that it means', async () => {
    const meanings = {
      people: {},
      items: {},
      verbs: { 'ToolUseEvent Used': 'visit', 'SessionEvent LoggedIn': 'nothing' },
    };
    await ada.put('/api/v1/courses/1/data/meanings').send(meanings).expect(200);
    await send(envelope([event('ToolUseEvent', 'Used', SITE), event('SessionEvent', 'LoggedIn', SITE)])).expect(202);
    expect(await events()).toEqual([['p1', 'visit', null]]);
  });
});
