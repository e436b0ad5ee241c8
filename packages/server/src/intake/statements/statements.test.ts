// Runs on PostgreSQL too.
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import request from 'supertest';
import type { Capability } from '@zest-bell/core/access';
import type { WaitingGroup } from '@zest-bell/core/imports';
import { TokenRow } from '../../access/entity.ts';
import { hashOf } from '../../access/passwords.ts';
import { EventRow, GradeRow } from '../../course/activity/entity.ts';
import { at, openStage, type TestStage } from '../../testing/stage.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
let secret: string;
const V = 'X-Experience-API-Version';
const PATH = '/xapi/1/statements';

beforeEach(async () => {
  stage = await openStage({ now: '2026-10-26T08:00' });
  const agent = await stage.signIn();
  secret = ((await agent.post('/api/v1/courses/1/data/secret').send({ of: 'statements' })).body as { secret: string })
    .secret;
  // Tests read back what they sent, which is a capability of its own.
  await setCapabilities(['data.write', 'course.read']);
});
afterEach(() => stage.close());

const setCapabilities = (capabilities: readonly Capability[]) =>
  unguarded(stage.orm).nativeUpdate(TokenRow, { hash: hashOf(secret) }, { capabilities });
const with_ = (req: request.Test, version: string | null = '1.0.3') =>
  (version === null ? req : req.set(V, version)).auth('course-1', secret);
const post = (body: object, version: string | null = '1.0.3') =>
  with_(request(stage.app).post(PATH), version).send(body);
const get = (query: Record<string, string>) => with_(request(stage.app).get(PATH).query(query));
const put = (id: string, body: object) => with_(request(stage.app).put(PATH).query({ statementId: id })).send(body);

/** The simple statement of the specification (xAPI 1.0.3, part 2, appendix A), typed from memory. */
const simple = {
  id: 'fd41c918-b88b-4b20-a0a5-a4c32391aaa0',
  timestamp: '2015-11-18T12:17:00+00:00',
  actor: { objectType: 'Agent', name: 'Project Tin Can API', mbox: 'mailto:user@example.com' },
  verb: { id: 'http://example.com/xapi/verbs#sent-a-statement', display: { 'en-US': 'sent' } },
  object: {
    id: 'http://example.com/xapi/activity/simplestatement',
    definition: {
      name: { 'en-US': 'simple statement' },
      description: { 'en-US': 'A simple Experience API statement.' },
    },
  },
};
const id = (n: number) => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
const opened = (n: number, more: object = {}) => ({
  id: id(n),
  actor: { mbox: 'mailto:p1@saltmarsh.example' },
  verb: { id: 'http://adlnet.gov/expapi/verbs/experienced' },
  object: { id: 'https://lms.saltmarsh.example/items/q1' },
  timestamp: '2026-10-20T10:00:00Z',
  ...more,
});

