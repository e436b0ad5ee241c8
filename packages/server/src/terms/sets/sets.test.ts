// Runs on PostgreSQL too.
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type {
  CarriedList,
  RuleCard,
  SetAnswer,
  SetCandidate,
  SetCard,
  SetOutcome,
  WordingAnswer,
} from '@zest-bell/core/exchange';
import { makeCourse } from '@zest-bell/core/course';
import { Access } from '../../access/entity.ts';
import { CourseRow } from '../../course/entity.ts';
import { asTx } from '../../testing/asTx.ts';
import { at, COURSE, openStage, ruleOf, SENDER, type Agent, type TestStage } from '../../testing/stage.ts';
import { unguarded, freely } from '../../testing/unguarded.ts';
import { insertCourse } from '../../testing/insertCourse.ts';

const lab = { ...COURSE.items[0]!, id: 'lab-3', title: 'Chart lab 3: bearings' };
const low = ruleOf({
  id: 'low',
  name: 'Low in the lab',
  status: 'paused',
  when: { measure: 'score', item: 'lab-3', is: '<', value: 50 },
});
let stage: TestStage;
let ada: Agent;

beforeEach(async () => {
  stage = await openStage({
    now: '2026-10-12T12:00',
    rules: [ruleOf({ status: 'paused' }), low],
    course: { items: [...COURSE.items, lab] },
  });
  ada = await stage.signIn();
  await another('NAV 121', { items: [{ ...lab, id: 'l3', title: 'Chart lab 3' }] });
  await another('NAV 122', {});
});
afterEach(() => stage.close());

/** Another course of the same term, its id 2, 3 … */
async function another(code: string, more: object): Promise<number> {
  const em = asTx(unguarded(stage.orm));
  const parts = makeCourse({ ...COURSE, code, ...more });
  const id = await insertCourse(em, parts, {
    sender: SENDER,
    tokenHash: code,
    guards: { askAbove: 1, staleHours: null },
  });
  const { account } = await em.findOneOrFail(Access, { course: 1 });
  freely(em).create(Access, { account, course: id, role: 'owner' });
  await freely(em).flush();
  return id;
}

const of = (course: number, what = '') => `/api/v1/courses/${course}${what}`;
const read = async <T>(path: string): Promise<T> => (await ada.get(path).expect(200)).body as T;
const send = async <T>(path: string, body: object): Promise<T> =>
  (await ada.post(path).send(body).expect(200)).body as T;
const use = (key: string, ...courses: { course: number; join?: string }[]) =>
  send<SetOutcome[]>(of(1, `/sets/rule/${key}/use`), { courses });
const set = (course: number, key = 'away', picks = {}) => send<SetAnswer>(of(course, `/sets/rule/${key}`), { picks });
const cards = (course: number) => read<SetCard[]>(of(course, '/sets'));
const rule = async (course: number, key = 'away') =>
  (await read<RuleCard[]>(of(course, '/rules'))).find((c) => c.rule.id === key)!;
const edit = async (course: number, change: object, key = 'away') => {
  const card = await rule(course, key);
  await ada
    .put(of(course, `/rules/${key}`))
    .send({ rule: { ...card.rule, ...change }, version: card.version, confirmed: true })
    .expect(200);
};
const take = async (...courses: { course: number; picks?: object; confirm: boolean }[]) => {
  const { members } = await set(1);
  const known = courses.map((c) => ({ ...c, version: members.find((m) => m.course.id === c.course)!.version }));
  return send<SetOutcome[]>(of(1, '/sets/rule/away/take'), { courses: known });
};
const FINE = { problem: null };

