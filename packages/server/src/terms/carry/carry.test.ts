// Runs on PostgreSQL too.
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { prove } from '../../access/links.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import type { CarriedList, CarryPreview, CourseAnswer, RuleCard, WordingAnswer } from '@zest-bell/core/exchange';
import { WordingRow } from '../../wording/entity.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { at, COURSE, openStage, ruleOf, SENDER, type Agent, type TestStage } from '../../testing/stage.ts';
import { unguarded } from '../../testing/unguarded.ts';
import { asTx } from '../../testing/asTx.ts';

const score = (item: string) => ({ measure: 'score', item, is: '<', value: 50 });
const lab = { ...COURSE.items[0]!, id: 'lab-3', title: 'Chart lab 3: bearings', dueAt: at('2026-09-14T23:59') };
const rules = [
  ruleOf({ rhythm: { start: '2026-09-08T09:30', rrule: 'FREQ=WEEKLY;BYDAY=TU', until: '2026-12-18' } }),
  ruleOf({
    id: 'low',
    name: 'Low in the lab',
    when: score('lab-3'),
    steps: [{ deliver: 'send', to: ['student'], wording: 'firm' }],
  }),
  ruleOf({ id: 'tides', name: 'Low in tides', status: 'draft', when: score('q1') }),
];
let stage: TestStage;
let ada: Agent;
/** The course that things are carried into. */
let there: string;

beforeEach(async () => {
  stage = await openStage({ now: '2026-12-10T12:00', rules, course: { items: [...COURSE.items, lab] } });
  await inTransaction(stage.orm, (tx) => prove(asTx(tx), 1, SENDER.replyTo, 'code'));
  ada = await stage.signIn();
  const em = unguarded(stage.orm);
  em.create(WordingRow, {
    course: 1,
    key: 'firm',
    name: 'Firm',
    purpose: 'firm',
    subject: 'NAV 120: the lab',
    body: '{{ student.first_name | default: "Hello" }},\n\nthe lab was due on September 14. See {{ link["lab-3"] }} in fall 2026.\n\n{{ sender.signature }}',
  });
  await em.flush();
  const details = {
    code: 'NAV 120 S',
    title: 'Coastal Navigation',
    timeZone: COURSE.timeZone,
    start: '2027-01-11',
    end: '2027-04-30',
  };
  const begun = await ada.post('/api/v1/courses').send({ details }).expect(201);
  there = `/api/v1/courses/${(begun.body as { id: number }).id}`;
});
afterEach(() => stage.close());

const preview = async (choices: object = {}): Promise<CarryPreview> =>
  (
    await ada
      .post(`${there}/carry/preview`)
      .send({ from: 1, ...choices })
      .expect(200)
  ).body as CarryPreview;
const over = async (choices: object = {}): Promise<CarriedList> =>
  (
    await ada
      .post(`${there}/carry`)
      .send({ from: 1, ...choices })
      .expect(201)
  ).body as CarriedList;
const lists = async () => (await ada.get(`${there}/carry`).expect(200)).body as CarriedList[];
const cards = async () => (await ada.get(`${there}/rules`).expect(200)).body as RuleCard[];
const course = async () => (await ada.get(there).expect(200)).body as CourseAnswer;
const addItem = () =>
  ada
    .post(`${there}/edit`)
    .send({ items: [{ id: null, set: { title: 'Chart lab 3', kind: 'quiz', points: 10 } }] })
    .expect(200);
const on = (rule: { rule: string; version: number }) =>
  ada
    .post(`${there}/rules/status`)
    .send({ rules: [{ rule: rule.rule, version: rule.version }], status: 'on', confirmed: true });

