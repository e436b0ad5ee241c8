// Runs on PostgreSQL too.
/** Two people who edit one thing at a time: nothing that one of them saved is silently replaced by the other. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { CourseAnswer } from '@zest-bell/core/exchange';
import { openStage, type Agent, type TestStage } from '../../testing/stage.ts';

const COURSE = '/api/v1/courses/1';
let stage: TestStage;
let ada: Agent;
let bo: Agent;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T09:00' });
  ada = await stage.signIn();
  bo = await stage.colleague('co-instructor', 'quist@saltmarsh.example', 'Bo Quist');
});
afterEach(() => stage.close());

const edit = (who: Agent, body: object) => who.post(`${COURSE}/edit`).send(body);
const now = async () => (await ada.get(COURSE).expect(200)).body as CourseAnswer;
const p1 = async () => (await now()).people.find((p) => p.id === 'p1')!;

test('own columns, the excused and breaks of two people are merged', async () => {
  const was = { fields: {}, section: null, lastName: 'Lind' };
  const person = (set: object) => ({ people: [{ id: 'p1', set: { ...was, ...set }, was }] });
  await edit(bo, person({ fields: { Cohort: 'B' }, section: '02' })).expect(200);
  await edit(ada, person({ fields: { Room: '7' }, lastName: 'Okoro' })).expect(200);
  expect(await p1()).toMatchObject({ fields: { Cohort: 'B', Room: '7' }, section: '02', lastName: 'Okoro' });

  const item = (excused: string[]) => ({ items: [{ id: 'q1', set: { excused }, was: { excused: [] } }] });
  await edit(bo, item(['p2'])).expect(200);
  await edit(ada, item(['p1'])).expect(200);
  expect((await now()).items[0]!.excused).toEqual(['p2', 'p1']);

  const [fall, spring] = [
    { from: '2026-10-12', to: '2026-10-13', name: 'Fall' },
    { from: '2026-11-25', to: '2026-11-27', name: 'Rest' },
  ];
  await edit(bo, { breaks: [fall], breaksWere: [] }).expect(200);
  await edit(ada, { breaks: [spring], breaksWere: [] }).expect(200);
  expect((await now()).breaks).toEqual([fall, spring]);
});

test('the same one that both changed is told with who and what, nothing is saved, and it can be put in its place', async () => {
  const body = (cohort: string, was: object) => ({
    people: [{ id: 'p1', set: { fields: { Cohort: cohort }, section: '03' }, was: { fields: was, section: null } }],
  });
  await edit(bo, body('B', {})).expect(200);
  const refused = await edit(ada, body('C', {})).expect(409);
  expect(refused.body).toMatchObject({
    code: 'changedMeanwhile',
    problems: [
      {
        path: 'people[0].fields.Cohort',
        message: 'Bo Quist changed this to “B” in the meantime. Save again to replace it with yours',
      },
    ],
  });
  expect(await p1()).toMatchObject({ fields: { Cohort: 'B' } });
  // Another change of the same student, and of another own column, says nothing of this one.
  await edit(ada, { people: [{ id: 'p1', set: { lastName: 'Okoro', fields: { Cohort: 'B', Room: '7' } } }] }).expect(
    200,
  );
  const told = (await edit(ada, body('C', {})).expect(409)).body as { problems: { message: string }[] };
  expect(told.problems[0]!.message).toMatch(/^Bo Quist /);
  const again = body('C', {}).people[0]!;
  await edit(ada, { people: [{ ...again, seen: { fields: { Cohort: 'A' } } }] }).expect(409);
  await edit(ada, { people: [{ ...again, seen: { fields: { Cohort: 'B' } } }] }).expect(200);
  expect(await p1()).toMatchObject({ fields: { Cohort: 'C' } });

  const rest = { from: '2026-10-12', to: '2026-10-13', name: 'Fall' };
  await edit(bo, { breaks: [rest], breaksWere: [] }).expect(200);
  const clash = await edit(ada, { breaks: [{ ...rest, name: 'Rest' }], breaksWere: [] }).expect(409);
  expect((clash.body as { problems: object[] }).problems).toMatchObject([
    { message: 'Bo Quist changed this to “Fall” in the meantime. Save again to replace it with yours' },
  ]);
});
