// Runs on PostgreSQL too.
import { readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { ChangedAnswer, ImportPreview } from '@zest-bell/core/imports';
import { EventRow } from '../../course/activity/entity.ts';
import { openStage, visit, type Agent, type TestStage } from '../../testing/stage.ts';
import { unguarded } from '../../testing/unguarded.ts';
import { removeStaged } from './staging.ts';

let stage: TestStage;
let agent: Agent;
beforeEach(async () => {
  // Every file counts as a large one.
  stage = await openStage({ now: '2026-10-26T08:00', large: 1 });
  agent = await stage.signIn();
});
afterEach(() => stage.close());

const base = '/api/v1/courses/1';
async function bring(text: string): Promise<number> {
  const sent = agent.post(`${base}/imports`).query({ name: 'a.csv' }).set('content-type', 'application/octet-stream');
  return ((await sent.send(Buffer.from(text)).expect(201)).body as { id: number }).id;
}
const take = async (id: number) => (await agent.post(`${base}/imports/${id}/take`).expect(200)).body as ChangedAnswer;
const events = () => unguarded(stage.orm).find(EventRow, { course: 1 }, { orderBy: { id: 'asc' } });
const leftovers = () => readdirSync(stage.folder).filter((name) => name.startsWith('staging-'));

const FILE =
  'person,kind,item,at,event id\n' +
  'p2,open,q1,2026-09-02T10:00:00Z,\np1,visit,,2026-09-01T10:00:00Z,own-1\np2,visit,,2026-09-03T10:00:00Z,\n';

test('a large file is taken whole by a thread, person by person, and can be undone', async () => {
  const { change } = await take(await bring(FILE));
  expect((await events()).map((e) => [e.person, e.kind, e.item, e.at, e.eventId, e.change])).toEqual([
    ['p2', 'open', 'q1', Date.parse('2026-09-02T10:00:00Z'), expect.stringMatching(/^c:p2\nopen\nq1\n\d+$/), change],
    ['p2', 'visit', null, Date.parse('2026-09-03T10:00:00Z'), expect.stringMatching(/^c:p2\nvisit\n\n\d+$/), change],
    ['p1', 'visit', null, Date.parse('2026-09-01T10:00:00Z'), 'own-1', change],
  ]);
  expect(leftovers()).toEqual([]);
  await agent.post(`${base}/changes/${change!}/undo`).expect(200);
  expect(await events()).toEqual([]);
});

test('the same file twice changes nothing, and what it brought is in memory as it is in the rows', async () => {
  await agent.get(`${base}/students/p2`).expect(200);
  await take(await bring(FILE));
  const { facts } = await stage.services.live.get(stage.services.reading.em.fork(), 1);
  expect(facts.history.eventCount).toBe(3);
  expect((await take(await bring(FILE))).change).toBeNull();
});

test('what was told while a file was read is there once', async () => {
  const { files, live, reading } = stage.services;
  const readTo = files.readTo.bind(files);
  files.readTo = async (...order) => {
    await readTo(...order);
    await stage.tell([visit('p2', '2026-09-03T06:00', 'told')]);
  };
  const id = await bring(FILE);
  await take(id).finally(() => (files.readTo = readTo));
  expect((await events()).filter((e) => e.person === 'p2' && e.kind === 'visit')).toHaveLength(1);
  const taken = (await agent.get(`${base}/imports/${id}`).expect(200)).body as ImportPreview;
  expect(taken.counts).toMatchObject({ read: 3, new: 2, same: 1 });
  expect((await live.get(reading.em.fork(), 1)).facts.history.eventCount).toBe(3);
});

test('a file that cannot be read leaves nothing, and the next is taken', async () => {
  const bad = await bring('person,kind,at\np1,visit,"2026-09-01');
  await agent.post(`${base}/imports/${bad}/take`).expect(422);
  expect(leftovers()).toEqual([]);
  await take(await bring(FILE));
  expect(await events()).toHaveLength(3);
});

test('what a process left that died is removed', async () => {
  writeFileSync(join(stage.folder, 'staging-7.db'), '');
  writeFileSync(join(stage.folder, 'staging-plan.txt'), '');
  await removeStaged(stage.folder);
  expect(leftovers()).toEqual(['staging-plan.txt']);
});
