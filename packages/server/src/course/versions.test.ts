// Runs on PostgreSQL too.
/** What a change of a course makes old, and what it leaves as it is. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { openStage, type Agent, type TestStage } from '../testing/stage.ts';
import { inCourse } from './lock.ts';
import { CourseRow } from './entity.ts';
import { unguarded, freely } from '../testing/unguarded.ts';

let stage: TestStage;
let ada: Agent;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-21T09:00' });
  ada = await stage.signIn();
});
afterEach(() => stage.close());

const course = async () =>
  (await ada.get('/api/v1/courses/1').expect(200)).body as {
    version: number;
    settingsVersion: number;
    people: { id: string; email: string | null; role: string }[];
    settings: object;
    breaks: readonly object[];
    marks: Readonly<Record<string, number>>;
    guards: object;
    sender: object;
  };
const live = () => stage.services.live.get(unguarded(stage.orm), 1);
const edit = (body: object) => ada.post('/api/v1/courses/1/edit').send(body).expect(200);

async function limits(change: (limits: { breaks: object[]; marks: Record<string, number> }) => object) {
  const { settings, breaks, marks, guards, settingsVersion: version } = await course();
  const changed = { settings, breaks, marks, guards, ...change({ breaks: [...breaks], marks: { ...marks } }) };
  return ada.put('/api/v1/courses/1/limits').send({ limits: changed, version });
}

describe('what was computed of a class', () => {
  test('stays when a student’s address changes, and the course has the new one', async () => {
    const before = await live();
    const line = before.facts.timeline(1, { measure: 'daysSinceVisit' });
    const [, student] = before.course.people;
    await edit({ people: [{ id: student!.id, set: { email: 'new@saltmarsh.example' } }] });
    const after = await live();
    expect(after.course.people[1]!.email).toBe('new@saltmarsh.example');
    expect(after.facts.course).toBe(after.course);
    expect(after.facts.timeline(1, { measure: 'daysSinceVisit' })).toBe(line);
    expect(before.facts.course.people[1]!.email).toBe(student!.email);
  });

  test('stays when the budget changes, and goes when a break does', async () => {
    const line = (await live()).facts.timeline(1, { measure: 'daysSinceVisit' });
    await limits(() => ({ settings: { quietHours: null, budget: { count: 1, days: 7, strict: false } } }));
    const budgeted = await live();
    expect(budgeted.facts.course.settings.budget).toEqual({ count: 1, days: 7, strict: false });
    expect(budgeted.facts.timeline(1, { measure: 'daysSinceVisit' })).toBe(line);
    const answer = await limits(({ breaks }) => ({ breaks: [...breaks, { from: '2026-10-12', to: '2026-10-13' }] }));
    expect(answer.status).toBe(204);
    expect((await live()).facts.timeline(1, { measure: 'daysSinceVisit' })).not.toBe(line);
  });

  test('goes when a student leaves', async () => {
    const before = await live();
    const student = before.course.people.findLast((p) => p.role === 'student')!;
    await edit({ people: [{ id: student.id, set: { active: false } }] });
    expect((await live()).facts.students()).toHaveLength(before.facts.students().length - 1);
  });
});

describe('a dialog that shows settings', () => {
  test('is not old because a student changed their address, and is when somebody saved limits', async () => {
    const { sender, settingsVersion: version, people } = await course();
    const student = people.find((p) => p.role === 'student')!;
    await edit({ people: [{ id: student.id, set: { email: 'other@saltmarsh.example' } }] });
    const save = () => ada.put('/api/v1/courses/1/sender').send({ sender, version });
    expect((await save()).status).toBe(204);
    expect((await save()).body).toMatchObject({ code: 'changedMeanwhile' });
    expect((await limits(({ marks }) => ({ marks: { ...marks, pass: 60 } }))).status).toBe(204);
    expect((await course()).settingsVersion).toBe(version + 2);
  });
});

test('who has a course to themselves reads it as it is then, and another waits', async () => {
  const order: string[] = [];
  let go!: () => void;
  const first = inCourse(stage.orm, 1, async (em, row) => {
    order.push(`first ${row.title}`);
    await new Promise<void>((resolve) => (go = resolve));
    await freely(em).nativeUpdate(CourseRow, { id: 1 }, { title: 'Renamed' });
  });
  while (go === undefined) await new Promise(setImmediate);
  const second = inCourse(stage.orm, 1, (_, row) => {
    order.push(`second ${row.title}`);
    return Promise.resolve();
  });
  go();
  await Promise.all([first, second]);
  expect([order[0]?.startsWith('first'), order[1]]).toEqual([true, 'second Renamed']);
  await expect(inCourse(stage.orm, 99, () => Promise.resolve())).rejects.toMatchObject({ code: 'notFound' });
});
