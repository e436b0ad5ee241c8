// Runs on PostgreSQL too.
/** Which messages a claim takes. */
import { asTx } from '../../testing/asTx.ts';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { MessageRow } from '../nudges/entity.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { AttemptRow } from '../nudges/attempt.ts';
import { insertNudge } from '../../testing/queued.ts';
import { at, COURSE, openStage, SENDER, type TestStage } from '../../testing/stage.ts';
import { reserve, threadKey, threads, variantsBeside, type Reservation, isOfNudge } from './queue.ts';
import { unguarded } from '../../testing/unguarded.ts';
import { insertCourse } from '../../testing/insertCourse.ts';

const NOW = at('2026-09-10T12:00');
let stage: TestStage;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
  await inTransaction(stage.orm, (em) =>
    insertCourse(em, { ...COURSE, code: 'NAV 121' }, { sender: { ...SENDER, domains: [] }, tokenHash: 'two' }),
  );
});
afterEach(() => stage.close());
const em = () => unguarded(stage.orm);
const taken = (more: Partial<Reservation> = {}) =>
  inTransaction(stage.orm, (inside) =>
    reserve(asTx(inside), {
      worker: 'me',
      now: NOW,
      limit: 10,
      without: new Set(),
      stale: new Map(),
      waiting: [],
      room: () => Infinity,
      ...more,
    }),
  );
const queued = (course: number, ...sendAts: number[]) =>
  insertNudge(
    asTx(em()),
    { course },
    sendAts.map((sendAt, i) => ({ sendAt, address: `${course}-${i}@saltmarsh.example` })),
  );

describe('a claim', () => {
  test('takes what is due, the longest due first, and makes it this process’s', async () => {
    await queued(1, NOW, NOW - 5, NOW + 1);
    const messages = await taken();
    expect(messages.map((m) => m.address)).toEqual(['1-1@saltmarsh.example', '1-0@saltmarsh.example']);
    expect(messages[0]).toMatchObject({
      nudge: 1,
      course: 1,
      kind: 'student',
      rule: 'away',
      student: 'p1',
      step: 0,
      wording: 'gentle',
      attempts: 1,
      variant: null,
      roundAt: at('2026-09-06T10:00'),
      edited: null,
      name: 'P1 Lind',
    });
    expect(await em().find(MessageRow, {}, { orderBy: { id: 'asc' } })).toMatchObject([
      { state: 'handing', claimedBy: 'me', attempts: 1 },
      { state: 'handing', claimedBy: 'me', attempts: 1 },
      { state: 'queued', claimedBy: null, attempts: 0 },
    ]);
    // A second one finds them taken.
    expect(await taken()).toEqual([]);
  });

  test('takes the whole of what goes as one mail, and nothing of another course that has the same key', async () => {
    const bundle = 'away:1:0:advisor@saltmarsh.example';
    const address = 'advisor@saltmarsh.example';
    const three = (course: number) =>
      insertNudge(
        asTx(em()),
        { course },
        [3, 2, 1].map((before) => ({ sendAt: NOW - before, address, bundle })),
      );
    await three(1);
    await three(2);
    const messages = await taken({ limit: 1, without: new Set([2]) });
    expect(messages.map((m) => m.course)).toEqual([1, 1, 1]);
    expect((await taken({ limit: 1 })).map((m) => m.course)).toEqual([2, 2, 2]);
  });

  test('takes no more than it is allowed, of every course its share', async () => {
    await queued(1, NOW - 9, NOW - 8, NOW - 7, NOW - 6, NOW - 5);
    await queued(2, NOW - 2, NOW - 1);
    expect((await taken({ limit: 3 })).map((m) => m.address)).toEqual([
      '1-0@saltmarsh.example',
      '1-1@saltmarsh.example',
      '2-0@saltmarsh.example',
    ]);
    expect(await taken({ limit: 0 })).toEqual([]);
    // What one course does not need is the other's.
    expect((await taken({ limit: 4 })).map((m) => m.address)).toEqual([
      '1-2@saltmarsh.example',
      '1-3@saltmarsh.example',
      '2-1@saltmarsh.example',
    ]);
    expect((await taken({ limit: 1 })).map((m) => m.address)).toEqual(['1-4@saltmarsh.example']);
  });

  test('with room for fewer messages than there are courses takes the courses that wait longest', async () => {
    await queued(2, NOW - 1);
    await queued(1, NOW - 2);
    expect((await taken({ limit: 1 })).map((m) => m.course)).toEqual([1]);
  });

  test('leaves courses and rules that wait, and takes the same rule elsewhere', async () => {
    await queued(1, NOW);
    await queued(2, NOW);
    await insertNudge(asTx(em()), { course: 1, rule: 'other' });
    const stale = new Map([[1, new Set(['away'])]]);
    expect((await taken({ stale, without: new Set([2]) })).map((m) => [m.course, isOfNudge(m) && m.rule])).toEqual([
      [1, 'other'],
    ]);
    expect((await taken({ stale })).map((m) => [m.course, isOfNudge(m) && m.rule])).toEqual([[2, 'away']]);
    expect((await taken()).map((m) => [m.course, isOfNudge(m) && m.rule])).toEqual([[1, 'away']]);
  });
});

