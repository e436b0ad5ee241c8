import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { MERGE_FIELDS } from '@zest-bell/core/wording';
import { PersonRow } from '../../course/entity.ts';
import { RuleRow } from '../../rules/entity.ts';
import { openStage, visit, type Agent, type TestStage } from '../../testing/stage.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
let ada: Agent;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-14T12:00' });
  ada = await stage.signIn();
});
afterEach(() => stage.close());
const wordings = '/api/v1/courses/1/wordings';
const draft = (text: string, subject = 'Hello') => ({
  id: 'gentle',
  name: 'Gentle',
  purpose: 'support',
  subject,
  text,
});
const preview = (text: string, student: string, when: unknown = null) =>
  ada.post(`${wordings}/preview`).send({ wording: draft(text), student, when });

test('the list says which rules use a wording', async () => {
  expect((await ada.get(wordings).expect(200)).body).toMatchObject([{ id: 'gentle', version: 1, usedBy: ['Away'] }]);
});

describe('changing the words', () => {
  test('does not take every word from a rule that sends them by itself', async () => {
    const empty = { wording: draft('{{ student.first_name }},\n\n{{ sender.signature }}'), version: 1 };
    const refused = await ada.put(`${wordings}/gentle`).send(empty).expect(422);
    expect(refused.body.code).toBe('nothingWritten');
    await unguarded(stage.orm).nativeUpdate(RuleRow, { key: 'away' }, { status: 'paused' });
    await ada.put(`${wordings}/gentle`).send(empty).expect(200);
  });

  test('makes a new version, and an older draft cannot overwrite it', async () => {
    const res = await ada
      .put(`${wordings}/gentle`)
      .send({ wording: draft('New words'), version: 1 })
      .expect(200);
    expect(res.body).toMatchObject({ version: 2, text: 'New words' });
    const late = await ada
      .put(`${wordings}/gentle`)
      .send({ wording: draft('Older'), version: 1 })
      .expect(409);
    expect(late.body.code).toBe('changedMeanwhile');
    await ada
      .put(`${wordings}/none`)
      .send({ wording: draft('x'), version: 1 })
      .expect(404);
  });

  test('by an assistant is kept beside what a running rule says, until somebody publishes it', async () => {
    const bea = await stage.colleague('assistant', 'bea@saltmarsh.example', 'Bea Stein');
    const kept = await bea
      .put(`${wordings}/gentle`)
      .send({ wording: draft('Other words'), version: 1 })
      .expect(200);
    expect(kept.body).toMatchObject({ version: 1, drafted: { by: 'Bea Stein', wording: { text: 'Other words' } } });
    const [own] = (await ada.get(wordings).expect(200)).body as { text: string; version: number }[];
    expect([own!.version, own!.text]).toEqual([1, expect.stringContaining('it has been')]);
    await bea.post(`${wordings}/gentle/publish`).send({ version: 1 }).expect(403);
    expect((await bea.put(`${wordings}/gentle`).send({ wording: draft('{{'), version: 1 })).status).toBe(422);
    const published = await ada.post(`${wordings}/gentle/publish`).send({ version: 1 }).expect(200);
    expect(published.body).toMatchObject({ version: 2, text: 'Other words', drafted: null });
    await ada.post(`${wordings}/gentle/publish`).send({ version: 2 }).expect(404);
    const last = await ada.get('/api/v1/courses/1/last-change?what=wording.change&of=gentle').expect(200);
    expect(last.body).toMatchObject({ by: 'Ada Lind' });

    await bea
      .put(`${wordings}/gentle`)
      .send({ wording: draft('Once more'), version: 2 })
      .expect(200);
    await bea.delete(`${wordings}/gentle/draft`).expect(204);
    await bea.delete(`${wordings}/gentle/draft`).expect(404);
    // One that no running rule says is theirs to change.
    await unguarded(stage.orm).nativeUpdate(RuleRow, { key: 'away' }, { status: 'paused' });
    const changed = await bea
      .put(`${wordings}/gentle`)
      .send({ wording: draft('Mine'), version: 2 })
      .expect(200);
    expect(changed.body).toMatchObject({ version: 3, text: 'Mine', drafted: null });
  });

  test('names a missing subject, a subject of two lines, and Liquid that cannot be read', async () => {
    const paths = async (wording: object, status: number) => {
      const res = await ada.put(`${wordings}/gentle`).send({ wording, version: 1 }).expect(status);
      return (res.body.problems as { path: string }[]).map((p) => p.path);
    };
    expect(await paths(draft('x', ' '), 400)).toEqual(['subject']);
    expect(await paths(draft('x', 'two\nlines'), 400)).toEqual(['subject']);
    expect(await paths(draft('{% if %}'), 422)).toEqual(['text']);
  });
});