// xAPI 1.0.3, part 3, 1.2 to 3.2, and part 2, 2.2: typed from memory of the specification.
describe('[xAPI] the statements resource', () => {
  test('asks for its version and its key, and says its own version', async () => {
    expect((await post(simple, null)).status).toBe(400);
    expect((await post(simple, '0.95')).status).toBe(400);
    const res = await request(stage.app).post(PATH).set(V, '1.0.3').auth('course-1', 'wrong').send(simple);
    expect([res.status, res.get('www-authenticate'), res.get(V)]).toEqual([
      401,
      expect.stringMatching(/^Basic/),
      '1.0.3',
    ]);
    expect(
      (await request(stage.app).post('/xapi/2/statements').set(V, '1.0.3').auth('course-1', secret).send(simple))
        .status,
    ).toBe(401);
    expect((await post(simple, '2.0.0')).get(V)).toBe('2.0.0');
    const about = await request(stage.app).get('/xapi/1/about');
    expect((about.body as { version: string[] }).version).toContain('1.0.3');
  });

  test('keeps a statement once, and refuses another under its id', async () => {
    expect((await put(simple.id, simple)).status).toBe(204);
    expect((await put(simple.id, simple)).status).toBe(204);
    expect((await put(simple.id, { ...simple, verb: { id: 'http://example.com/other' } })).status).toBe(409);
    expect((await put(id(1), simple)).status).toBe(400);
    expect((await put('no', simple)).status).toBe(400);
    const kept = (await get({ statementId: simple.id })).body as Record<string, unknown>;
    expect(kept).toMatchObject(simple);
    expect(Object.keys(kept)).toEqual(expect.arrayContaining(['stored', 'authority', 'version']));
    expect((await get({ statementId: id(9) })).status).toBe(404);
    expect((await get({ statementId: simple.id, verb: 'x' })).status).toBe(400);
  });

  test('takes a batch whole or not at all', async () => {
    const res = await post([opened(1), opened(2, { actor: {} })]);
    expect([res.status, (res.body as { error: string }).error]).toEqual([
      400,
      expect.stringContaining('Statement 2: actor'),
    ]);
    expect((await get({ statementId: id(1) })).status).toBe(404);
    expect((await post([opened(1), opened(1)])).status).toBe(400);
    await post([opened(1)]);
    expect((await post([opened(3), opened(1, { timestamp: '2026-10-21T10:00:00Z' })])).status).toBe(409);
    expect((await get({ statementId: id(3) })).status).toBe(404);
    expect((await post([opened(3), opened(4)])).body).toEqual([id(3), id(4)]);
  });

  test.each<[string, object]>([
    ['a null outside of extensions', { result: { response: null } }],
    ['a property that is not known', { surprise: 1 }],
    ['two identifiers', { actor: { mbox: 'mailto:a@b.example', openid: 'https://a.example' } }],
    ['a mailbox without mailto', { actor: { mbox: 'a@b.example' } }],
    ['a score out of its bounds', { result: { score: { raw: 5, max: 3 } } }],
    ['a verb that is no IRI', { verb: { id: 'opened' } }],
    ['an offset of minus zero', { timestamp: '2026-10-20T10:00:00-00:00' }],
    ['voiding what is no statement', { verb: { id: 'http://adlnet.gov/expapi/verbs/voided' } }],
  ])('refuses %s', async (_what, more) => {
    expect((await post(opened(1, more))).status).toBe(400);
  });

  test('refuses what is nested without end, as something to mend', async () => {
    const depth = 200_000;
    const deep = `${'['.repeat(depth)}${']'.repeat(depth)}`;
    const text = JSON.stringify(opened(1, { context: { extensions: { 'https://x.example': 0 } } }));
    const sent = text.replace('"https://x.example":0', `"https://x.example":${deep}`);
    const res = await with_(request(stage.app).post(PATH)).type('json').send(sent);
    expect([res.status, (res.body as { error: string }).error]).toEqual([400, 'context is nested more than 40 deep.']);
  });

  test('lists by its filters, the latest first, a page at a time', async () => {
    await post([opened(1), opened(2, { verb: { id: 'http://adlnet.gov/expapi/verbs/launched' } }), opened(3)]);
    stage.clock.set(at('2026-10-26T09:00'));
    await post([opened(4, { actor: { mbox: 'mailto:p2@saltmarsh.example' }, context: { registration: id(77) } })]);
    const ids = async (query: Record<string, string>) => {
      const { body } = await get(query);
      return (body as { statements: { id: string }[] }).statements.map((s) => Number(s.id.slice(-2)));
    };
    expect(await ids({})).toEqual([4, 3, 2, 1]);
    expect(await ids({ ascending: 'true' })).toEqual([1, 2, 3, 4]);
    expect(await ids({ verb: 'http://adlnet.gov/expapi/verbs/launched' })).toEqual([2]);
    expect(await ids({ agent: JSON.stringify({ mbox: 'mailto:p2@saltmarsh.example' }) })).toEqual([4]);
    expect(await ids({ activity: 'https://lms.saltmarsh.example/items/q1', limit: '2' })).toEqual([4, 3]);
    expect(await ids({ registration: id(77) })).toEqual([4]);
    expect(await ids({ since: new Date(at('2026-10-26T08:00')).toISOString() })).toEqual([4]);
    expect(await ids({ until: new Date(at('2026-10-26T08:00')).toISOString() })).toEqual([3, 2, 1]);
    expect((await get({ agent: '{' })).status).toBe(400);
    expect((await get({ nonsense: '1' })).status).toBe(400);
    const first = await get({ limit: '3' });
    const { more } = first.body as { more: string };
    expect(first.get('x-experience-api-consistent-through')).toBeDefined();
    const rest = await with_(request(stage.app).get(more));
    expect(rest.body).toMatchObject({ statements: [{ id: id(1) }], more: '' });
  });

  test('bounds a statement, a batch, and a page by its length', async () => {
    const padded = (n: number, length: number) => opened(n, { result: { response: 'x'.repeat(length) } });
    const long = await post([opened(1), padded(2, 100_000)]);
    expect([long.status, (long.body as { error: string }).error]).toEqual([
      413,
      'Statement 2: A statement has at most 100 KB.',
    ]);
    expect((await post(Array.from({ length: 1001 }, (_, i) => opened(i)))).status).toBe(413);
    for (let n = 0; n < 50; n += 25) {
      const batch = Array.from({ length: 25 }, (_, i) => padded(n + i, 95_000));
      expect((await post(batch)).status).toBe(200);
    }
    const page = (await get({ limit: '500' })).body as { statements: { id: string }[]; more: string };
    expect(page.statements).toHaveLength(43);
    const [, query] = page.more.split('?');
    const rest = (await get(Object.fromEntries(new URLSearchParams(query)))).body as typeof page;
    expect([rest.statements.length, rest.more]).toEqual([7, '']);
    expect(new Set([...page.statements, ...rest.statements].map((s) => s.id)).size).toBe(50);
  });

  test('voids a thousand statements of one request', async () => {
    const all = Array.from({ length: 1000 }, (_, i) => opened(i, { timestamp: new Date(i * 60_000).toISOString() }));
    expect((await post(all)).status).toBe(200);
    const voiding = all.map(({ id: target }, i) => ({
      id: id(5000 + i),
      actor: { mbox: 'mailto:p1@saltmarsh.example' },
      verb: { id: 'http://adlnet.gov/expapi/verbs/voided' },
      object: { objectType: 'StatementRef', id: target },
    }));
    expect((await post(voiding)).status).toBe(200);
    expect(await unguarded(stage.orm).count(EventRow)).toBe(0);
  });

  test('voids a statement of the same batch', async () => {
    const voiding = {
      verb: { id: 'http://adlnet.gov/expapi/verbs/voided' },
      object: { objectType: 'StatementRef', id: id(8) },
    };
    await post([opened(8), opened(9, voiding)]);
    expect(await unguarded(stage.orm).count(EventRow)).toBe(0);
    expect((await get({ voidedStatementId: id(8) })).status).toBe(200);
  });

  test('voids a statement and what it became; the voiding one stays', async () => {
    await post([opened(1)]);
    expect(await unguarded(stage.orm).count(EventRow)).toBe(1);
    const voiding = opened(2, {
      verb: { id: 'http://adlnet.gov/expapi/verbs/voided' },
      object: { objectType: 'StatementRef', id: id(1) },
    });
    await post([voiding]);
    expect(await unguarded(stage.orm).count(EventRow)).toBe(0);
    expect((await get({ statementId: id(1) })).status).toBe(404);
    expect((await get({ voidedStatementId: id(1) })).status).toBe(200);
    expect((await get({})).body).toMatchObject({ statements: [{ id: id(2) }] });
  });
});