describe('[K8] carrying over', () => {
  test('is shown first, changes nothing by that, and says what it says of dates, items and texts', async () => {
    await addItem();
    const shown = await preview();
    expect(shown).toMatchObject({
      days: 133,
      mayBringItems: false,
      source: { code: 'NAV 120', sender: 'Dr. A. Lind' },
    });
    expect(shown.rules.map((r) => [r.from, r.to, r.status])).toEqual([
      ['away', 'away', 'paused'],
      ['low', 'low', 'paused'],
      ['tides', 'tides', 'draft'],
    ]);
    expect(shown.rules[0]).toMatchObject({
      before: { from: '2026-09-08', until: '2026-12-18' },
      after: { from: '2027-01-19', until: '2027-04-30' },
    });
    // What is only alike is proposed, and is no match before somebody said so.
    expect(shown.items).toContainEqual({ from: 'lab-3', to: expect.any(String), how: 'alike' });
    expect(shown.rules[1]!.problems).toMatchObject([{ code: 'item', name: 'lab-3' }]);
    expect(shown.rules[1]!.sentence).toContain('Chart lab 3: bearings');
    const { to } = shown.items.find((m) => m.from === 'lab-3')!;
    const said = await preview({ told: { 'lab-3': to } });
    expect(said.rules[1]!.problems).toEqual([]);
    const firm = said.wordings.find((w) => w.from === 'firm')!;
    expect(firm.found.map((f) => [f.path, f.finds.map((x) => x.field)])).toEqual([
      ['subject', ['course.code']],
      ['text', [`due["${to}"]`, null]],
    ]);
    expect(await cards()).toEqual([]);
    expect(await lists()).toEqual([]);
  });

  test('ends in a checklist that stays until each line is done; nothing rings before somebody turned it on', async () => {
    const list = await over({ withItems: true, sender: true });
    expect(list.rules.map((r) => [r.rule, r.status, r.done, r.lacks])).toEqual([
      ['away', 'paused', false, []],
      ['low', 'paused', false, []],
      ['tides', 'draft', false, []],
    ]);
    expect(list.rules[1]!.items).toEqual([{ from: 'Chart lab 3: bearings', to: 'Chart lab 3: bearings' }]);
    expect(list).toMatchObject({
      sender: { done: false, confirmed: false },
      hasRung: false,
      wordings: [{ done: false }, { wording: 'firm', done: false }],
    });
    stage.clock.set(at('2027-01-19T09:31'));
    await runDueRounds(stage.services);
    expect((await lists())[0]).toMatchObject({ id: list.id, hasRung: false });

    const tick = (body: object) => ada.post(`${there}/carry/${list.id}/tick`).send(body).expect(200);
    await on(list.rules[0]!).expect(200);
    await tick({ kind: 'rule', name: 'low', done: true });
    await tick({ kind: 'rule', name: 'tides', done: true });
    await tick({ kind: 'wording', name: 'gentle', done: true });
    await tick({ kind: 'wording', name: 'firm', done: true });
    expect(await lists()).toHaveLength(1);
    await tick({ kind: 'sender', done: true });
    expect(await lists()).toEqual([]);
    // A rule that is paused later does not bring the list back.
    const { version } = (await cards()).find((c) => c.rule.id === 'away')!;
    await ada
      .post(`${there}/rules/status`)
      .send({ rules: [{ rule: 'away', version }], status: 'paused' })
      .expect(200);
    expect(await lists()).toEqual([]);
  });

  test('brings texts with their chips, items on their moved dates, marks and limits; a sender that somebody has to look at', async () => {
    const { settings, breaks, marks, guards, settingsVersion } = (await ada.get('/api/v1/courses/1').expect(200))
      .body as CourseAnswer;
    const limits = { settings: { ...settings, budget: { count: 1, days: 14, strict: false } }, breaks, marks, guards };
    await ada.put('/api/v1/courses/1/limits').send({ limits, version: settingsVersion }).expect(204);
    const list = await over({ withItems: true, sender: true, settings: { budget: true } });
    expect(list.settings).toEqual([{ what: 'budget', done: false }]);
    const ticked = await ada
      .post(`${there}/carry/${list.id}/tick`)
      .send({ kind: 'setting', name: 'budget', done: true })
      .expect(200);
    expect((ticked.body as CarriedList).settings[0]).toEqual({ what: 'budget', done: true });
    const now = await course();
    expect(now.items.map((i) => [i.id, i.dueAt])).toEqual([
      ['q1', at('2027-01-24T23:59')],
      ['lab-3', at('2027-01-25T23:59')],
    ]);
    expect(now).toMatchObject({ marks: { mastery: 80 }, sender: { name: 'Dr. A. Lind' } });
    const wordings = (await ada.get(`${there}/wordings`).expect(200)).body as {
      id: string;
      subject: string;
      text: string;
    }[];
    expect(wordings.find((w) => w.id === 'firm')).toMatchObject({
      subject: '{{ course.code }}: the lab',
      text: expect.stringContaining('due on {{ due["lab-3"] }}. See {{ link["lab-3"] }} in fall 2026.'),
    });
  });

  test('a rule gets no id that a rule of the archive has, and is shown with the one it gets', async () => {
    const first = await over({ withItems: true, rules: ['away'], views: [] });
    const { version } = (await cards())[0]!;
    await ada.post(`${there}/rules/away/archive`).send({ version }).expect(200);
    expect((await preview()).rules.map((r) => r.to)).toEqual(['away-2', 'low', 'tides']);
    const second = await over({ rules: ['away'], views: [] });
    expect(second.rules.map((r) => r.rule)).toEqual(['away-2']);
    // What was put away asks for nothing any more.
    expect((await lists()).find((l) => l.id === first.id)?.rules ?? []).toEqual([]);
  });

  test('a rule remembers for its history which course it came from', async () => {
    await over({ withItems: true });
    const [first] = (await ada.get(`${there}/rules/away/versions`).expect(200)).body as {
      carriedFrom: string | null;
    }[];
    expect(first!.carriedFrom).toBe('NAV 120');
    const own = (await ada.get('/api/v1/courses/1/rules/away/versions').expect(200)).body as (typeof first)[];
    expect(own[0]!.carriedFrom).toBeNull();
  });

  test('rules that go out as a file come into an empty course as they were decided, with texts and what goes along', async () => {
    const file = await ada.post('/api/v1/courses/1/exports/rules').send({}).expect(200);
    const brought = await ada
      .post(`${there}/carry/files?name=rules.json`)
      .type('application/octet-stream')
      .send(Buffer.from(file.text))
      .expect(201);
    const { from } = brought.body as { from: string };
    expect((await ada.get(`${there}/carry/files`).expect(200)).body).toMatchObject([{ from, code: 'NAV 120' }]);
    // From the file as from the course itself: the same comes along, but for a sender, which no file has.
    const [ofFile, ofCourse] = [await preview({ from, withItems: true }), await preview({ withItems: true })];
    expect({ ...ofFile, source: { ...ofFile.source, sender: '', isOwnSender: false }, views: [] }).toEqual({
      ...ofCourse,
      source: { ...ofCourse.source, sender: '', isOwnSender: false },
      views: [],
    });
    await over({ from, withItems: true });
    const there2 = (await cards()).map((c) => c.rule);
    expect(there2.map((r) => [r.id, r.status])).toEqual([
      ['away', 'paused'],
      ['low', 'paused'],
      ['tides', 'draft'],
    ]);
    const own = ((await ada.get('/api/v1/courses/1/rules').expect(200)).body as RuleCard[]).map((c) => c.rule);
    expect(there2.map((r) => [r.when, r.repeat, r.steps])).toEqual(own.map((r) => [r.when, r.repeat, r.steps]));
    expect((await course()).items.map((i) => i.id)).toEqual(['q1', 'lab-3']);
  });

  test('a file that is no file of rules is refused with what does not fit, and another course’s is not there', async () => {
    const bring = (text: string) =>
      ada.post(`${there}/carry/files?name=x.json`).type('application/octet-stream').send(Buffer.from(text));
    await bring('no JSON').expect(422);
    const refused = await bring('{"format":"zest-bell/rules@1","course":{}}').expect(422);
    expect((refused.body as { problems: { path: string }[] }).problems.map((p) => p.path)).toContain('course.code');
    await ada.post(`${there}/carry/preview`).send({ from: 'file-99' }).expect(404);
    await ada.post(`${there}/carry/preview`).send({ from: 'elsewhere' }).expect(400);
  });

  test('texts can stay as they are', async () => {
    await over({ withItems: true, asTheyAre: ['firm text'] });
    const em = unguarded(stage.orm);
    expect(await em.findOneOrFail(WordingRow, { course: { $ne: 1 }, key: 'firm' })).toMatchObject({
      subject: '{{ course.code }}: the lab',
      body: expect.stringContaining('due on September 14.'),
    });
  });

  test('a rule whose item has no match cannot be turned on, whichever way, before one is chosen', async () => {
    await addItem();
    const list = await over();
    const low = list.rules.find((r) => r.rule === 'low')!;
    expect(low.lacks).toEqual(['Chart lab 3: bearings']);
    const refused = await on(low).expect(422);
    const message = '“Chart lab 3: bearings” is not in this course. Choose another item';
    expect(refused.body).toMatchObject({ code: 'notInCourse', problems: [{ path: 'rule.when.item', message }] });
    // The rule names it by its title in the list too.
    const lacking = (await cards()).find((c) => c.rule.id === 'low')!;
    expect(lacking.sentence).toContain('Chart lab 3: bearings (not in this course)');
    expect(lacking.cannotRun).toBe('Chart lab 3: bearings is not in this course');
    // Its text links to the item as well, and says so.
    expect((await lists())[0]!.wordings).toMatchObject([{ lacksItem: false }, { wording: 'firm', lacksItem: true }]);
    const [item] = (await course()).items;
    const wordings = (await ada.get(`${there}/wordings`).expect(200)).body as WordingAnswer[];
    const {
      usedBy: _usedBy,
      onTrial: _onTrial,
      drafted: _drafted,
      version,
      ...firm
    } = wordings.find((w) => w.id === 'firm')!;
    const text = firm.text.replace('"lab-3"', JSON.stringify(item!.id));
    await ada
      .put(`${there}/wordings/firm`)
      .send({ wording: { ...firm, text }, version })
      .expect(200);
    const card = (await cards()).find((c) => c.rule.id === 'low')!;
    await ada
      .put(`${there}/rules/low`)
      .send({ rule: { ...card.rule, when: score(item!.id) }, version: card.version })
      .expect(200);
    expect((await lists())[0]!.rules.find((r) => r.rule === 'low')!.lacks).toEqual([]);
  });

  test('is undone as a whole while nothing of it has rung', async () => {
    const before = { ...(await course()), version: 0, settingsVersion: 0 };
    const list = await over({ withItems: true, sender: true, settings: { budget: true, quietHours: true } });
    const undone = await ada.post(`${there}/carry/${list.id}/undo`).send({}).expect(200);
    expect(undone.body).toEqual({ stays: [] });
    expect({ ...(await course()), version: 0, settingsVersion: 0 }).toEqual(before);
    expect(await cards()).toEqual([]);
    expect((await ada.get(`${there}/wordings`).expect(200)).body).toEqual([]);
    expect(await lists()).toEqual([]);
    await ada.post(`${there}/carry/${list.id}/undo`).send({}).expect(404);
  });

  test('what was edited since is named and stays, with its text, unless chosen', async () => {
    const list = await over({ withItems: true });
    const card = (await cards()).find((c) => c.rule.id === 'low')!;
    await ada
      .put(`${there}/rules/low`)
      .send({ rule: { ...card.rule, name: 'Lower' }, version: card.version })
      .expect(200);
    const undone = await ada.post(`${there}/carry/${list.id}/undo`).send({}).expect(200);
    expect(undone.body).toEqual({
      stays: [
        { kind: 'rule', name: 'Lower' },
        { kind: 'wording', name: 'Firm' },
        // It names one of them.
        { kind: 'items', name: 'Items, named scores, and weights' },
      ],
    });
    expect((await cards()).map((c) => c.rule.id)).toEqual(['low']);
  });

  test('what has rung is not taken back', async () => {
    const list = await over({ withItems: true });
    await on(list.rules[0]!).expect(200);
    stage.clock.set(at('2027-01-19T09:31'));
    await runDueRounds(stage.services);
    const refused = await ada.post(`${there}/carry/${list.id}/undo`).send({ changedToo: true }).expect(409);
    expect(refused.body).toMatchObject({ code: 'cannotUndo', problems: [{ code: 'hasRung' }] });
  });

  test('only from a course of one’s own, and items only into one that has none', async () => {
    const bo = await stage.signIn('bo@saltmarsh.example');
    await bo.post('/api/v1/courses/1/carry/preview').send({ from: 2 }).expect(404);
    const details = { code: 'B', title: 'Bo', timeZone: COURSE.timeZone, start: '2027-01-11', end: '2027-04-30' };
    const own = (await bo.post('/api/v1/courses').send({ details }).expect(201)).body as { id: number };
    await bo.post(`/api/v1/courses/${own.id}/carry`).send({ from: 1 }).expect(404);
    await ada.post(`${there}/carry`).send({ from: 99 }).expect(404);
    await addItem();
    const refused = await ada.post(`${there}/carry`).send({ from: 1, withItems: true }).expect(400);
    expect(refused.body).toMatchObject({ problems: [{ path: 'withItems' }] });
  });
});