describe('a preview', () => {
  test('is the message of one student, about what the rule asks', async () => {
    await stage.tell(
      [visit('p1', '2026-09-10T09:00')],
      [{ id: 'g', person: 'p1', item: 'q1', points: 9, at: '2026-09-14T08:00:00-04:00' }],
    );
    const when = { measure: 'score', item: 'q1', is: '<=', value: 50 };
    const res = await preview('{{ student.first_name }}: {{ item.score }} on {{ item.title }}', 'p1', when).expect(200);
    expect(res.body.message.text).toBe('P1: 45% on Tide tables quiz');
    const other = await preview('{{ item.title | default: "nothing" }}', 'p1').expect(200);
    expect(other.body.message.text).toBe('nothing');
  });

  test('says which fields are empty for this student and have no fallback', async () => {
    const res = await preview(
      'Last seen {{ student.last_visit }}, {{ student.section | default: "no section" }}',
      'p2',
    );
    expect(res.body.message.blanks).toEqual(['student.last_visit']);
  });

  test('of every merge field works for everyone, whatever is known of them', async () => {
    const all = MERGE_FIELDS.map((f) => `{{ ${f.name} }}`).join(' ');
    for (const student of ['p1', 'p2', 'p3']) await preview(all, student).expect(200);
    await preview(all, 'p1', { measure: 'missing', items: ['q1'], is: '>=', value: 1 }).expect(200);
    await preview('x', 'nobody').expect(404);
  });
});

test('every merge field is read for one student, about what the rule asks', async () => {
  const when = { measure: 'score', item: 'q1', is: '<=', value: 50 };
  const ask = (student: string) => ada.post('/api/v1/courses/1/wordings/examples').send({ student, when });
  const { body } = await ask('p1').expect(200);
  expect(body).toMatchObject({ 'student.first_name': 'P1', 'item.title': 'Tide tables quiz' });
  await ask('nobody').expect(404);
});

describe('removing a wording', () => {
  const remove = async (key: string, version = 1) => ada.post(`${wordings}/${key}/remove`).send({ version });

  test('is refused while a rule says it, by name', async () => {
    const res = await remove('gentle');
    expect(res.status).toBe(409);
    expect(res.body).toMatchObject({ code: 'wordingInUse', problems: [{ message: '“Away” uses this wording' }] });
  });

  test('takes one away that no rule says; a change of somebody else meanwhile keeps it', async () => {
    const words = { name: 'Spare', purpose: 'praise', subject: 'S', text: 'T' };
    const made = await ada.post(wordings).send({ wording: words }).expect(201);
    const key = (made.body as { id: string }).id;
    expect((await remove(key, 7)).body).toMatchObject({ code: 'changedMeanwhile' });
    expect((await remove(key)).status).toBe(204);
    expect((await remove(key)).status).toBe(404);
  });
});

describe('a wording is hostile until it is read', () => {
  test.each(['render', 'include', 'layout'])('no file of the server is read by “%s”', async (tag) => {
    const answer = await preview(`{% ${tag} "package.json" %}`, 'p1');
    expect([answer.status, answer.body.code]).toEqual([422, 'wordingBroken']);
    expect(JSON.stringify(answer.body)).not.toContain('workspaces');
  });

  test('a text that fails on the values of one student is refused with their name before it is saved', async () => {
    await unguarded(stage.orm).nativeUpdate(PersonRow, { key: 'p2' }, { firstName: '100%' });
    const saved = await ada.post(wordings).send({ wording: draft('{{ student.first_name | url_decode }}') });
    expect(saved.status).toBe(422);
    expect(saved.body.problems[0].message).toContain('with the values of 100% Lind');
  });
});
