// Runs on PostgreSQL too.
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { ChangedAnswer, StudentFactsAnswer } from '@zest-bell/core/imports';
import { CourseRow } from '../../course/entity.ts';
import { rowsOf } from './query.ts';
import { openStage, type Agent, type TestStage } from '../../testing/stage.ts';
import { visitsOfListsToLastVisits, type Execute } from './lastVisits.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
let ada: Agent;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-21T10:00' });
  ada = await stage.signIn();
});
afterEach(() => stage.close());

const IMPORTS = '/api/v1/courses/1/imports';

/** Takes a file, and returns its change. */
async function bring(name: string, text: string): Promise<number | null> {
  const sent = ada.post(IMPORTS).query({ name }).set('content-type', 'application/octet-stream');
  const { id } = (await sent.send(Buffer.from(text)).expect(201)).body as { id: number };
  return ((await ada.post(`${IMPORTS}/${id}/take`).expect(200)).body as ChangedAnswer).change;
}
const retractions = async () => (await unguarded(stage.orm).findOneOrFail(CourseRow, { id: 1 })).retractions;

const LIST = 'id,last access,last login\np1,2026-09-14 10:00,2026-09-15 08:00\np2,2026-09-16 11:00,\n';

const execute: Execute = (sql, values) => unguarded(stage.orm).getConnection().execute(sql, values);

interface EventChange {
  readonly event_id: string;
  readonly person: string;
  readonly kind: string;
  readonly change: number | null;
}
const rows = (table: 'activity_event' | 'retracted'): Promise<EventChange[]> => {
  const em = unguarded(stage.orm);
  return rowsOf<EventChange>(em, em.getKnex()(table).select('*').orderBy('event_id'));
};

/** As 0.19 kept what such a list brought. */
async function asBefore(table: 'activity_event' | 'retracted'): Promise<void> {
  for (const [now, before] of [
    ['lastVisit', 'visit'],
    ['lastSignIn', 'signIn'],
  ] as const)
    await execute(`update ${table} set kind = ?, event_id = replace(event_id, ?, ?) where kind = ?`, [
      before,
      `\n${now}\n`,
      `\n${before}\n`,
      now,
    ]);
}

test('visits of a list become last visits with the ids of today, and those of a platform stay', async () => {
  await stage.tell([{ id: 'v', person: 'p1', kind: 'visit', at: '2026-09-10T10:00:00-04:00' }]);
  const change = await bring('last.csv', LIST);
  const after = await rows('activity_event');
  await asBefore('activity_event');
  const before = await retractions();

  await visitsOfListsToLastVisits(execute);

  expect(await rows('activity_event')).toEqual(after);
  expect(after.map((r) => [r.person, r.kind, r.change]).sort()).toEqual([
    ['p1', 'lastSignIn', change],
    ['p1', 'lastVisit', change],
    ['p1', 'visit', null],
    ['p2', 'lastVisit', change],
  ]);
  expect(await retractions()).toBe(before + 1);
  // A second time there is nothing left to do.
  await visitsOfListsToLastVisits(execute);
  expect(await retractions()).toBe(before + 1);
});

test('what was taken back stays taken back, under its new kind', async () => {
  await bring('last.csv', LIST);
  const facts = (await ada.get('/api/v1/courses/1/students/p2/facts').expect(200)).body as StudentFactsAnswer;
  await ada
    .post('/api/v1/courses/1/students/p2/retract')
    .send({ events: facts.events, grades: [], reason: 'Wrong list' })
    .expect(200);
  const after = await rows('retracted');
  await asBefore('retracted');

  await visitsOfListsToLastVisits(execute);

  expect(await rows('retracted')).toEqual(after);
  expect(after).toMatchObject([{ person: 'p2', kind: 'lastVisit' }]);
  await bring('again.csv', LIST);
  expect((await rows('activity_event')).filter((r) => r.person === 'p2')).toEqual([]);
});

test('an id too long to be written out is the digest that a list of today makes', async () => {
  const id = `p-${'x'.repeat(170)}`;
  await bring('roster.csv', `id,first name,last name,role,email\n${id},Long,Id,student,long@x.example\n`);
  await bring('last.csv', `id,last access\n${id},2026-09-14 10:00\n`);
  const [after] = await rows('activity_event');
  expect(after!.event_id).toHaveLength(2 + 43);
  await execute("update activity_event set kind = 'visit', event_id = 'c:before'");
  await visitsOfListsToLastVisits(execute);
  expect(await rows('activity_event')).toEqual([after]);
});