describe('a rule used in other courses too', () => {
  test('is a copy there that is off, with its wording, on the checklist of each; the list says in how many it is', async () => {
    expect(await use('away', { course: 2 }, { course: 3 })).toMatchObject([
      { course: 2, code: 'NAV 121', ...FINE },
      { course: 3, code: 'NAV 122', ...FINE },
    ]);
    expect((await rule(2)).rule).toMatchObject({ status: 'paused', steps: [{ wording: 'gentle' }] });
    expect(await read<CarriedList[]>(of(3, '/carry'))).toMatchObject([{ rules: [{ rule: 'away' }], sender: null }]);
    expect(await cards(1)).toEqual([
      { kind: 'wording', key: 'gentle', courses: 3, hidden: 0, differ: 0, waitsFrom: null },
      { kind: 'rule', key: 'away', courses: 3, hidden: 0, differ: 0, waitsFrom: null },
    ]);
    expect((await set(2)).members.map((m) => [m.course.code, m.isHere, m.change])).toEqual([
      ['NAV 120', false, null],
      ['NAV 121', true, null],
      ['NAV 122', false, null],
    ]);
  });

  test('candidates say how many it would find, what it lacks, and why a course is left alone', async () => {
    await another('NAV 130', { start: '2027-01-11', end: '2027-04-30' });
    const old = await another('NAV 90', {});
    await unguarded(stage.orm).nativeUpdate(CourseRow, { id: old }, { archivedAt: at('2026-09-01T00:00') });
    await use('low', { course: 3 });
    const all = await read<SetCandidate[]>(of(1, '/sets/rule/low/candidates'));
    expect(all.map((c) => [c.course.code, c.leftAlone])).toEqual([
      ['NAV 121', null],
      ['NAV 122', 'hasIt'],
      ['NAV 130', 'otherTerm'],
      ['NAV 90', 'archivedCourse'],
    ]);
    expect(all[0]).toMatchObject({
      problems: [{ code: 'item', name: 'lab-3' }],
      proposed: [{ from: 'lab-3', to: 'l3', fromTitle: 'Chart lab 3: bearings', toTitle: 'Chart lab 3' }],
      finds: { students: 3 },
    });
    await ada
      .post(of(1, '/sets/match'))
      .send({ other: 2, told: { 'lab-3': 'l3' } })
      .expect(204);
    await use('low', { course: 2 });
    expect((await rule(2, 'low')).rule).toMatchObject({ when: { item: 'l3' } });
    // Told once, it holds the other way as well.
    expect((await set(2, 'low')).members.map((m) => m.differs)).toEqual([[], [], []]);
    expect(await send(of(1, '/sets/rule/away/use'), { courses: [{ course: 4 }, { course: 99 }] })).toMatchObject([
      { course: 4, problem: { code: 'invalidInput' } },
      { course: 99, code: '', problem: { code: 'notFound' } },
    ]);
  });

  test('one that is alike is joined as it is, and what differs is said', async () => {
    await use('away', { course: 2 });
    await ada.post(of(2, '/sets/rule/away/leave')).send({}).expect(204);
    await edit(2, { note: 'Mine', name: 'Away too long' });
    const [there] = await read<SetCandidate[]>(of(1, '/sets/rule/away/candidates'));
    expect(there!.alike).toEqual([{ key: 'away', name: 'Away too long' }]);
    expect(await use('away', { course: 2, join: 'away' })).toMatchObject([FINE]);
    expect((await set(1)).members[1]!.differs).toEqual(['Name', 'Note']);
    expect((await cards(1))[1]).toMatchObject({ courses: 2, differ: 1 });
    // What was changed there alone is kept: there is nothing to offer.
    expect((await set(1)).members[1]!.change).toBeNull();
  });
});

