// Runs on PostgreSQL too.
/** The shelf: who puts what there, what courses take of it, and what is refused. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { makeCourse } from '@zest-bell/core/course';
import type { RuleCard, ShelfAnswer, ShelfLook } from '@zest-bell/core/exchange';
import { Access, Account } from '../../access/entity.ts';
import { asTx } from '../../testing/asTx.ts';
import { insertCourse } from '../../testing/insertCourse.ts';
import { COURSE, openStage, SENDER, type Agent, type TestStage } from '../../testing/stage.ts';
import { unguarded } from '../../testing/unguarded.ts';
import { RuleRow } from '../../rules/entity.ts';
import { WordingRow } from '../../wording/entity.ts';
import { ShelfVersionRow } from './entity.ts';

let stage: TestStage;
let ada: Agent;
/** An administrator without a part in any course but the second. */
let bo: Agent;

beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
  const em = unguarded(stage.orm);
  const boId = (await em.findOneOrFail(Account, { email: 'bo@saltmarsh.example' })).id;
  const course = makeCourse({ ...COURSE, code: 'MET 115', title: 'Weather', start: '2026-09-07', end: '2026-12-18' });
  const id = await insertCourse(asTx(em), course, {
    sender: SENDER,
    tokenHash: 'x',
    guards: { askAbove: 1, staleHours: null },
  });
  em.create(Access, { account: boId, course: id, role: 'owner' });
  await em.flush();
  await em.nativeUpdate(Account, { id: 1 }, { isAdministrator: true });
  ada = await stage.signIn();
  bo = await stage.signIn('bo@saltmarsh.example');
});
afterEach(() => stage.close());

const AWAY = { kind: 'rule', key: 'away' };
const put = (agent: Agent, body: object = {}) =>
  agent.post('/api/v1/courses/1/shelf').send({ ...AWAY, note: 'For the first weeks', ...body });
const shelf = async (agent: Agent, course: number) =>
  (await agent.get(`/api/v1/courses/${course}/shelf`).expect(200)).body as ShelfAnswer;
const codeOf = (res: { body: unknown }) => (res.body as { code: string }).code;

describe('a rule of one course', () => {
  test('stands in every other with its note, its sentence and its count, and is taken as a draft of its own', async () => {
    const { body } = await put(ada).expect(201);
    expect(body).toEqual({ id: 1, version: 1 });
    const there = await shelf(bo, 2);
    expect(there).toMatchObject({ college: 'your institution', mayKeep: false, copies: [] });
    expect(there.items).toMatchObject([
      { id: 1, kind: 'rule', name: 'Away', note: 'For the first weeks', by: 'Ada Lind', version: 1, needs: null },
    ]);
    const taken = (await bo.post('/api/v1/courses/2/shelf/1/take').send({}).expect(201)).body as object;
    expect(taken).toEqual({ kind: 'rule', key: 'away' });
    const [card] = (await bo.get('/api/v1/courses/2/rules').expect(200)).body as RuleCard[];
    expect(card!.rule).toMatchObject({ name: 'Away', status: 'draft', steps: [{ wording: 'gentle' }] });
    const wording = await unguarded(stage.orm).findOneOrFail(WordingRow, { course: 2, key: 'gentle' });
    expect(wording.subject).toBe('A quiet week in {{ course.title }}');
    // A second one has an id of its own, and uses the same text.
    expect((await bo.post('/api/v1/courses/2/shelf/1/take').send({}).expect(201)).body).toEqual({
      kind: 'rule',
      key: 'away-2',
    });
    expect(await unguarded(stage.orm).count(WordingRow, { course: 2 })).toBe(1);
  });

  test('in a new version changes no copy: the course is told, and says that it has looked', async () => {
    await put(ada).expect(201);
    await bo.post('/api/v1/courses/2/shelf/1/take').send({}).expect(201);
    await unguarded(stage.orm).nativeUpdate(
      RuleRow,
      { course: 1 },
      { document: { ...(await stage.rule()).document, name: 'Quiet week' } },
    );
    expect((await put(ada, { item: 1, note: 'Gentler' }).expect(201)).body).toEqual({ id: 1, version: 2 });
    const told = await shelf(bo, 2);
    expect(told.items).toMatchObject([
      { name: 'Quiet week', version: 2, versions: [{ note: 'Gentler' }, { note: 'For the first weeks' }] },
    ]);
    expect(told.copies).toEqual([{ kind: 'rule', key: 'away', item: 1, version: 1 }]);
    const [card] = (await bo.get('/api/v1/courses/2/rules').expect(200)).body as RuleCard[];
    expect(card!.rule.name).toBe('Away');
    await bo.post('/api/v1/courses/2/shelf/1/seen').send(AWAY).expect(204);
    expect((await shelf(bo, 2)).copies[0]!.version).toBe(2);
  });

  test('that is retired is no longer offered, and stays where it was taken', async () => {
    await put(ada).expect(201);
    await bo.post('/api/v1/courses/2/shelf/1/take').send({}).expect(201);
    await bo.post('/api/v1/shelf/1/retire').send({ isRetired: true }).expect(403);
    await ada.post('/api/v1/shelf/1/retire').send({ isRetired: true }).expect(204);
    await bo.post('/api/v1/courses/2/shelf/1/take').send({}).expect(404);
    const there = await shelf(bo, 2);
    expect([there.items[0]!.isRetired, there.copies.length]).toEqual([true, 1]);
    expect((await bo.get('/api/v1/courses/2/rules').expect(200)).body).toHaveLength(1);
    await ada.post('/api/v1/shelf/1/retire').send({ isRetired: false }).expect(204);
    await ada.post('/api/v1/shelf/9/retire').send({ isRetired: false }).expect(404);
  });
});

