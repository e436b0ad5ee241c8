/** A simulated campus feeds a course through open standards, while its faults are switched on and off. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { HOUR, MINUTE } from '@zest-bell/core/time';
import { makeCourse, type Item } from '@zest-bell/core/course';
import {
  Campus,
  DEMO_COURSES,
  openPlatform,
  SEED,
  sendByStandards,
  uuidOf,
  type ClassRoster,
  type PlatformFault,
  type LearningPlatform,
} from '@zest-bell/standins';
import { EventRow, GradeRow } from '../course/activity/entity.ts';
import { ItemRow, PersonRow } from '../course/entity.ts';
import { StatementRow } from '../intake/statements/entity.ts';
import { at, openStage, TOKEN, type TestStage } from '../testing/stage.ts';
import { SourceRow } from './entity.ts';
import { addPlatform, platformSchema } from './lti/platforms.ts';
import { addSource, pull } from './sources.ts';
import { unguarded } from '../testing/unguarded.ts';

/** The busiest hour of a week: before a class and in it. */
const BEGIN = '2026-10-07T09:50';
const FROM = at(BEGIN);
const STEP = 5 * MINUTE;
const [played] = DEMO_COURSES;
const course = makeCourse(played!.parts);
const campus = new Campus(course, { seed: SEED, habits: played!.habits, never: played!.never, letters: () => [] });
/** With an address each: two sources know one person by it. */
const EVERYBODY = course.people.map((p) => ({ ...p, email: p.email ?? `${p.id}@saltmarsh.example` }));
const STAFF = course.people.filter((p) => p.role !== 'student');

let platform: LearningPlatform;
let stages: TestStage[];
let servers: Server[];
let now: number;
beforeEach(async () => {
  stages = [];
  servers = [];
  now = FROM;
});
afterEach(async () => {
  for (const server of servers) await new Promise<void>((closed) => server.close(() => closed()));
  for (const stage of stages) await stage.close();
  await platform.close();
});

let toldAt: { readonly now: number; readonly told: ClassRoster } | null = null;
/** What the services tell now; worked out once an instant. */
function told(): ClassRoster {
  if (toldAt?.now !== now) toldAt = { now, told: tellNow() };
  return toldAt.told;
}

const tellNow = (): ClassRoster => {
  const { grades } = campus.activity(course.calendar.start, now);
  const latest = new Map(grades.map((g) => [`${g.person} ${g.item}`, g]));
  return {
    code: course.code,
    title: course.title,
    people: EVERYBODY,
    items: course.items,
    grades: [...latest.values()],
  };
};

/** A course of a server that begins with nobody but its staff, and is fed by both services and what the campus sends. */
async function fed(items: readonly Item[] = []) {
  let tool = '';
  platform = await openPlatform({ tool: () => tool, classes: () => new Map([['nav', told()]]), slowness: 5 });
  platform.state.page = 30;
  const stage = await openStage({ now: BEGIN, course: { ...played!.parts, people: STAFF, items } });
  stages.push(stage);
  const server = createServer(stage.app);
  servers.push(server);
  await new Promise<void>((ready) => server.listen(0, '127.0.0.1', () => ready()));
  tool = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const { roster, registration } = platform;
  const oneRoster = await addSource(stage.services, { ...roster, kind: 'oneroster' as const, course: 1, class: 'nav' });
  const registered = await addPlatform(stage.services, platformSchema.parse(registration));
  const em = unguarded(stage.orm);
  const lti = em.create(SourceRow, {
    course: 1,
    kind: 'lti' as const,
    secret: null,
    addedAt: 0,
    nextAt: 0,
    settings: { ...platform.servicesOf('nav'), platform: registered, deployment: 'd1', context: 'nav' },
  });
  await em.flush();
  const line = () => ({
    caliper: `${tool}/caliper/1`,
    xapi: `${tool}/xapi/1/statements`,
    token: TOKEN,
    places: { base: platform.base, context: 'nav', items: course.items },
    faults: platform.state.switched,
  });
  return {
    stage,
    pullBoth: async () => {
      const pulled = [await pull(stage.services, oneRoster), await pull(stage.services, lti.id)];
      return pulled.map((p) => p.trouble?.code ?? null);
    },
    step: async (until: number) => {
      await sendByStandards(line(), campus.activity(now, until), until);
      now = until;
      stage.clock.set(until);
    },
  };
}

