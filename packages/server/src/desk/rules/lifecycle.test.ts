// Runs on PostgreSQL too.
/** However a rule comes to be on, the same guard comes before it. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { RuleCard } from '@zest-bell/core/exchange';
import { PersonRow } from '../../course/entity.ts';
import { at, COURSE, openStage, ruleOf, type Agent, type TestStage } from '../../testing/stage.ts';
import { WordingRow } from '../../wording/entity.ts';
import { RuleRow } from '../../rules/entity.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
let ada: Agent;
afterEach(() => stage.close());

const BASE = '/api/v1/courses/1/rules';
const contacts = [{ kind: 'mentor', name: 'M', email: 'm@home.example' }];

/** A rule that is off, and each way in which it can come to be on. */
const WAYS = {
  'turned on': (more: object) =>
    ada.post(`${BASE}/status`).send({ status: 'on', rules: [{ rule: 'away', version: 1 }], ...more }),
  'turned on with others': (more: object) =>
    ada
      .post(`${BASE}/status`)
      .send({ status: 'on', rules: ['other', 'away'].map((rule) => ({ rule, version: 1 })), ...more }),
  'taken out of the archive': async (more: object) => {
    const put = await ada.post(`${BASE}/away/archive`).send({ version: 1 }).expect(200);
    const { version } = (put.body as { rule: { version: number } }).rule;
    return ada.post(`${BASE}/away/unarchive`).send({ version, status: 'on', ...more });
  },
} as const;
const open = async (setting: Parameters<typeof openStage>[0]) => {
  stage = await openStage(setting);
  ada = await stage.signIn();
};
const status = async () => (await stage.rule()).status;
const paused = ruleOf({ status: 'paused' });
const other = ruleOf({
  id: 'other',
  name: 'Other',
  status: 'paused',
  when: { measure: 'absences', is: '>=', value: 99 },
});

describe.each(Object.keys(WAYS) as (keyof typeof WAYS)[])('a rule that is %s', (way) => {
  test('asks before it writes to many', async () => {
    await open({ now: '2026-09-10T12:00', guards: { askAbove: 0.5, staleHours: null }, rules: [paused, other] });
    const refused = await WAYS[way]({});
    expect([refused.status, refused.body.code]).toEqual([409, 'reachesMany']);
    expect(await status()).not.toBe('on');
  });

  test('asks before it writes to an address outside, and keeps the yes', async () => {
    const steps = [{ deliver: 'send', to: ['contact:mentor'], wording: 'gentle' }];
    const people = COURSE.people.map((p) => ({ ...p, contacts }));
    await open({ now: '2026-09-10T12:00', course: { people }, rules: [ruleOf({ status: 'paused', steps }), other] });
    const refused = await WAYS[way]({ confirmed: true });
    expect([refused.status, refused.body.code]).toEqual([409, 'outsideAddresses']);
    expect(await status()).not.toBe('on');
  });

  test('asks for a text that can be made for every student', async () => {
    await open({ now: '2026-09-10T12:00', rules: [paused, other] });
    const em = unguarded(stage.orm);
    await em.nativeUpdate(PersonRow, { key: 'p2' }, { firstName: '100%' });
    await em.insert(WordingRow, {
      course: 1,
      key: 'bad',
      name: 'Bad',
      purpose: 'support',
      subject: 'S',
      body: '{{ student.first_name | url_decode }}',
      variants: [],
      copies: [],
      files: [],
      letter: null,
      version: 1,
    });
    const row = await stage.rule();
    const steps = [{ after: { days: 0, hours: 0 }, deliver: 'send', to: ['student'], wording: 'bad' }];
    await em.nativeUpdate(RuleRow, { key: 'away' }, { document: { ...row.document, steps } });
    const refused = await (way === 'taken out of the archive'
      ? ada.post(`${BASE}/away/unarchive`).send({ version: 1, status: 'on', confirmed: true })
      : WAYS[way]({ confirmed: true }));
    expect([refused.status, refused.body.code]).toEqual([422, 'wordingBroken']);
    expect(await status()).toBe('paused');
  });

  test('asks for a text that says something', async () => {
    await open({ now: '2026-09-10T12:00', rules: [paused, other] });
    const em = unguarded(stage.orm);
    await em.nativeUpdate(
      WordingRow,
      { key: 'gentle' },
      { body: 'Dear {{ student.first_name }},\n\n{{ sender.signature }}' },
    );
    const refused = await WAYS[way]({ confirmed: true });
    expect([refused.status, refused.body.code]).toEqual([422, 'nothingWritten']);
    expect(refused.body.problems[0].message).toMatch(
      /^The text of “.+” has nothing between salutation and signature yet$/,
    );
    expect(await status()).not.toBe('on');
  });
});

describe('a rule', () => {
  beforeEach(() => open({ now: '2026-09-10T12:00', rules: [paused, other] }));

  test('whose text cannot be made is still paused and put away', async () => {
    const em = unguarded(stage.orm);
    await em.nativeUpdate(RuleRow, { key: 'away' }, { status: 'on' });
    await em.nativeUpdate(WordingRow, { key: 'gentle' }, { body: '{{ student.first_name | append }}' });
    await ada
      .post(`${BASE}/status`)
      .send({ status: 'paused', rules: [{ rule: 'away', version: 1 }] })
      .expect(200);
    await ada.post(`${BASE}/away/archive`).send({ version: 2 }).expect(200);
  });

  test('in the archive is not turned on', async () => {
    await ada.post(`${BASE}/away/archive`).send({ version: 1 }).expect(200);
    const refused = await ada.post(`${BASE}/status`).send({ status: 'on', rules: [{ rule: 'away', version: 2 }] });
    expect(refused.body.code).toBe('ruleArchived');
  });

  test('has its status as one stored fact: what looks and what is shown read the same', async () => {
    await unguarded(stage.orm).nativeUpdate(RuleRow, { key: 'away' }, { status: 'on' });
    const cards = (await ada.get(BASE).expect(200)).body as { rule: { id: string; status: string } }[];
    expect(cards.find((c) => c.rule.id === 'away')!.rule.status).toBe('on');
    expect((await stage.rule()).document).not.toHaveProperty('status');
  });

  test('turned on looks next on its own rhythm', async () => {
    await WAYS['turned on']({ confirmed: true }).expect(200);
    expect((await stage.rule()).nextRoundAt).toBe(at('2026-09-11T09:30'));
  });
});

test('only a rule that was on is paused: the card says whether it ever was', async () => {
  await open({ now: '2026-09-10T12:00', rules: [ruleOf({ status: 'paused' })] });
  const card = async () => ((await ada.get(BASE).expect(200)).body as RuleCard[])[0]!;
  const set = async (to: 'on' | 'paused') =>
    ada
      .post(`${BASE}/status`)
      .send({ status: to, rules: [{ rule: 'away', version: (await card()).version }], confirmed: true })
      .expect(200);
  expect((await card()).wasOn).toBe(false);
  await set('on');
  expect((await card()).wasOn).toBe(true);
  await set('paused');
  expect(await card()).toMatchObject({ wasOn: true, rule: { status: 'paused' } });
});