test('statements become activity and grades; those that fit nothing wait, and are taken once somebody says what they mean', async () => {
  await post([
    opened(1),
    opened(2, { verb: { id: 'http://adlnet.gov/expapi/verbs/scored' }, result: { score: { scaled: 0.4 } } }),
    opened(3, { verb: { id: 'https://lms.saltmarsh.example/verbs/peeked' } }),
    opened(4, { actor: { account: { homePage: 'https://lms.saltmarsh.example', name: 'user-17' } } }),
    opened(5, { object: { id: 'https://lms.saltmarsh.example/x/99' } }),
  ]);
  const em = () => unguarded(stage.orm);
  expect([await em().count(EventRow), await em().count(GradeRow, { points: 8 })]).toEqual([1, 1]);
  const agent = await stage.signIn();
  const waiting = (await agent.get('/api/v1/courses/1/statements/waiting').expect(200)).body as WaitingGroup[];
  expect(waiting.map((w) => [w.about, w.said])).toEqual(
    expect.arrayContaining([
      ['verb', 'https://lms.saltmarsh.example/verbs/peeked'],
      ['person', 'user-17'],
      ['item', 'https://lms.saltmarsh.example/x/99'],
    ]),
  );
  const meanings = { verbs: { 'https://lms.saltmarsh.example/verbs/peeked': 'open' }, people: { 'user-17': 'p2' } };
  expect((await agent.put('/api/v1/courses/1/data/meanings').send(meanings).expect(200)).body).toEqual({ taken: 2 });
  expect(await em().count(EventRow, { person: 'p2', kind: 'open', item: 'q1' })).toBe(1);
});

test('a token that may only send data reads back nothing, and one that may only read sends nothing', async () => {
  await post(simple).expect(200);
  await setCapabilities(['data.write']);
  expect((await get({ statementId: simple.id })).status).toBe(403);
  await setCapabilities(['course.read']);
  expect((await get({ statementId: simple.id })).status).toBe(200);
  expect((await post(opened(7))).status).toBe(403);
});