describe('a change of one copy', () => {
  beforeEach(async () => {
    await use('away', { course: 2 }, { course: 3 });
  });

  test('is shown course by course: taken, kept, and a conflict with nothing preset; whom it would find', async () => {
    await edit(2, { note: 'Only here', weight: 'strong' });
    await edit(1, { weight: 'light', when: { measure: 'daysSinceVisit', is: '>=', value: 60 } });
    const { members } = await set(1);
    expect(members.map((m) => m.differs)).toEqual([['Who', 'Priority'], ['Note', 'Priority'], []]);
    expect(members[1]!.change).toMatchObject({
      from: 'NAV 120',
      lines: [
        { part: 'note', state: 'kept', pick: 'there', there: 'Only here' },
        { part: 'when', state: 'taken', pick: 'here' },
        { part: 'weight', state: 'conflict', pick: null, origin: 'normal', here: 'low', there: 'high' },
      ],
      reach: { before: 3, after: 0, students: 3, more: [], fewer: ['P1 Lind', 'P2 Lind', 'P3 Lind'] },
    });
    // Its audience depends on the choices.
    const chosen = await set(1, 'away', { 2: { when: 'there' } });
    expect(chosen.members[1]!.change!.reach).toMatchObject({ before: 3, after: 3 });
  });

  test('taken in one, it waits in another as a draft while the old one goes on; confirmed there, all is one again', async () => {
    await edit(1, { name: 'Away long' });
    expect(await take({ course: 2, confirm: true }, { course: 3, confirm: false })).toMatchObject([FINE, FINE]);
    expect((await rule(2)).rule.name).toBe('Away long');
    expect((await rule(3)).rule.name).toBe('Away');
    expect((await cards(3))[1]).toMatchObject({ courses: 3, differ: 1, waitsFrom: 'NAV 120' });
    const waiting = (await set(3)).members.find((m) => m.isHere)!;
    expect(waiting).toMatchObject({ waits: true, change: { from: 'NAV 120', lines: [{ part: 'name' }] } });
    // A second change replaces the draft.
    await edit(1, { note: 'Second' });
    await take({ course: 3, confirm: false });
    const both = (await set(3)).members.find((m) => m.isHere)!;
    expect(both.change!.lines.map((l) => l.part)).toEqual(['name', 'note']);
    const settled = await send<SetOutcome>(of(3, '/sets/rule/away/settle'), { version: both.version, take: true });
    expect(settled).toMatchObject(FINE);
    expect((await rule(3)).rule).toMatchObject({ name: 'Away long', note: 'Second' });
    expect((await cards(3))[1]).toMatchObject({ differ: 1, waitsFrom: null });
    expect((await set(3)).members.map((m) => m.differs)).toEqual([[], ['Note'], []]);
  });

  test('a conflict is confirmed only once somebody chose; a copy that moved on meanwhile is named, and stops no other', async () => {
    await edit(2, { weight: 'strong' });
    await edit(1, { weight: 'light' });
    expect(await take({ course: 2, confirm: true })).toMatchObject([
      { problem: { code: 'invalidInput', words: expect.stringContaining('Both courses changed this') } },
    ]);
    expect((await rule(2)).rule.weight).toBe('strong');
    const { members } = await set(1);
    await edit(3, { note: 'Moved on' });
    const courses = [3, 2].map((course) => ({
      course,
      version: members.find((m) => m.course.id === course)!.version,
      confirm: true,
      picks: { weight: 'here' },
    }));
    expect(await send(of(1, '/sets/rule/away/take'), { courses })).toMatchObject([
      { course: 3, problem: { code: 'changedMeanwhile' } },
      { course: 2, problem: null },
    ]);
    expect((await rule(2)).rule.weight).toBe('light');
  });

  test('left as it is, it goes on differing; an archived course is shown and left alone', async () => {
    await edit(1, { name: 'Away long' });
    await take({ course: 3, confirm: false });
    const { version } = (await set(3)).members.find((m) => m.isHere)!;
    await send(of(3, '/sets/rule/away/settle'), { version, take: false });
    expect((await cards(3))[1]).toMatchObject({ differ: 2, waitsFrom: null });
    await unguarded(stage.orm).nativeUpdate(CourseRow, { id: 2 }, { archivedAt: at('2026-10-01T00:00') });
    expect((await set(1)).members[1]).toMatchObject({ leftAlone: 'archivedCourse', change: null });
    expect(await take({ course: 2, confirm: true })).toMatchObject([{ problem: { code: 'notAllowed' } }]);
  });

  test('one that is on goes through the guard of every way to be on', async () => {
    const { version } = await rule(2);
    await ada
      .post(of(2, '/rules/status'))
      .send({ rules: [{ rule: 'away', version }], status: 'on', confirmed: true })
      .expect(200);
    await edit(1, {
      steps: [{ ...(await rule(1)).rule.steps[0]!, to: ['student', 'address:dean@elsewhere.example'] }],
    });
    const taken = await take({ course: 2, confirm: true });
    expect(taken).toMatchObject([{ problem: { code: 'outsideAddresses', addresses: ['dean@elsewhere.example'] } }]);
    expect((await rule(2)).rule.steps[0]!.to).toEqual(['student']);
  });

  test('a new step brings its wording along, in one set from then on; a wording is changed in all the same way', async () => {
    const made = await ada
      .post(of(1, '/wordings'))
      .send({ wording: { name: 'Second', purpose: 'support', subject: 'NAV 120', text: 'Write to me.' } })
      .expect(201);
    const { id } = made.body as WordingAnswer;
    const [step] = (await rule(1)).rule.steps;
    await edit(1, { steps: [step, { ...step!, wording: id, after: { days: 3, hours: 0 } }] });
    expect(await take({ course: 2, confirm: true })).toMatchObject([FINE]);
    expect((await rule(2)).rule.steps).toHaveLength(2);
    const there = (await read<WordingAnswer[]>(of(2, '/wordings'))).find((w) => w.name === 'Second')!;
    expect(there.subject).toBe('{{ course.code }}');
    const wording = of(1, `/sets/wording/${id}`);
    expect((await send<SetAnswer>(wording, {})).members.map((m) => m.differs)).toEqual([[], []]);
    const { usedBy: _u, onTrial: _t, drafted: _d, version, ...own } = made.body as WordingAnswer;
    await ada
      .put(of(1, `/wordings/${id}`))
      .send({ wording: { ...own, text: 'Write to me today.' }, version })
      .expect(200);
    const [, member] = (await send<SetAnswer>(wording, {})).members;
    expect(member!.change).toMatchObject({ reach: null, lines: [{ part: 'text', state: 'taken', isText: true }] });
    const courses = [{ course: 2, version: member!.version, confirm: true }];
    expect(await send(`${wording}/take`, { courses })).toMatchObject([FINE]);
    expect((await read<WordingAnswer[]>(of(2, '/wordings'))).find((w) => w.name === 'Second')!.text).toBe(
      'Write to me today.',
    );
  });
});

test('nobody sees a course that is not theirs through a set', async () => {
  await use('away', { course: 2 }, { course: 3 });
  await unguarded(stage.orm).nativeDelete(Access, { course: 3 });
  const seen = await set(1);
  expect(seen.members.map((m) => m.course.code)).toEqual(['NAV 120', 'NAV 121']);
  expect(seen.others).toBe(1);
  expect((await cards(1))[1]).toMatchObject({ courses: 3 });
  await ada.post(of(1, '/sets/match')).send({ other: 3, told: {} }).expect(404);
  await ada.post(of(1, '/sets/elsewhere/away')).send({}).expect(404);
  await ada.post(of(1, '/sets/rule/nothing')).send({}).expect(404);
});
