/** Signs, groups and thresholds over the real routes. What is counted is tested in the core; here, who may ask, and what comes back. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { GroupMessages, HindsightAnswer, SignsAnswer, ThresholdHint } from '@zest-bell/core/exchange';
import type { SignStudent } from '@zest-bell/core/outcomes';
import type { CourseAnswer } from '@zest-bell/core/exchange';
import { Access } from '../../access/entity.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { at, COURSE, linesOf, openStage, SENDER, type Agent, type TestStage } from '../../testing/stage.ts';
import { unguarded } from '../../testing/unguarded.ts';
import { insertCourse } from '../../testing/insertCourse.ts';

let stage: TestStage;
let ada: Agent;
const FAILS = { measure: 'courseGrade', is: '<', value: 60 };
const BY = at('2026-09-28T00:00');
const student = (i: number, more: object = {}) => ({
  ...COURSE.people[0]!,
  id: `s${i}`,
  firstName: `S${i}`,
  email: `s${i}@saltmarsh.example`,
  section: i % 2 === 0 ? '01' : '02',
  ...more,
});
const people = [...Array.from({ length: 12 }, (_, i) => student(i)), COURSE.people[3]!];
const lab = {
  ...COURSE.items[0]!,
  id: 'lab',
  title: 'Lab',
  kind: 'assignment' as const,
  dueAt: at('2026-09-10T23:59'),
};
const exam = { ...COURSE.items[0]!, id: 'exam', title: 'Exam', dueAt: at('2026-10-05T12:00') };
const instant = (t: string) => new Date(at(t)).toISOString();

/** Six fail; five of them never did the lab, nor did anybody who passes. */
const tellTerm = async () => {
  const done = people
    .slice(5, 12)
    .map((p) => ({ id: `${p.id}-lab`, person: p.id, kind: 'submit', item: 'lab', at: instant('2026-09-09T10:00') }));
  const grades = people
    .slice(0, 12)
    .map((p, i) => ({
      id: `${p.id}-exam`,
      person: p.id,
      item: 'exam',
      points: i < 6 ? 5 : 18,
      at: instant('2026-10-06T10:00'),
    }));
  expect((await stage.tell(done, grades)).status).toBe(200);
};
beforeEach(async () => {
  stage = await openStage({ now: '2026-10-12T12:00', course: { people, items: [lab, exam] } });
  ada = await stage.signIn();
  await tellTerm();
});
afterEach(() => stage.close());

const ask = (more: object = {}) =>
  ada.post('/api/v1/courses/1/replay/signs').send({ outcome: FAILS, at: at('2026-10-12T12:00'), by: BY, ...more });

describe('signs of a course', () => {
  test('come with their honest counts, and their students with what they go by', async () => {
    const { answer } = await linesOf<SignsAnswer>(ask());
    expect(answer).toMatchObject({ worried: 6, well: 6, tooFew: false, by: BY, with: [] });
    const [first] = answer.signs;
    expect(first!.honest).toEqual({ found: 5, missed: 1, needless: 0, leftAlone: 6 });
    const { body } = await ada
      .post('/api/v1/courses/1/replay/signs/students')
      .send({ outcome: FAILS, at: at('2026-10-12T12:00'), by: BY, when: first!.condition })
      .expect(200);
    const cells = (body as SignStudent[]).map((s) => s.cell);
    expect(cells.filter((c) => c === 'found')).toHaveLength(5);
    expect(cells.filter((c) => c === 'missed')).toHaveLength(1);
  });

  test('are not read after the outcome, and of nothing that the course does not have', async () => {
    const late = await ask({ by: at('2026-10-13T12:00') }).expect(400);
    expect(late.body).toMatchObject({ problems: [{ path: 'by' }] });
    const gone = await ask({ outcome: { measure: 'score', item: 'q9', is: '<', value: 60 } }).expect(400);
    expect(gone.body).toMatchObject({ problems: [{ path: 'outcome.item' }] });
  });

  test('may be counted with another course of one’s own, and with nobody else’s', async () => {
    const other = await inTransaction(stage.orm, (tx) =>
      insertCourse(
        tx,
        { ...COURSE, code: 'NAV 121', people: people.map((p) => ({ ...p })), items: [lab, exam] },
        { sender: SENDER, guards: { askAbove: 1, staleHours: null } },
      ),
    );
    await ask({ with: [other] }).expect(404);
    const em = unguarded(stage.orm);
    em.create(Access, { account: 1, course: other, role: 'owner' });
    await em.flush();
    const { answer } = await linesOf<SignsAnswer>(ask({ with: [other] }));
    // Nothing was graded there: of nobody it is known how it turned out.
    expect(answer).toMatchObject({ worried: 6, well: 6, with: [{ course: other, students: 12 }] });
  });

  test('begin with whom the course worries about, once somebody kept that', async () => {
    const worry = { measure: 'missing', is: '>=', value: 1 };
    const read = async () => ((await ada.get('/api/v1/courses/1').expect(200)).body as CourseAnswer).worry;
    expect(await read()).toEqual(FAILS);
    await ada.put('/api/v1/courses/1/worry').send({ outcome: worry }).expect(204);
    expect(await read()).toEqual(worry);
    const assistant = await stage.colleague('assistant');
    await assistant.put('/api/v1/courses/1/worry').send({ outcome: FAILS }).expect(403);
  });
});

test('a threshold says what it would have found two weeks ago of those one worries about now', async () => {
  const hint = async (when: object, values = [1, 2]) =>
    (await ada.post('/api/v1/courses/1/replay/threshold').send({ when, values }).expect(200)).body as ThresholdHint;
  const told = await hint({ measure: 'missing', is: '>=', value: 1 });
  expect(told).toMatchObject({ worried: 6, well: 6 });
  expect(told.values).toEqual([
    { value: 1, found: 5, needless: 0 },
    { value: 2, found: 0, needless: 0 },
  ]);
  await ada.put('/api/v1/courses/1/worry').send({ outcome: { measure: 'courseGrade', is: '<', value: 5 } });
  expect(await hint({ measure: 'missing', is: '>=', value: 1 })).toBeNull();
  const both = { all: [{ measure: 'missing', is: '>=', value: 1 }] };
  await ada
    .post('/api/v1/courses/1/replay/threshold')
    .send({ when: both, values: [1] })
    .expect(400);
});

test('[S8] hindsight within each section, and who of each was sent what', async () => {
  const order = { rule: 'away', outcome: FAILS, at: at('2026-10-12T12:00'), by: { of: 'section' } };
  const { answer } = await linesOf<HindsightAnswer>(ada.post('/api/v1/courses/1/replay/hindsight').send(order));
  expect(answer.groups!.groups.map((g) => [g.group, g.shareFound?.of])).toEqual([
    ['01', 3],
    ['02', 3],
  ]);
  const messages = await ada
    .post('/api/v1/courses/1/replay/messages')
    .send({ by: { of: 'section' } })
    .expect(200);
  expect(messages.body as GroupMessages[]).toMatchObject([
    { group: '01', students: 6, got: { praise: 0, firm: 0 } },
    { group: '02', students: 6 },
  ]);
  const none = await ada
    .post('/api/v1/courses/1/replay/messages')
    .send({ by: { of: 'field', name: 'hall' } })
    .expect(400);
  expect(none.body).toMatchObject({ problems: [{ path: 'by.name' }] });
});