test('a text that was chosen for another message of the same nudge is known', async () => {
  const { nudge } = await insertNudge(asTx(em()), {}, [{ variant: 2 }, {}]);
  const other = await insertNudge(asTx(em()), {}, [{}]);
  const third = await insertNudge(asTx(em()), {}, [{ variant: 1 }]);
  expect(await variantsBeside(em(), [nudge, other.nudge])).toEqual(new Map([[nudge, 2]]));
  expect((await variantsBeside(em(), [third.nudge])).get(third.nudge)).toBe(1);
});

describe('a message answers', () => {
  const attempt = (nudge: number, outcome: 'sent' | 'transient', messageId: string, address = 'p1@saltmarsh.example') =>
    em().insert(AttemptRow, {
      course: 1,
      message: 1,
      nudge,
      at: NOW,
      outcome,
      response: '',
      messageId,
      recipientName: '',
      address,
      fromAddress: '',
      replyTo: '',
      subject: '',
      body: '',
      html: '',
      files: [],
      evidence: [],
    });

  test('the last one of its rule and spell that reached the same address', async () => {
    const [first, second, third] = [
      await insertNudge(asTx(em())),
      await insertNudge(asTx(em())),
      await insertNudge(asTx(em())),
    ];
    await attempt(first.nudge, 'sent', '<one>');
    await attempt(first.nudge, 'sent', '<aunt>', 'aunt@home.example');
    await attempt(second.nudge, 'sent', '<two>');
    await attempt(second.nudge, 'transient', '<never arrived>');
    const found = await threads(em(), [second.nudge, third.nudge]);
    expect(found).toEqual(
      new Map([
        [threadKey(second.nudge, 'p1@saltmarsh.example'), '<one>'],
        [threadKey(second.nudge, 'aunt@home.example'), '<aunt>'],
        [threadKey(third.nudge, 'p1@saltmarsh.example'), '<two>'],
        [threadKey(third.nudge, 'aunt@home.example'), '<aunt>'],
      ]),
    );
    expect(await threads(em(), [first.nudge])).toEqual(new Map());
  });

  test('none of another rule, student, spell or course', async () => {
    for (const other of [{ rule: 'other' }, { student: 'p2' }, { spellStart: 5 }, { course: 2 }]) {
      await attempt((await insertNudge(asTx(em()), other)).nudge, 'sent', '<other>');
    }
    const { nudge } = await insertNudge(asTx(em()));
    expect(await threads(em(), [nudge])).toEqual(new Map());
  });
});
