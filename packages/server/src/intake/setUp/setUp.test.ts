// Runs on PostgreSQL too. Covers intake/changes, intake/data.
import { readFileSync } from 'node:fs';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { CourseAnswer, CourseCard, RuleCard } from '@zest-bell/core/exchange';
import type { SetupAnswer } from '@zest-bell/core/imports';
import { at, openStage, type Agent, type TestStage } from '../../testing/stage.ts';

let stage: TestStage;
let agent: Agent;
beforeEach(async () => {
  stage = await openStage({ now: '2026-10-26T08:00' });
  agent = await stage.signIn();
});
afterEach(() => stage.close());

const details = {
  code: 'KNT 101',
  title: 'Knots',
  timeZone: 'America/New_York',
  start: '2026-08-31',
  end: '2026-12-18',
};
const left = async (course: number) => {
  const { body } = await agent.get(`/api/v1/courses/${course}/setup`).expect(200);
  return (body as SetupAnswer).steps.flatMap((s) => (s.done ? [] : [s.step]));
};

test('a new course has its instructor and nothing else, and says what is left to do', async () => {
  const made = await agent.post('/api/v1/courses').send({ details }).expect(201);
  const { id } = made.body as { id: number };
  const course = (await agent.get(`/api/v1/courses/${id}`).expect(200)).body as CourseAnswer;
  expect(course.people.map((p) => [p.firstName, p.role, p.email])).toEqual([
    ['Ada', 'instructor', 'ada@saltmarsh.example'],
  ]);
  expect(course.sender).toMatchObject({ name: 'Ada Lind', replyTo: 'ada@saltmarsh.example' });
  expect(await left(id)).toEqual(['people', 'items', 'activity', 'sender', 'rule']);
  const edit = {
    people: [{ id: 's1', set: { firstName: 'Imani', role: 'student' } }],
    items: [{ id: null, set: { title: 'Bowline' } }],
  };
  await agent.post(`/api/v1/courses/${id}/edit`).send(edit).expect(200);
  expect(await left(id)).toEqual(['activity', 'sender', 'rule']);
  // Nobody else sees it.
  const bo = await stage.signIn('bo@saltmarsh.example');
  expect((await bo.get('/api/v1/courses').expect(200)).body as CourseCard[]).toEqual([]);
  await bo.get(`/api/v1/courses/${id}`).expect(404);
});

test.each<[object, string]>([
  [{ title: ' ' }, 'details.title'],
  [{ start: 'soon' }, 'details.start'],
  [{ end: '2026-08-01' }, 'details.end'],
  [{ end: '2036-08-01' }, 'details.end'],
  [{ timeZone: 'Atlantis/Harbor' }, 'details.timeZone'],
  [{ url: 'ftp://x.example' }, 'details.url'],
])('a course that does not fit names its field: %j', async (set, path) => {
  const { body } = await agent
    .post('/api/v1/courses')
    .send({ details: { ...details, ...set } })
    .expect(400);
  expect((body as { problems: { path: string }[] }).problems.map((p) => p.path)).toContain(path);
});

test('a course from a scenario file has its people, history and rules, the rules as drafts', async () => {
  const scenario = JSON.parse(
    readFileSync(new URL('../../../../../examples/once-a-spell.json', import.meta.url), 'utf8'),
  ) as object;
  const post = (json: object, type = 'application/octet-stream') =>
    agent
      .post('/api/v1/courses/scenario')
      .set('content-type', type)
      .send(type === 'application/json' ? JSON.stringify(json) : Buffer.from(JSON.stringify(json)));
  const made = await post(scenario).expect(201);
  const { id } = made.body as { id: number };
  const rules = (await agent.get(`/api/v1/courses/${id}/rules`).expect(200)).body as RuleCard[];
  expect(rules.map((r) => r.rule.status)).toEqual(rules.map(() => 'draft'));
  expect(rules.length).toBeGreaterThan(0);
  expect(await left(id)).not.toContain('activity');
  await post(scenario, 'application/json').expect(201);
  await post({ ...scenario, people: 'x' }).expect(400);
});

test('a calendar says when items without a due date are due, and nothing is changed by looking', async () => {
  const items = [
    { id: null, set: { title: 'Watch log 1' } },
    { id: null, set: { title: 'Chart lab', dueAt: Date.UTC(2026, 8, 20) } },
  ];
  await agent.post('/api/v1/courses/1/edit').send({ items }).expect(200);
  const event = (title: string, day: string) =>
    `BEGIN:VEVENT\r\nUID:${title}\r\nSUMMARY:${title}\r\nDTSTART;VALUE=DATE:${day}\r\nEND:VEVENT\r\n`;
  const events = [event('Watch log 1 due', '20260914'), event('Chart lab', '20260921'), event('Regatta', '20260926')];
  const look = (text: string, name = 'term.ics') =>
    agent
      .post('/api/v1/courses/1/due-dates/look')
      .query({ name })
      .set('content-type', 'application/octet-stream')
      .send(Buffer.from(text));
  const { body } = await look(`BEGIN:VCALENDAR\r\nVERSION:2.0\r\n${events.join('')}END:VCALENDAR\r\n`).expect(200);
  const read = async () => ((await agent.get('/api/v1/courses/1').expect(200)).body as CourseAnswer).items;
  const log = (await read()).find((i) => i.title === 'Watch log 1')!;
  expect(body).toEqual({ dates: [{ item: log.id, due: at('2026-09-14T23:59') }], others: 1 });
  expect(log.dueAt).toBeNull();
  const refused = await look('ID,Title\n1,Watch log 1\n', 'items.csv').expect(422);
  expect(JSON.stringify(refused.body)).toContain('This file is not a calendar');
});