describe('what belongs to a course', () => {
  const write = (body: string) => unguarded(stage.orm).nativeUpdate(WordingRow, { key: 'gentle' }, { body });

  test('is named before, and a person or an address keeps it off the shelf', async () => {
    await write('P1 Lind, write to me@saltmarsh.example about the Tide tables quiz');
    const look = (await ada.post('/api/v1/courses/1/shelf/look').send(AWAY).expect(200)).body as ShelfLook;
    expect(look.words.map((w) => [w.kind, w.found, w.mayStay])).toEqual([
      ['person', 'P1 Lind', false],
      ['address', 'me@saltmarsh.example', false],
      ['item', 'Tide tables quiz', true],
    ]);
    const refused = await put(ada, { keepWords: true }).expect(409);
    expect([codeOf(refused), (refused.body as { problems: unknown[] }).problems.length]).toEqual(['notForShelf', 2]);
    await write('About the Tide tables quiz');
    expect(codeOf(await put(ada).expect(409))).toBe('notForShelf');
    await put(ada, { keepWords: true }).expect(201);
    // The note is looked through as well.
    expect(codeOf(await put(ada, { keepWords: true, note: 'As P2 Lind said' }).expect(409))).toBe('notForShelf');
  });

  test('is not stored: nobody of the course stands in what is kept', async () => {
    await put(ada).expect(201);
    const stored = JSON.stringify(await unguarded(stage.orm).find(ShelfVersionRow, {}));
    for (const person of COURSE.people) expect(stored).not.toContain(person.email);
  });
});

test('administrators name who may put things there; a text alone goes as well', async () => {
  const text = { kind: 'wording', key: 'gentle', note: 'A first word' };
  const own = await stage.colleague('co-instructor', 'cy@saltmarsh.example', 'Cy Vane');
  await own.post('/api/v1/courses/1/shelf').send(text).expect(403);
  const { id } = await unguarded(stage.orm).findOneOrFail(Account, { email: 'cy@saltmarsh.example' });
  const settings = { factorRequired: false, keepMonths: 24, name: 'Saltmarsh College', shelfKeepers: [id] };
  await ada.put('/api/v1/admin/settings').send(settings).expect(204);
  await own.post('/api/v1/courses/1/shelf').send(text).expect(201);
  expect(await shelf(own, 1)).toMatchObject({
    college: 'Saltmarsh College',
    mayKeep: true,
    items: [{ kind: 'wording', name: 'Gentle check-in', sentence: null }],
  });
  expect((await bo.post('/api/v1/courses/2/shelf/1/take').send({}).expect(201)).body).toEqual({
    kind: 'wording',
    key: 'gentle',
  });
});