async function historyOf({ orm }: TestStage) {
  const em = unguarded(orm);
  const facts = await em.find(EventRow, {}, { orderBy: { at: 'asc', person: 'asc', kind: 'asc', item: 'asc' } });
  const grades = await em.find(GradeRow, {}, { orderBy: { person: 'asc', item: 'asc', at: 'asc' } });
  const people = await em.find(PersonRow, {}, { orderBy: { key: 'asc' } });
  const items = await em.find(ItemRow, {}, { orderBy: { key: 'asc' } });
  return {
    events: facts.map((e) => [e.person, e.kind, e.item, e.at]),
    grades: grades.map((g) => [g.person, g.item, Number(g.points)]),
    people: people.map((p) => [p.key, p.firstName, p.email, p.active]),
    items: items.map((i) => [i.key, i.title, i.points]),
    waiting: await em.count(StatementRow, { state: 'waiting' }),
  };
}

/** Plays the hour: with the faults that `faultsAt` has switched on at each step. */
async function playHour(faultsAt: (step: number) => readonly PlatformFault[]) {
  now = FROM;
  const { stage, pullBoth, step } = await fed(course.items);
  const troubles: (string | null)[] = [];
  for (let n = 0; n * STEP < HOUR; n++) {
    platform.state.switched = new Set(faultsAt(n));
    if (n % 2 === 0) troubles.push(...(await pullBoth()));
    await step(FROM + (n + 1) * STEP);
  }
  platform.state.switched = new Set();
  expect(await pullBoth()).toEqual([null, null]);
  const history = await historyOf(stage);
  await platform.close();
  return { history, troubles };
}

test('an hour with faults switched on and off ends with the same history as without', async () => {
  const calm = await playHour(() => []);
  expect(calm.troubles.every((t) => t === null)).toBe(true);
  expect(calm.history.events.length).toBeGreaterThan(30);
  expect(calm.history.grades.length).toBeGreaterThan(20);
  expect(calm.history.people).toHaveLength(course.people.length);
  const EACH: readonly (readonly PlatformFault[])[] = [
    ['serverError'],
    ['halfPage'],
    ['unauthorized', 'slow'],
    ['slow'],
    ['unauthorized'],
  ];
  const faulty = await playHour((n) => EACH[n % EACH.length]!);
  expect(new Set(faulty.troubles)).toEqual(new Set(['serverError', 'unauthorized', 'unreachable', null]));
  expect(faulty.history).toEqual(calm.history);
  expect(faulty.history.waiting).toBe(0);
}, 120_000);

test('what a platform sends before it has told of people and items waits, and is taken once they are known', async () => {
  const { stage, pullBoth, step } = await fed();
  await step(FROM + HOUR);
  const before = await historyOf(stage);
  expect(before.events).toEqual([]);
  expect(before.waiting).toBeGreaterThan(30);
  expect(await pullBoth()).toEqual([null, null]);
  const after = await historyOf(stage);
  expect(after.events.length).toBeGreaterThan(5);
  // Pages and discussions are no line items: no service tells of them, and somebody may yet choose what they are.
  const left = await unguarded(stage.orm).find(StatementRow, { state: 'waiting' });
  expect(new Set(left.map((s) => s.about))).toEqual(new Set(['item']));
});

test('what is told twice has one id, as its standards want it (RFC 9562, 5.5: version 5, variant 10)', () => {
  expect(uuidOf('n1-quiz-1-done')).toBe(uuidOf('n1-quiz-1-done'));
  expect(uuidOf('n1-quiz-1-done')).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-5[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
});

test('what both services tell once more is the same: nobody and nothing counts as changed', async () => {
  const { stage, pullBoth } = await fed(course.items);
  await pullBoth();
  const cards = async () =>
    (await unguarded(stage.orm).find(SourceRow, {}, { orderBy: { id: 'asc' } })).map((s) => s.last);
  await pullBoth();
  for (const last of await cards())
    expect(last).toMatchObject({
      people: { new: 0, changed: 0, gone: 0 },
      items: { new: 0, changed: 0, gone: 0 },
      grades: { new: 0, changed: 0 },
    });
});

test('a day that is told again, from another address too, changes nothing and keeps nothing back', async () => {
  const { stage, pullBoth, step } = await fed(course.items);
  await pullBoth();
  await step(FROM + HOUR);
  const before = await historyOf(stage);
  const base = `http://127.0.0.1:${(servers[0]!.address() as AddressInfo).port}`;
  await sendByStandards(
    {
      caliper: `${base}/caliper/1`,
      xapi: `${base}/xapi/1/statements`,
      token: TOKEN,
      faults: new Set<PlatformFault>(),
      places: { base: 'https://elsewhere.example', context: 'nav', items: course.items },
    },
    campus.activity(FROM, FROM + HOUR + STEP),
    FROM + HOUR + STEP,
  );
  const after = await historyOf(stage);
  const fresh = campus.activity(FROM + HOUR, FROM + HOUR + STEP).events.length;
  expect(after.events).toHaveLength(before.events.length + fresh);
});
