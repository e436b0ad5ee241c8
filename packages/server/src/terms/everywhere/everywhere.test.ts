/** Over all of one’s courses: each row with its course, and nothing of anybody else’s. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { makeCourse } from '@zest-bell/core/course';
import type { EveryLogAnswer, EveryLookoutAnswer, EveryRule } from '@zest-bell/core/exchange';
import { NO_VIEW } from '@zest-bell/core/lookout';
import { Access } from '../../access/entity.ts';
import { CourseRow } from '../../course/entity.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { insertRule } from '../../rules/repository.ts';
import { WordingRow } from '../../wording/entity.ts';
import { asTx } from '../../testing/asTx.ts';
import { at, COURSE, openStage, ruleOf, SENDER, visit, type Agent, type TestStage } from '../../testing/stage.ts';
import { unguarded, freely } from '../../testing/unguarded.ts';
import { insertCourse } from '../../testing/insertCourse.ts';

let stage: TestStage;
let ada: Agent;

beforeEach(async () => {
  stage = await openStage({ now: '2026-09-09T12:00' });
  const em = asTx(unguarded(stage.orm));
  const { account } = await em.findOneOrFail(Access, { course: 1 });
  const items = [{ ...COURSE.items[0]!, id: 'other', title: 'Something else' }];
  const course = makeCourse({ ...COURSE, code: 'NAV 121', items, people: COURSE.people.slice(0, 2) });
  const id = await insertCourse(em, course, {
    sender: SENDER,
    tokenHash: 'x',
    guards: { askAbove: 1, staleHours: null },
  });
  freely(em).create(Access, { account, course: id, role: 'owner' });
  const { course: _c, id: _i, ...wording } = (await em.findOneOrFail(WordingRow, { course: 1 })) as WordingRow & object;
  freely(em).create(WordingRow, { ...wording, course: id });
  await freely(em).flush();
  await insertRule(em, { id, course }, ruleOf({ name: 'Gone quiet' }), account, at('2026-09-01T00:00'));
  await stage.tell([visit('p1', '2026-09-08T10:00')]);
  ada = await stage.signIn();
  stage.clock.set(at('2026-09-10T09:31'));
  await runDueRounds(stage.services);
});
afterEach(() => stage.close());

const log = async (query = '') => (await ada.get(`/api/v1/log${query}`).expect(200)).body as EveryLogAnswer;

test('the rules of all courses, in the order in which each course decides, with their last check; of no others', async () => {
  const rules = async (of: Agent) => (await of.get('/api/v1/rules').expect(200)).body as EveryRule[];
  expect(await rules(ada)).toMatchObject([
    { code: 'NAV 120', id: 'away', name: 'Away', status: 'on', lastRound: { at: at('2026-09-10T09:30') } },
    {
      code: 'NAV 121',
      name: 'Gone quiet',
      status: 'on',
      looksFor: 'have not visited the course for 5 days',
      cannotRun: null,
      tellsOthers: false,
    },
  ]);
  const em = freely(unguarded(stage.orm));
  await em.nativeUpdate(CourseRow, { code: 'NAV 121' }, { archivedAt: 1 });
  expect((await rules(ada)).map((r) => r.code)).toEqual(['NAV 120']);
  await em.nativeDelete(Access, { course: 1 });
  expect(await rules(ada)).toEqual([]);
});

test('the send log of all courses, the latest first, page by page with each line once', async () => {
  const all = await log();
  expect(all.lines.map((l) => [l.code, l.student, l.ruleName]).sort()).toEqual([
    ['NAV 120', 'p2', 'Away'],
    ['NAV 120', 'p3', 'Away'],
    ['NAV 121', 'p1', 'Gone quiet'],
    ['NAV 121', 'p2', 'Gone quiet'],
  ]);
  const order = all.lines.map((l) => l.nudge);
  expect(order).toEqual(order.toSorted((x, y) => y - x));
  expect(all).toMatchObject({ more: false, counts: { all: 4, queued: 4 } });
  const first = await log('?take=3');
  const last = first.lines.at(-1)!;
  const second = await log(`?take=3&beforeAt=${last.at}&beforeNudge=${last.nudge}`);
  expect([...first.lines, ...second.lines].map((l) => l.nudge)).toEqual(all.lines.map((l) => l.nudge));
  expect([first.more, second.more, second.counts]).toEqual([true, false, null]);
  expect((await log('?search=gone')).lines).toHaveLength(2);
});

test('a view is asked of all courses; what one cannot answer is said, and its condition finds nobody there', async () => {
  const ask = async (view: object, search = '') =>
    (await ada.post('/api/v1/courses/1/lookout/everywhere').send({ view, search }).expect(200))
      .body as EveryLookoutAnswer;
  const days = { kind: 'measure', call: { measure: 'daysSinceVisit' } };
  const score = { kind: 'measure', call: { measure: 'score', item: 'q1' } };
  const view = { ...NO_VIEW, columns: [days, score], sort: [] };
  const answer = await ask(view);
  expect(answer).toMatchObject({ shown: 5, students: 5 });
  expect(answer.rows.map((r) => [r.code, r.student, r.values[0]])).toEqual([
    ['NAV 120', 'p1', 1],
    ['NAV 121', 'p1', 10],
    ['NAV 120', 'p2', 10],
    ['NAV 121', 'p2', 10],
    ['NAV 120', 'p3', 10],
  ]);
  expect(answer.courses.map((c) => [c.code, c.without.length])).toEqual([
    ['NAV 120', 0],
    ['NAV 121', 1],
  ]);
  const quiet = await ask({ ...view, when: { measure: 'daysSinceVisit', is: '>=', value: 5 } });
  expect(quiet.rows.map((r) => [r.code, r.student])).toHaveLength(4);
  const low = await ask({ ...view, when: { measure: 'submitted', item: 'q1', is: 'equals', value: false } });
  expect(low.courses.map((c) => [c.code, c.shown])).toEqual([
    ['NAV 120', 3],
    ['NAV 121', 0],
  ]);
  expect((await ask(view, 'p3')).rows).toHaveLength(1);
  await ada
    .post('/api/v1/courses/1/lookout/everywhere')
    .send({ view: { columns: 5 } })
    .expect(400);
});

test('nobody else’s course, and none that is archived', async () => {
  const bo = await stage.signIn('bo@saltmarsh.example');
  expect((await bo.get('/api/v1/log').expect(200)).body).toMatchObject({ lines: [], counts: { all: 0 } });
  await bo.post('/api/v1/courses/1/lookout/everywhere').send({ view: NO_VIEW }).expect(404);
  await unguarded(stage.orm).nativeUpdate(CourseRow, { id: 2 }, { archivedAt: at('2026-09-01T00:00') });
  expect((await log()).lines.map((l) => l.code)).toEqual(['NAV 120', 'NAV 120']);
});
