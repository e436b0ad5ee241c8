// Runs on PostgreSQL too.
import { appendFileSync, mkdirSync, readdirSync, readFileSync, utimesSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { CourseAnswer, RuleCard, StandingAnswer } from '@zest-bell/core/exchange';
import type { ChangedAnswer, ChangesAnswer, DataAnswer, ImportPreview, UndoAnswer } from '@zest-bell/core/imports';
import { EventRow, GradeRow } from '../../course/activity/entity.ts';
import { CourseRow } from '../../course/entity.ts';
import { at, openStage, ruleOf, visit, type Agent, type TestStage } from '../../testing/stage.ts';
import { ImportBytesRow, ImportRow } from '../changes/importRow.ts';
import { folderOf, scanFolders } from './folder.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
let agent: Agent;
beforeEach(async () => {
  stage = await openStage({
    now: '2026-10-26T08:00',
    rules: [ruleOf({ when: { measure: 'score', item: 'q1', is: '<=', value: 50 } })],
  });
  agent = await stage.signIn();
});
afterEach(() => stage.close());

const base = '/api/v1/courses/1';
async function bring(name: string, text: string | Buffer): Promise<number> {
  const sent = agent.post(`${base}/imports`).query({ name }).set('content-type', 'application/octet-stream');
  const res = await sent.send(typeof text === 'string' ? Buffer.from(text) : text).expect(201);
  return (res.body as { id: number }).id;
}
const preview = async (id: number) => (await agent.get(`${base}/imports/${id}`).expect(200)).body as ImportPreview;
const decide = (id: number, decisions: object) => agent.put(`${base}/imports/${id}`).send(decisions).expect(204);
const take = async (id: number) => (await agent.post(`${base}/imports/${id}/take`).expect(200)).body as ChangedAnswer;
const courseNow = async () => (await agent.get(base).expect(200)).body as CourseAnswer;
const changes = async () => ((await agent.get(`${base}/changes`).expect(200)).body as ChangesAnswer).changes;
const undo = (change: number) => agent.post(`${base}/changes/${change}/undo`);

describe('[F21] a header that somebody chose', () => {
  const OWN =
    'Name of the course,Coastal Navigation\nWho is it,Reach them at,Team\n"Lind, P1",p1@saltmarsh.example,red\n';
  const told = { 'Who is it': 'name', 'Reach them at': 'email', Team: 'own' };

  test('is found again by its texts, wherever it stands in the next file', async () => {
    const first = await bring('a.csv', OWN);
    await decide(first, { header: 2, told });
    expect(await preview(first)).toMatchObject({ headerLine: 2, doubts: [], counts: { refused: 0 } });
    await take(first);
    const next = await preview(await bring('b.csv', `Printed today\n\n${OWN.replace('red', 'blue')}`));
    expect(next).toMatchObject({ headerLine: 4, remembered: true, counts: { changed: 1, refused: 0 } });
    const other = await preview(await bring('c.csv', 'ID,Team\np1,green\n'));
    expect(other).toMatchObject({ headerLine: 1, remembered: false });
  });

  test('can be chosen anew after one with which nothing can be read', async () => {
    const id = await bring('a.csv', OWN);
    await decide(id, { header: 1 });
    const unread = await preview(id);
    expect(unread).toMatchObject({ headerLine: 1, trouble: expect.stringContaining('who or what') });
    // Its columns are there to be told.
    expect(unread.columns.map((c) => [c.header, c.leftOut])).toEqual([
      ['Name of the course', 'unread'],
      ['Coastal Navigation', 'unread'],
      ['', 'unread'],
    ]);
    expect(unread.sample[0]!.cells.map((c) => c.said)).toEqual(['Who is it', 'Reach them at', 'Team']);
    expect(unread.firstRows.map((r) => r.line)).toEqual([1, 2, 3]);
    await decide(id, { header: 2, told });
    expect(await preview(id)).toMatchObject({ headerLine: 2, trouble: null });
  });
});

describe('[F22] a doubtful header', () => {
  test('is told until somebody is sure', async () => {
    const id = await bring('a.csv', 'ID,Team,,\np1,red,1,2\n');
    expect((await preview(id)).doubts).toEqual(['header']);
    await decide(id, { isSure: true });
    expect((await preview(id)).doubts).toEqual([]);
  });
});

describe('[F24] points that somebody typed', () => {
  test('are a correction of the item, which undo takes back with the file', async () => {
    await take(
      await bring('new.csv', 'ID,Map quiz\np1,7\n').then(
        async (id) => (await decide(id, { add: { items: true } }), id),
      ),
    );
    const map = async () => (await courseNow()).items.find((i) => i.title === 'Map quiz');
    expect((await map())?.points).toBeNull();
    const id = await bring('again.csv', 'ID,Map quiz\np1,7\np2,9\n');
    expect((await preview(id)).columns[1]).toMatchObject({ asksPoints: true, points: null });
    await decide(id, { outOf: { 'Map quiz': 10 } });
    expect((await preview(id)).columns[1]).toMatchObject({ asksPoints: false, points: 10 });
    const { change } = await take(id);
    expect((await map())?.points).toBe(10);
    await undo(change!).expect(200);
    expect((await map())?.points).toBeNull();
  });
});

describe('a file', () => {
  test('says what it would change before anything does, is taken whole, and can be undone', async () => {
    const id = await bring(
      'roster.csv',
      'Student ID,Name,E-mail,Section\np1,"Okoro, Imani",imani@saltmarsh.example,01\np9,Runa Dahl,runa@saltmarsh.example,02\np10,Bad,bad,01\n',
    );
    const seen = await preview(id);
    expect(seen).toMatchObject({ kind: 'roster', counts: { read: 3, new: 1, changed: 1, same: 0, refused: 1 } });
    expect(seen.columns[1]).toMatchObject({ header: 'Name', as: 'field', field: 'name', dayOrder: 'unknown' });
    expect(seen.sample[0]!.cells[1]).toEqual({ said: 'Okoro, Imani', read: 'Imani Okoro' });
    expect(seen.lines.map((l) => [l.name, l.change, l.field, l.from, l.to])).toContainEqual([
      'Imani Okoro',
      'field',
      'last name',
      'Lind',
      'Okoro',
    ]);
    expect(seen.missing).toEqual(['P2 Lind', 'P3 Lind']);
    expect((await courseNow()).people).toHaveLength(4);

    const { change, summary } = await take(id);
    expect(summary).toBe('Roster imported from roster.csv, 1 row refused');
    const after = await courseNow();
    expect(after.people.map((p) => p.id)).toEqual(['p1', 'p2', 'p3', 'ada', 'p9']);
    expect(after.people[0]).toMatchObject({ lastName: 'Okoro', section: '01' });

    const refused = await agent.get(`${base}/imports/${id}/refused`).expect(200);
    expect(refused.text).toBe(
      '\uFEFFStudent ID,Name,E-mail,Section,Why it was refused\r\np10,Bad,bad,01,E-mail: “bad” is not an email address. Type one such as ada@college.example\r\n',
    );
    await undo(change!).expect(200);
    expect((await courseNow()).people.map((p) => [p.id, p.lastName])).toEqual([
      ['p1', 'Lind'],
      ['p2', 'Lind'],
      ['p3', 'Lind'],
      ['ada', 'Lind'],
    ]);
    expect((await changes()).map((c) => [c.kind, c.undone])).toEqual([
      ['undo', false],
      ['import', true],
    ]);
    await undo(change!).expect(409);
  });

  test('whose refused rows are mended is read as the first was, and the same file twice changes nothing', async () => {
    const first = await bring('marks.csv', 'Who,Mark\np1,12\np2,abc\n');
    await decide(first, { kind: 'gradebook', told: { Who: 'person' }, choices: { items: { Mark: { item: 'q1' } } } });
    expect((await preview(first)).counts).toMatchObject({ new: 1, refused: 1 });
    await take(first);
    const mended = await bring('mended.csv', 'Who,Mark,Why it was refused\np2,14,Mark\n');
    const seen = await preview(mended);
    expect(seen).toMatchObject({ kind: 'gradebook', remembered: true, counts: { new: 1, refused: 0 } });
    expect(seen.grades).toEqual([{ student: 'P2 Lind', item: 'Tide tables quiz', from: null, to: 14 }]);
    expect(seen.sample[0]!.cells[1]).toEqual({ said: '14', read: '14 of 20 (70%)' });
    await take(mended);
    const again = await bring('mended.csv', 'Who,Mark\np2,14\n');
    expect((await take(again)).change).toBeNull();
    expect(await unguarded(stage.orm).count(GradeRow)).toBe(2);
    await agent.post(`${base}/imports/${again}/take`).expect(409);
  });

  test('brings facts that overlap what the platform told, and none twice', async () => {
    await stage.tell([visit('p1', '2026-10-20T10:00')]);
    const file = 'person,kind,at\np1,visit,2026-10-20 10:00\np1,visit,2026-10-21 10:00\np1,visit,2027-10-21 10:00\n';
    const id = await bring('activity.csv', file);
    expect((await preview(id)).counts).toEqual({ read: 3, new: 1, changed: 0, same: 1, refused: 1 });
    const { change } = await take(id);
    expect(await unguarded(stage.orm).count(EventRow)).toBe(2);
    await undo(change!).expect(200);
    expect(await unguarded(stage.orm).count(EventRow)).toBe(1);
    // What was undone may come again.
    await take(await bring('activity.csv', file));
    expect(await unguarded(stage.orm).count(EventRow)).toBe(2);
    const live = await stage.services.live.get(unguarded(stage.orm), 1);
    expect(live.facts.history.eventCount).toBe(2);
  });

  test('that corrects takes facts back for good, and the decision follows', async () => {
    await stage.tell(
      [],
      [{ id: 'g1', person: 'p1', item: 'q1', points: 4, at: new Date(at('2026-10-20T10:00')).toISOString() }],
    );
    const matches = async () => {
      const live = await stage.services.live.get(unguarded(stage.orm), 1);
      return live.facts.history.people.reduce((n, log) => n + log.grades.length, 0);
    };
    expect(await matches()).toBe(1);
    const id = await bring('wrong.csv', 'person,item,points\np1,q1,4\n');
    await decide(id, { isCorrection: true });
    expect(await preview(id)).toMatchObject({ retracted: 1, counts: { changed: 1 } });
    const { change } = await take(id);
    expect(await matches()).toBe(0);
    // The platform tells the same grade again: it stays away.
    await stage.tell(
      [],
      [{ id: 'g1', person: 'p1', item: 'q1', points: 4, at: new Date(at('2026-10-20T10:00')).toISOString() }],
    );
    expect(await matches()).toBe(0);
    // And so it does when a file tells it.
    await take(await bring('again.csv', 'person,item,points,at\np1,q1,4,2026-10-20T10:00:00-04:00\n'));
    expect(await matches()).toBe(0);
    await undo(change!).expect(200);
    expect(await matches()).toBe(1);
  });

  test('that cannot be read says why, and nothing is taken', async () => {
    const id = await bring('broken.csv', 'id,name\n"p1,x');
    expect((await preview(id)).trouble).toMatch(/quotation mark/);
    const res = await agent.post(`${base}/imports/${id}/take`).expect(422);
    expect(res.body).toMatchObject({ code: 'fileUnreadable', problems: [{ path: 'file' }] });
    await agent.delete(`${base}/imports/${id}`).expect(204);
    await agent.get(`${base}/imports/${id}`).expect(404);
  });

  test('of another course is nobody’s', async () => {
    const id = await bring('roster.csv', 'id,name\np1,A B\n');
    const bo = await stage.signIn('bo@saltmarsh.example');
    await bo.get(`${base}/imports/${id}`).expect(404);
    await bo.post(`${base}/imports/${id}/take`).expect(404);
    await bo.post(`${base}/changes/1/undo`).expect(404);
  });
});

describe('undo says why not', () => {
  test('when later facts, nudges, rules or changes build on it', async () => {
    const items = await take(
      await bring('items.csv', 'title,kind,points,dueAt\nChart lab 1,assignment,40,2026-09-20\n'),
    );
    await take(await bring('g.csv', 'id,Chart lab 1\np1,30\n'));
    const res = await undo(items.change!).expect(409);
    expect((res.body as { problems: { message: string }[] }).problems[0]!.message).toBe(
      '1 grade came later for items that this change added',
    );
    const edit = await agent
      .post(`${base}/edit`)
      .send({ items: [{ id: 'chart-lab-1', set: { points: 50 } }] })
      .expect(200);
    expect((edit.body as ChangedAnswer).summary).toBe('Chart lab 1 changed');
    const second = await undo(items.change!).expect(409);
    expect(JSON.stringify(second.body)).toContain('Chart lab 1 has been changed since');
  });
});

describe('changes by hand', () => {
  const edit = async (body: object) => (await agent.post(`${base}/edit`).send(body).expect(200)).body as ChangedAnswer;

  test('say which rules look at them, and a removed item breaks none silently', async () => {
    expect(await edit({ items: [{ id: 'q1', set: { dueAt: at('2026-09-20T23:59') } }] })).toMatchObject({
      rules: ['Away'],
      broken: [],
    });
    const gone = await edit({ items: [{ id: 'q1', set: null }] });
    expect(gone).toMatchObject({ summary: 'Tide tables quiz removed', broken: ['Away'] });
    await undo(gone.change!).expect(200);
    expect((await courseNow()).items).toHaveLength(1);
  });

  test('a rule that names a removed item cannot run, says so by its title, and runs again once it is back', async () => {
    const card = async () => ((await agent.get(`${base}/rules`).expect(200)).body as RuleCard[])[0]!;
    const stuck = async () => ((await agent.get(`${base}/standing`).expect(200)).body as StandingAnswer).stuck;
    const before = await card();
    expect(before).toMatchObject({ cannotRun: null, nextRoundAt: expect.any(Number) });
    expect(await stuck()).toEqual([]);
    const gone = await edit({ items: [{ id: 'q1', set: null }] });
    const now = await card();
    expect(now).toMatchObject({ cannotRun: 'Tide tables quiz is not in this course', nextRoundAt: null });
    expect(now.sentence).toContain('Tide tables quiz (not in this course)');
    expect(await stuck()).toEqual([{ rule: 'away', name: 'Away', why: 'Tide tables quiz is not in this course' }]);
    await undo(gone.change!).expect(200);
    expect(await card()).toMatchObject({ cannotRun: null, nextRoundAt: before.nextRoundAt });
    expect(await stuck()).toEqual([]);
    expect((await courseNow()).formerItems).toEqual({});
  });

  test('name the field that does not fit', async () => {
    const bad = async (body: object) => {
      const res = await agent.post(`${base}/edit`).send(body).expect(400);
      return (res.body as { problems: { path: string }[] }).problems.map((p) => p.path);
    };
    expect(await bad({ people: [{ id: 'p1', set: { email: 'nobody' } }] })).toEqual(['people[0].set.email']);
    expect(await bad({ people: [{ id: 'p1', set: { email: 'P2@saltmarsh.example' } }] })).toEqual(['people[0].email']);
    expect(await bad({ people: [{ id: 'lost', set: { lastName: 'x' } }] })).toEqual(['people[0].id']);
    expect(await bad({ items: [{ id: null, set: { points: 3 } }] })).toEqual(['items[0].title']);
    expect(
      await bad({
        breaks: [
          { from: '2026-11-01', to: '2026-11-05' },
          { from: '2026-11-05', to: '2026-11-06' },
        ],
      }),
    ).toEqual(['breaks[1].from']);
    expect(
      await bad({ details: { code: 'X', title: 'Y', timeZone: 'Mars/Base', start: '2026-09-01', end: '2026-08-01' } }),
    ).toContain('details.timeZone');
  });

  test('of the days move the rounds to come', async () => {
    const before = (await stage.rule()).nextRoundAt;
    await edit({ breaks: [{ from: '2026-10-26', to: '2026-11-01', name: 'Rest' }] });
    expect((await stage.rule()).nextRoundAt).toBe(before);
    await edit({
      details: {
        code: 'NAV',
        title: 'Nav',
        timeZone: 'America/New_York',
        start: '2026-08-31',
        end: '2026-10-25',
        url: null,
      },
    });
    expect((await stage.rule()).nextRoundAt).toBeNull();
  });

  test('are merged field by field, and an undo leaves later changes of other fields alone', async () => {
    const one = await edit({ people: [{ id: 'p1', set: { section: '07' } }] });
    await edit({ people: [{ id: 'p1', set: { firstName: 'Nia' } }] });
    await undo(one.change!).expect(200);
    expect((await courseNow()).people[0]).toMatchObject({ firstName: 'Nia', section: null });
  });
});

describe('the folder of a course', () => {
  test('is emptied: what fits is taken, what does not is refused with its reason', async () => {
    await agent.put(`${base}/data/folder`).send({ watched: true }).expect(204);
    const course = await unguarded(stage.orm).findOneOrFail(CourseRow, { id: 1 });
    const folder = folderOf(stage.services.folder, course);
    mkdirSync(folder, { recursive: true });
    const put = (name: string, text: string) => {
      writeFileSync(join(folder, name), text);
      utimesSync(join(folder, name), 1_700_000_000, 1_700_000_000);
    };
    put('grades.csv', 'id,q1\np1,9\n');
    put('damaged.csv', 'id,q1\n"p1,9\n');
    writeFileSync(join(folder, 'half-written.csv'), 'id,q1\np1');
    const moment = Date.now();
    expect(await scanFolders(stage.services, () => moment)).toBe(2);
    expect(readdirSync(folder).toSorted()).toEqual(['.reading', 'done', 'half-written.csv', 'refused']);
    const refused = readdirSync(join(folder, 'refused')).toSorted();
    expect(refused).toHaveLength(2);
    expect(readFileSync(join(folder, 'refused', refused[1]!), 'utf8')).toMatch(/quotation mark/);
    const data = (await agent.get(`${base}/data`).expect(200)).body as DataAnswer;
    expect(data.imports.map((i) => [i.name, i.way, i.state])).toEqual([
      ['grades.csv', 'folder', 'taken'],
      ['damaged.csv', 'folder', 'refused'],
    ]);
    expect(data.sources.find((s) => s.source === 'grades')).toMatchObject({
      heardAt: at('2026-10-26T08:00'),
      rules: 1,
    });
  });

  test('[F20] whatever fails with one file is its own trouble: long names are cut, and a few files are taken a turn', async () => {
    await agent.put(`${base}/data/folder`).send({ watched: true }).expect(204);
    const course = await unguarded(stage.orm).findOneOrFail(CourseRow, { id: 1 });
    const folder = folderOf(stage.services.folder, course);
    mkdirSync(folder, { recursive: true });
    const put = (name: string, text: string) => {
      writeFileSync(join(folder, name), text);
      utimesSync(join(folder, name), 1_700_000_000, 1_700_000_000);
    };
    const long = `${'a'.repeat(246)}.csv`;
    put(long, 'id,q1\np1,9\n');
    put('b constructor.csv', 'id,Name,constructor\np1,P1 Lind,x\n');
    for (const n of ['c', 'd', 'e', 'f']) put(`${n}.csv`, `id,q1\np2,${n.charCodeAt(0)}x\n`);
    expect(await scanFolders(stage.services)).toBe(6);
    expect(readdirSync(folder).toSorted()).toEqual(['.reading', 'done', 'refused']);
    expect(readdirSync(join(folder, 'done')).every((name) => name.length <= 251 && name.endsWith('.csv'))).toBe(true);
  });

  test('[F20] what may pass is tried three times, with waits that grow, and then set aside', async () => {
    await agent.put(`${base}/data/folder`).send({ watched: true }).expect(204);
    const course = await unguarded(stage.orm).findOneOrFail(CourseRow, { id: 1 });
    const folder = folderOf(stage.services.folder, course);
    mkdirSync(folder, { recursive: true });
    const put = (name: string) => {
      writeFileSync(join(folder, name), 'id,q1\np1,9\n');
      utimesSync(join(folder, name), 1_700_000_000, 1_700_000_000);
    };
    put('a.csv');
    const full = Object.assign(new Error('no space'), { code: 'ENOSPC' });
    const broken = { ...stage.services, live: { get: () => Promise.reject(full) } } as unknown as typeof stage.services;
    let now = Date.now();
    const look = () => scanFolders(broken, () => now);
    expect([await look(), await look()]).toEqual([0, 0]);
    now += 16_000;
    expect([await look(), await look()]).toEqual([0, 0]);
    now += 61_000;
    expect(await look()).toBe(1);
    expect(readdirSync(join(folder, 'refused'))).toHaveLength(2);
    expect(await unguarded(stage.orm).count(ImportBytesRow)).toBe(0);
  });

  /** The folder of the course, watched; and how a file comes there that has been still for long. */
  async function watched() {
    await agent.put(`${base}/data/folder`).send({ watched: true }).expect(204);
    const folder = folderOf(stage.services.folder, await unguarded(stage.orm).findOneOrFail(CourseRow, { id: 1 }));
    mkdirSync(folder, { recursive: true });
    const put = (name: string | Buffer, text: string) => {
      const path = Buffer.concat([Buffer.from(`${folder}/`), Buffer.from(name)]);
      writeFileSync(path, text);
      utimesSync(path, 1_700_000_000, 1_700_000_000);
    };
    const told = async () =>
      ((await agent.get(`${base}/data`).expect(200)).body as DataAnswer).imports.map((i) => [
        i.name,
        i.state,
        i.trouble,
      ]);
    return { folder, put, told };
  }

  test('a name that is no UTF-8 is refused under one that can be read, and those behind it are taken', async () => {
    const { folder, put, told } = await watched();
    put(Buffer.from([0x61, 0xff, 0xfe, 0x2e, 0x63, 0x73, 0x76]), 'id,q1\np1,9\n');
    put('b.csv', 'id,q1\np1,9\n');
    expect(await scanFolders(stage.services)).toBe(2);
    expect(readdirSync(join(folder, 'refused'))).toEqual([
      expect.stringMatching(/ a__\.csv$/),
      expect.stringMatching(/ a__\.csv\.txt$/),
    ]);
    expect(await told()).toEqual([
      ['b.csv', 'taken', null],
      ['a__.csv', 'refused', expect.stringContaining('Give it another name')],
    ]);
  });

  /** Services in which something happens once, right after a file was read for the first time. */
  function afterReading(once: () => void): typeof stage.services {
    const { brought } = stage.services;
    let isOver = false;
    const receive: typeof brought.receive = async (stream) => {
      const file = await brought.receive(stream);
      if (!isOver) once();
      isOver = true;
      return file;
    };
    return { ...stage.services, brought: Object.assign(Object.create(brought) as typeof brought, { receive }) };
  }

  test('a file that replaces one while that is read is another file, and is read too', async () => {
    const { folder, put, told } = await watched();
    put('grades.csv', 'id,q1\np1,9\n');
    const services = afterReading(() => put('grades.csv', 'id,q1\np2,7\n'));
    expect(await scanFolders(services)).toBe(2);
    expect((await told()).map(([name, state]) => [name, state])).toEqual([
      ['grades.csv', 'taken'],
      ['grades.csv', 'taken'],
    ]);
    const done = readdirSync(join(folder, 'done')).map((name) => readFileSync(join(folder, 'done', name), 'utf8'));
    expect(done.toSorted()).toEqual(['id,q1\np1,9\n', 'id,q1\np2,7\n']);
  });

  test('a file that grows while it is read is read again, whole', async () => {
    const { folder, put, told } = await watched();
    put('grades.csv', 'id,q1\np1,9\n');
    const services = afterReading(() => appendFileSync(join(folder, '.reading', 'grades.csv'), 'p2,7\n'));
    expect(await scanFolders(services)).toBe(0);
    expect(await told()).toEqual([]);
    expect(await scanFolders(services, () => Date.now() + 60_000)).toBe(1);
    const [done] = readdirSync(join(folder, 'done'));
    expect(readFileSync(join(folder, 'done', done!), 'utf8')).toBe('id,q1\np1,9\np2,7\n');
    expect(readdirSync(join(stage.folder, 'brought'))).toEqual([]);
  });

  test('what a process left that was killed while it read is read by the next', async () => {
    const { folder, put, told } = await watched();
    mkdirSync(join(folder, '.reading'));
    put('.reading/grades.csv', 'id,q1\np1,9\n');
    expect(await scanFolders(stage.services)).toBe(1);
    expect(await told()).toEqual([['grades.csv', 'taken', null]]);
  });

  test('a folder that cannot be used is told once, and again only after it could be', async () => {
    const { folder, put, told } = await watched();
    writeFileSync(join(folder, 'refused'), 'in the way');
    put('grades.csv', 'id,q1\np1,9\n');
    for (let i = 0; i < 3; i++) expect(await scanFolders(stage.services)).toBe(0);
    expect(await told()).toEqual([['The course’s folder', 'refused', expect.stringContaining('cannot read or write')]]);
    rmSync(join(folder, 'refused'));
    expect(await scanFolders(stage.services)).toBe(1);
  });
});

test('[F17] a file lies on disk while it is open, and is missed by name once it is gone', async () => {
  const lying = () => readdirSync(join(stage.folder, 'brought'));
  const taken = await bring('a.csv', 'id,q1\np1,9\n');
  const left = await bring('b.csv', 'id,q1\np1,9\n');
  const lost = await bring('c.csv', 'id,q1\np1,9\n');
  expect(lying()).toHaveLength(3);
  await take(taken);
  await agent.delete(`${base}/imports/${left}`).expect(204);
  expect(lying()).toHaveLength(1);
  rmSync(join(stage.folder, 'brought', lying()[0]!));
  expect(await preview(lost)).toMatchObject({ trouble: 'This file is no longer here. Bring it in again.' });
  await agent.post(`${base}/imports/${lost}/take`).expect(422);
});

test('a correction and its import, undone in either order, leave nothing behind', async () => {
  const file = 'person,kind,at\np1,visit,2026-10-20 10:00\np2,visit,2026-10-21 10:00\n';
  const wrong = 'person,kind,at\np1,visit,2026-10-20 10:00\n';
  const correct = async () => {
    const brought = (await take(await bring('a.csv', file))).change!;
    const id = await bring('wrong.csv', wrong);
    await decide(id, { kind: 'activity', isCorrection: true });
    return [brought, (await take(id)).change!] as const;
  };
  const count = () => unguarded(stage.orm).count(EventRow);
  const [first, correction] = await correct();
  expect(await count()).toBe(1);
  await undo(correction).expect(200);
  expect(await count()).toBe(2);
  await undo(first).expect(200);
  expect(await count()).toBe(0);
  const [second, again] = await correct();
  await undo(second).expect(200);
  expect(await count()).toBe(0);
  await undo(again).expect(200);
  expect(await count()).toBe(0);
});

describe('undoing a file leaves what a later file says', () => {
  const undoAhead = async (change: number) =>
    (await agent.get(`${base}/changes/${change}/undo`).expect(200)).body as UndoAnswer;
  const grades = async () =>
    (await unguarded(stage.orm).find(GradeRow, { course: 1 }, { orderBy: { person: 'asc', id: 'asc' } })).map((g) => [
      g.person,
      g.points,
      g.change,
    ]);

  test('grades: those that it gives again stay, are counted before, and go with it', async () => {
    const a = await take(await bring('a.csv', 'id,q1\np1,10\np2,7\np3,10\n'));
    const b = await take(await bring('b.csv', 'id,q1\np1,10\np2,10\np3,10\n'));
    expect(await undoAhead(a.change!)).toEqual({
      against: [],
      goes: { events: 0, grades: 1 },
      stays: { grades: 2, people: 0, items: 0 },
      unknown: 0,
    });
    await undo(a.change!).expect(200);
    expect(await grades()).toEqual([
      ['p1', 10, b.change],
      ['p2', 10, b.change],
      ['p3', 10, b.change],
    ]);
    expect(await undoAhead(b.change!)).toMatchObject({ goes: { grades: 3 }, stays: { grades: 0 } });
    await undo(b.change!).expect(200);
    expect(await grades()).toEqual([]);
  });

  test('a file that changed nothing keeps them too, and one that was undone does not', async () => {
    const file = 'id,q1\np1,10\n';
    const a = await take(await bring('a.csv', file));
    expect((await take(await bring('again.csv', file))).change).toBeNull();
    await undo(a.change!).expect(200);
    expect(await grades()).toEqual([['p1', 10, null]]);
    const c = await take(await bring('c.csv', 'id,q1\np2,4\n'));
    const d = await take(await bring('d.csv', 'id,q1\np2,4\np3,4\n'));
    await undo(d.change!).expect(200);
    await undo(c.change!).expect(200);
    expect(await grades()).toEqual([['p1', 10, null]]);
  });

  test('people: fields that it says again, own columns by themselves, and whom it names', async () => {
    const a = await take(await bring('a.csv', 'id,Name,Section,Team\np1,P1 Lind,07,Red\np9,Runa Dahl,02,Blue\n'));
    const b = await take(await bring('b.csv', 'id,Name,Section\np1,P1 Lind,07\np9,Runa Dahl,02\n'));
    expect(b.change).toBeNull();
    expect(await undoAhead(a.change!)).toMatchObject({ against: [], stays: { grades: 0, people: 2, items: 0 } });
    await undo(a.change!).expect(200);
    const { people } = await courseNow();
    expect(people.find((p) => p.id === 'p1')).toMatchObject({ section: '07', fields: {} });
    expect(people.map((p) => p.id)).toContain('p9');
  });

  test('items: dates that it says again stay, and a date that was changed since is said by no file', async () => {
    const a = await take(
      await bring('items.csv', 'id,title,due\nq1,Tide quiz,2026-10-28 23:59\nq2,Ebb quiz,2026-10-29 23:59\n'),
    );
    await take(
      await bring('items2.csv', 'id,title,due\nq1,Tide quiz,2026-10-28 23:59\nq2,Ebb quiz,2026-10-29 23:59\n'),
    );
    expect(await undoAhead(a.change!)).toMatchObject({ against: [], stays: { items: 2 } });
    const due = (await courseNow()).items.find((i) => i.id === 'q1')!.dueAt;
    const set = (dueAt: number | null) => agent.post(`${base}/edit`).send({ items: [{ id: 'q1', set: { dueAt } }] });
    await set(at('2026-11-04T23:59')).expect(200);
    const back = ((await set(due).expect(200)).body as ChangedAnswer).change!;
    expect(await undoAhead(back)).toMatchObject({ stays: { items: 0 } });
  });

  test('files that were taken before this was remembered are counted', async () => {
    const a = await take(await bring('a.csv', 'id,q1\np1,10\n'));
    stage.clock.set(stage.clock.now() + 60_000);
    await take(await bring('b.csv', 'id,q1\np1,10\n'));
    await unguarded(stage.orm).nativeUpdate(ImportRow, { name: 'b.csv' }, { saidAgain: null });
    expect(await undoAhead(a.change!)).toMatchObject({ unknown: 1 });
  });
});

describe('a sheet of people', () => {
  test('[F18] with all columns of one taken by hand is read as that was, points aside, and says so', async () => {
    const first = await bring('a.csv', 'Who,Essay 9 (10)\np1,9\n');
    await decide(first, { told: { Who: 'person' }, add: { items: true } });
    await take(first);
    const next = await preview(await bring('b.csv', 'Who,Essay 9 (12),Essay 10 (10)\np2,9,8\n'));
    expect(next).toMatchObject({ remembered: true, add: { items: true }, added: { items: 1 }, counts: { refused: 0 } });
    const other = await preview(await bring('c.csv', 'Name,Essay 11 (10)\nP1 Lind,9\n'));
    expect(other).toMatchObject({ remembered: false, add: { items: false }, offered: { items: 1 } });
  });

  test('is mended in place before it is taken', async () => {
    const id = await bring('a.csv', 'id,q1\np1,many\np2,7\n');
    const [refused] = (await preview(id)).refused;
    expect(refused).toMatchObject({ row: 2, line: 2, column: 'q1', said: 'many' });
    await decide(id, { mended: { 2: { q1: '8' } } });
    expect((await preview(id)).counts).toMatchObject({ new: 2, refused: 0 });
    await take(id);
    expect(await unguarded(stage.orm).count(GradeRow)).toBe(2);
  });

  test('begins a course in one press: its people, items and scores, and nothing where it cannot be read', async () => {
    const send = (path: string, order: object, text: string) =>
      agent
        .post(`/api/v1/courses/from-file${path}`)
        .type('application/octet-stream')
        .send(Buffer.from(`${JSON.stringify(order)}\n${text}`));
    const sheet = 'MET 115 Weather\n\nName,Email,Essay 1 (50),Average\n"Berg, Nils",nils@x.example,40,80%\n';
    const looked = await send('/look', { name: 'met.csv', details: {}, decisions: {} }, sheet).expect(200);
    expect(looked.body).toMatchObject({
      proposed: { code: 'MET 115', title: 'Weather' },
      preview: { kind: 'gradebook', added: { people: 1, items: 1 }, counts: { refused: 0 } },
    });
    const details = {
      code: 'MET 115',
      title: 'Weather',
      timeZone: 'America/New_York',
      start: '2026-08-31',
      end: '2026-12-18',
    };
    const made = await send('', { name: 'met.csv', details, decisions: {} }, sheet).expect(201);
    const { id } = made.body as { id: number };
    const course = (await agent.get(`/api/v1/courses/${id}`).expect(200)).body as CourseAnswer;
    expect(course.people.map((p) => p.lastName).toSorted()).toEqual(['Berg', 'Lind']);
    expect(course.items.map((i) => [i.title, i.points])).toEqual([['Essay 1', 50]]);
    const before = await unguarded(stage.orm).count(CourseRow);
    await send('', { name: 'x.csv', details, decisions: {} }, 'Boat\nTern\n').expect(422);
    await send('', { name: 'x.csv', details: {}, decisions: {} }, sheet).expect(400);
    expect(await unguarded(stage.orm).count(CourseRow)).toBe(before);
  });
});

test('a rule waits only for the sources that it stands on', async () => {
  await unguarded(stage.orm).nativeUpdate(CourseRow, { id: 1 }, { guards: { askAbove: 1, staleHours: 24 } });
  const stale = async () =>
    ((await agent.get(`${base}/standing`).expect(200)).body as { feed: { sources: string[]; waiting: number } }).feed;
  expect(await stale()).toMatchObject({ sources: ['activity', 'grades', 'attendance'], waiting: 1 });
  await take(await bring('g.csv', 'id,q1\np1,3\n'));
  expect(await stale()).toMatchObject({ sources: ['activity', 'attendance'], waiting: 0 });
});
