// Runs on PostgreSQL too.
/** Rows are written only by who holds what they belong to; what the types cannot see is checked when a row is written. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { Account, accountHolds } from '../../access/entity.ts';
import { alsoAccount, inAccount } from '../../access/holding.ts';
import { AsideRow, asideHolds, CourseRow, courseHolds, PersonRow, personHolds } from '../../course/entity.ts';
import { alsoCourse, inCourse, inCourses } from '../../course/lock.ts';
import { insertCourse } from '../../testing/insertCourse.ts';
import { COURSE, openStage, SENDER, type TestStage } from '../../testing/stage.ts';
import { unguarded } from '../../testing/unguarded.ts';
import { rowsOf, select } from './query.ts';
import { inTransaction } from './transaction.ts';
import { insertRow, insertRows, removeRows, updateRow, updateRows, upsertRow } from './writing.ts';

let stage: TestStage;
let other: number;
beforeAll(async () => {
  stage = await openStage({ now: '2026-09-21T09:00' });
  other = await insertCourse(unguarded(stage.orm), { ...COURSE, code: 'NAV 121' }, { sender: SENDER });
});
afterAll(() => stage.close());

const aside = (course: number, student: string) => ({
  course,
  student,
  until: 1,
  note: '',
  setBy: 'account:1',
  setAt: 1,
});
const NOT_HELD = /without holding what it belongs to/;

test('a row of the course that is held is written, and one of another course is not', async () => {
  await inCourse(stage.orm, 1, async (tx) => {
    const row = await insertRow(tx, asideHolds, aside(1, 'p1') as never);
    await updateRow(tx, asideHolds, row, { note: 'called' });
    await expect(insertRow(tx, asideHolds, aside(other, 'p1') as never)).rejects.toThrow(NOT_HELD);
    await expect(insertRows(tx, asideHolds, [aside(other, 'p2') as never])).rejects.toThrow(NOT_HELD);
    await expect(updateRows(tx, courseHolds, { id: other }, { title: 'T' })).rejects.toThrow(NOT_HELD);
    await expect(removeRows(tx, personHolds, { course: other })).rejects.toThrow(NOT_HELD);
    await expect(upsertRow(tx, asideHolds, aside(other, 'p1') as never)).rejects.toThrow(NOT_HELD);
  });
  const kept = await unguarded(stage.orm).find(AsideRow, {});
  expect(kept.map(({ course, student, note }) => ({ course, student, note }))).toEqual([
    { course: 1, student: 'p1', note: 'called' },
  ]);
});

test('several courses are held in the order of their ids, and each is written', async () => {
  await inCourses(stage.orm, [other, 1, other], async (tx, of) => {
    expect([of(1).id, of(other).id]).toEqual([1, other]);
    for (const id of [1, other]) await updateRows(tx, courseHolds, { id }, { title: `Course ${id}` });
  });
  const titles = (await unguarded(stage.orm).find(CourseRow, {}, { orderBy: { id: 'asc' } })).map((c) => c.title);
  expect(titles).toEqual(['Course 1', `Course ${other}`]);
});

test('what is held ends with its transaction', async () => {
  await inCourse(stage.orm, 1, () => Promise.resolve());
  await inCourse(stage.orm, other, async (tx) => {
    await expect(updateRows(tx, courseHolds, { id: 1 }, { title: 'T' })).rejects.toThrow(NOT_HELD);
  });
});

test('an account is held as a course is, and both together', async () => {
  const [ada, bo] = await unguarded(stage.orm).find(Account, {}, { orderBy: { id: 'asc' } });
  await inAccount(stage.orm, ada!.id, async (tx, account) => {
    await updateRow(tx, accountHolds, account, { name: 'Ada L.' });
    await expect(updateRows(tx, accountHolds, { id: bo!.id }, { name: 'B' })).rejects.toThrow(NOT_HELD);
    await alsoCourse(tx, 1, (held) => updateRows(held, courseHolds, { id: 1 }, { title: 'T' }));
  });
  expect((await unguarded(stage.orm).findOneOrFail(Account, { id: ada!.id })).name).toBe('Ada L.');
});

test('what is not there cannot be held', async () => {
  await expect(inCourse(stage.orm, 999, () => Promise.resolve())).rejects.toThrow(/does not exist/);
  const nobody = inTransaction(stage.orm, (tx) => alsoAccount(tx, 999, () => Promise.resolve()));
  await expect(nobody).rejects.toThrow(/does not exist/);
});

test('what reads refuses a statement that writes', async () => {
  const em = unguarded(stage.orm);
  const query = em.getKnex()('aside').insert({ course: 1 }).returning('id');
  await expect(rowsOf(em, query)).rejects.toThrow('This statement does not only read: insert into');
  await expect(rowsOf(em, em.getKnex()('aside').where({ course: 1 }).delete())).rejects.toThrow('does not only read');
});

test('columns of a table are read by the names and types of its entity', async () => {
  const em = unguarded(stage.orm);
  const people = await select(em, personHolds, ['key', 'active', 'fields', 'bouncedAt'], (query) =>
    query.where('course', 1).orderBy('id').limit(2),
  );
  const rows = await em.find(PersonRow, { course: 1 }, { orderBy: { id: 'asc' }, limit: 2 });
  expect(people).toEqual(rows.map(({ key, active, fields, bouncedAt }) => ({ key, active, fields, bouncedAt })));
});
