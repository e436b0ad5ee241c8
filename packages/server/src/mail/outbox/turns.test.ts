// Runs on PostgreSQL too.
/** How the dispatcher takes its turns: what is on its way at once, what stops it, and that nothing is lost by it. */
import { asTx } from '../../testing/asTx.ts';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { DeliveryOutcome } from '@zest-bell/core/nudges';
import { MessageRow } from '../nudges/entity.ts';
import { CONNECTIONS, type OutgoingMail } from '../../platform/mail/mail.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { insertRule } from '../../rules/repository.ts';
import { AttemptRow } from '../nudges/attempt.ts';
import type { CourseServices } from '../../course/services.ts';
import { insertNudge } from '../../testing/queued.ts';
import { at, classOf, COURSE, openStage, ruleOf, SENDER, type TestStage } from '../../testing/stage.ts';
import { until } from '../../testing/until.ts';
import { WordingRow } from '../../wording/entity.ts';
import { Dispatcher, MOST_A_TURN, MOST_UNCLEAR, type BeforeMail } from './dispatcher.ts';
import { MailTroubleRow, WorkerRow } from './entity.ts';
import { machine } from './worker.ts';
import { unguarded } from '../../testing/unguarded.ts';
import { insertCourse } from '../../testing/insertCourse.ts';

const NOW = at('2026-09-10T12:00');
const SENT: DeliveryOutcome = { kind: 'sent', response: '250 ok' };

let stage: TestStage;
/** To whom the mail server was given mail, in order. */
let given: string[];
let answer: (mail: OutgoingMail) => Promise<DeliveryOutcome>;
beforeEach(async () => {
  // Nobody of them has ever come: all match the rule at any time.
  stage = await openStage({ now: '2026-09-10T12:00', course: { people: classOf(60) } });
  given = [];
  answer = () => Promise.resolve(SENT);
});
afterEach(() => stage.close());
const em = () => unguarded(stage.orm);

const dispatcherOf = (before?: readonly BeforeMail[], more: Partial<CourseServices> = {}) =>
  new Dispatcher(
    {
      ...stage.services,
      mail: {
        ...stage.services.mail,
        async handOver(mail, mayBegin) {
          if (!(await mayBegin())) return null;
          given.push(mail.to.address);
          return answer(mail);
        },
      },
      ...more,
    },
    before,
  );
async function queue(many: number, more: object = {}, from = 0): Promise<void> {
  for (let i = from; i < from + many; i++) await insertNudge(asTx(em()), { student: `s${i}`, ...more });
}
const messages = () => em().find(MessageRow, {}, { orderBy: { id: 'asc' } });
const states = async () => (await messages()).map((m) => m.state);
const attempts = () => em().find(AttemptRow, {}, { orderBy: { id: 'asc' } });
/** So many of each. */
const counted = (all: readonly string[]) =>
  Object.fromEntries([...new Set(all)].map((one) => [one, all.filter((other) => other === one).length]));

/** A door before the mail server: what is handed over waits until it is opened. */
function door() {
  let open!: () => void;
  const opened = new Promise<void>((ready) => (open = ready));
  let came!: () => void;
  const first = new Promise<void>((ready) => (came = ready));
  return { open, first, pass: () => (came(), opened) };
}

describe('what is on its way', () => {
  test('is written down before, and is little while the mail server answers at once; all leaves, once each', async () => {
    let [ahead, onTheirWay, most] = [0, 0, 0];
    answer = async (mail) => {
      most = Math.max(most, ++onTheirWay);
      if (given.length % 12 === 1) {
        ahead = Math.max(ahead, await em().count(AttemptRow, { outcome: 'handing' }));
        const begun = await em().find(MessageRow, { begunAt: { $ne: null } });
        expect(begun.map((m) => m.address)).toContain(mail.to.address);
        expect(begun.length).toBeLessThanOrEqual(MOST_UNCLEAR);
      }
      onTheirWay--;
      return SENT;
    };
    await queue(60);
    await dispatcherOf().drain();
    expect(new Set(given).size).toBe(60);
    expect(given).toHaveLength(60);
    expect(counted(await states())).toEqual({ sent: 60 });
    expect(most).toBeLessThan(CONNECTIONS);
    // A server that keeps up has many prepared for it.
    expect(ahead).toBeGreaterThan(2 * CONNECTIONS);
    expect((await messages()).filter((m) => m.begunAt !== null)).toEqual([]);
  });

  test('is one on each line but one, which is kept for others, while the mail server takes its time; little is prepared', async () => {
    let [onLine, most, ahead] = [0, 0, 0];
    const answered = new Set<string>();
    answer = async (mail) => {
      most = Math.max(most, ++onLine);
      // An answer that is not written yet is nothing that was prepared.
      const handing = await em().find(AttemptRow, { outcome: 'handing' });
      ahead = Math.max(ahead, handing.filter((a) => !answered.has(a.address)).length);
      // A turn of 300 ms is seven or eight of these, whatever a busy machine adds to or takes from it.
      await new Promise((later) => setTimeout(later, 200));
      onLine--;
      answered.add(mail.to.address);
      return SENT;
    };
    await queue(3 * CONNECTIONS);
    await dispatcherOf().drain();
    expect(counted(await states())).toEqual({ sent: 3 * CONNECTIONS });
    expect(most).toBe(CONNECTIONS - 1);
    expect(ahead).toBeLessThanOrEqual(2 * CONNECTIONS);
  });

  test('is not begun where it is another process’s by then', async () => {
    await queue(3);
    // Taken for dead while it made its first mail: another one has it.
    let stolen = 0;
    await dispatcherOf(undefined, {
      mail: {
        ...stage.services.mail,
        async handOver(mail, mayBegin) {
          if (stolen++ === 0)
            await em().nativeUpdate(MessageRow, { address: mail.to.address }, { claimedBy: 'another/1/x' });
          if (!(await mayBegin())) return null;
          given.push(mail.to.address);
          return SENT;
        },
      },
    }).drain();
    expect(given.toSorted()).toEqual(['s1@saltmarsh.example', 's2@saltmarsh.example']);
    expect((await messages())[0]).toMatchObject({ state: 'handing', claimedBy: 'another/1/x', begunAt: null });
  });

  test('gives no student the same text twice running, at whatever pace the mail server takes it', async () => {
    const variants = [{ subject: 'two', text: 'two' }];
    await em().nativeUpdate(WordingRow, { key: 'gentle' }, { subject: 'one', body: 'one', variants });
    for (let i = 0; i < 120; i++) await insertNudge(asTx(em()), { student: `s${i % 9}` });
    let taken = 0;
    answer = async () => {
      // It takes fewer a turn from here on than were judged ahead.
      if (++taken > 20) await new Promise((later) => setTimeout(later, 40));
      return SENT;
    };
    await dispatcherOf().drain();
    const texts = new Map<string, MessageRow['variant'][]>();
    for (const m of await messages()) texts.set(m.address, [...(texts.get(m.address) ?? []), m.variant]);
    for (const own of texts.values()) expect(own).toEqual(own.map((_, i) => (own[0]! + i) % 2));
  });

  test('is not held up by what cannot go with one message, which says why', async () => {
    const files = [{ id: 'gone', name: 'map.pdf', type: 'application/pdf', size: 1 }];
    await em().nativeUpdate(WordingRow, { key: 'gentle' }, { files });
    await insertNudge(asTx(em()), { student: 's0' }, [{}, { kind: 'address', address: 'coach@saltmarsh.example' }]);
    await dispatcherOf().drain();
    expect(await states()).toEqual(['failed', 'sent']);
    expect(given).toEqual(['coach@saltmarsh.example']);
    expect((await attempts())[0]).toMatchObject({
      outcome: 'permanent',
      response: 'An attachment could not be made: The file “map.pdf” is no longer there',
    });
  });
});

describe('while the mail server takes nothing', () => {
  const down: DeliveryOutcome = { kind: 'unavailable', trouble: 'unreachable', response: 'ECONNREFUSED' };

  test('all waits, without an attempt, and leaves when it does again', async () => {
    await queue(50);
    answer = () => Promise.resolve(down);
    const dispatcher = dispatcherOf();
    await dispatcher.drain();
    expect(given.length).toBeLessThanOrEqual(MOST_A_TURN);
    expect(counted(await states())).toEqual({ queued: 50 });
    expect((await messages()).map((m) => [m.attempts, m.claimedBy])).toEqual(
      Array.from({ length: 50 }, () => [0, null]),
    );
    expect(await attempts()).toEqual([]);
    // Until it is asked again nothing is tried, and then a few at first.
    given = [];
    await dispatcher.drain();
    expect(given).toEqual([]);
    const { nextTryAt } = await em().findOneOrFail(MailTroubleRow, { course: 0 });
    stage.clock.set(nextTryAt);
    await dispatcher.drain();
    expect(given.length).toBeGreaterThan(0);
    // A turn's, and those that were taken before it was answered.
    expect(given.length).toBeLessThanOrEqual(2 * CONNECTIONS);
    given = [];
    answer = () => Promise.resolve(SENT);
    stage.clock.set((await em().findOneOrFail(MailTroubleRow, { course: 0 })).nextTryAt);
    await dispatcher.drain();
    expect(counted(await states())).toEqual({ sent: 50 });
    expect(await em().count(MailTroubleRow)).toBe(0);
  });

  test('in the middle of many, what was made ahead waits with the rest', async () => {
    await queue(60);
    let taken = 0;
    answer = () => Promise.resolve(++taken > 20 ? down : SENT);
    await dispatcherOf().drain();
    const all = counted(await states());
    expect(all['sent']).toBe(20);
    expect(all['queued']).toBe(40);
    expect((await messages()).filter((m) => m.state === 'queued' && m.attempts > 0)).toEqual([]);
    expect(await em().count(AttemptRow, { outcome: 'handing' })).toBe(0);
    expect(given.length).toBeLessThan(20 + 2 * MOST_A_TURN);
  });

  test('for one course, the others leave', async () => {
    await queue(3);
    await em().insert(MailTroubleRow, {
      course: 1,
      trouble: 'sender',
      response: '550',
      since: NOW,
      tries: 1,
      nextTryAt: NOW + 1,
    });
    const dispatcher = dispatcherOf();
    await dispatcher.drain();
    expect(given).toEqual([]);
    stage.clock.set(NOW + 1);
    await dispatcher.drain();
    expect(given).toHaveLength(3);
  });
});

/** Another course of the same class. */
async function second(code = 'NAV 121'): Promise<number> {
  const id = await inTransaction(stage.orm, (inside) =>
    insertCourse(inside, { ...COURSE, people: classOf(60), code }, { sender: SENDER, tokenHash: code }),
  );
  const inside = em();
  const { course } = await stage.services.live.get(inside, id);
  inside.create(WordingRow, {
    course: id,
    key: 'gentle',
    name: 'Gentle',
    purpose: 'support',
    subject: 'Hi',
    body: 'Come by.',
  });
  await insertRule(asTx(inside), { id, course }, ruleOf(), 1, 0);
  await inside.flush();
  return id;
}

describe('a course that is stopped in the middle', () => {
  test('keeps what is not on the line yet, and the others go on', async () => {
    const other = await second();
    await queue(30);
    await queue(10, { course: other });
    const gate = door();
    answer = async () => (await gate.pass(), SENT);
    const dispatcher = dispatcherOf();
    const drained = dispatcher.drain();
    await gate.first;
    dispatcher.halt(1);
    gate.open();
    await drained;
    const all = await messages();
    const own = all.filter((m) => m.course === 1);
    expect(own.filter((m) => m.state === 'sent').length).toBeLessThanOrEqual(CONNECTIONS);
    expect(counted(own.map((m) => m.state))).toEqual({ sent: expect.any(Number), queued: expect.any(Number) });
    expect(own.filter((m) => m.state === 'queued' && (m.attempts !== 0 || m.claimedBy !== null))).toEqual([]);
    expect(counted(all.filter((m) => m.course === other).map((m) => m.state))).toEqual({ sent: 10 });
    expect(await em().count(AttemptRow, { outcome: 'handing' })).toBe(0);
    // The next pass asks the course itself.
    await dispatcher.drain();
    expect(counted(await states())).toEqual({ sent: 40 });
    expect(given).toHaveLength(40);
  });

  test('while nothing is on its way, needs nothing of the dispatcher', async () => {
    const dispatcher = dispatcherOf();
    dispatcher.halt(1);
    await queue(2);
    await dispatcher.drain();
    expect(counted(await states())).toEqual({ sent: 2 });
  });
});

describe('a pass', () => {
  test('follows another that runs, one for all who ask meanwhile', async () => {
    let passes = 0;
    const gate = door();
    const dispatcher = dispatcherOf([
      async () => {
        passes++;
        await gate.pass();
      },
    ]);
    const all = [dispatcher.drain(), dispatcher.drain(), dispatcher.drain()];
    expect(all[1]).toBe(all[2]);
    await gate.first;
    expect(passes).toBe(1);
    gate.open();
    await Promise.all(all);
    expect(passes).toBe(2);
    await dispatcher.drain();
    expect(passes).toBe(3);
  });

  test('begins with other work, one of which may fail', async () => {
    let seen = 0;
    await queue(1);
    const dispatcher = dispatcherOf([
      () => Promise.reject(new Error('no')),
      () => {
        seen++;
        return Promise.resolve();
      },
    ]);
    await dispatcher.drain();
    expect(seen).toBe(1);
    expect(await states()).toEqual(['sent']);
  });

  test.each([1, 2, 3, 4])('that fails at its question %d for the time loses and doubles nothing', async (at) => {
    await queue(30);
    let asked = 0;
    const clock = {
      now: () => {
        if (++asked === at) throw new Error('no time');
        return NOW;
      },
    };
    const dispatcher = dispatcherOf(undefined, { clock });
    // What is written beside a turn is written once more on its own.
    await dispatcher.drain().catch((error: unknown) => expect(String(error)).toContain('no time'));
    expect(asked).toBeGreaterThanOrEqual(at);
    await dispatcher.drain();
    expect(counted(await states())).toEqual({ sent: 30 });
    expect((await messages()).map((m) => m.attempts)).toEqual(Array.from({ length: 30 }, () => 1));
    expect(given).toHaveLength(30);
    expect(new Set(given).size).toBe(30);
    expect(counted((await attempts()).map((a) => a.outcome))).toEqual({ sent: 30 });
  });
});

interface PlainConnection {
  exec(sql: string): void;
  query(asked: { text: string }): unknown;
  readonly whole?: PlainConnection;
}
interface PlainPool {
  acquireConnection(): Promise<PlainConnection>;
  releaseConnection(connection: PlainConnection): unknown;
}

describe('a line to the database that is cut', () => {
  /** The database as it is, but that one transaction, of all, is told to have failed though it was written. */
  function cutAfter(nth: number): CourseServices['orm'] {
    let transactions = 0;
    const fork = () => {
      const inner = unguarded(stage.orm);
      const transactional = inner.transactional.bind(inner);
      inner.transactional = (async (...args: Parameters<typeof transactional>) => {
        const result = await transactional(...args);
        if (++transactions === nth) throw new Error('the line was cut');
        return result;
      }) as typeof inner.transactional;
      return inner;
    };
    // One of plain statements is told so at its last.
    const { client } = stage.orm.em.getKnex() as unknown as { client: PlainPool };
    const cutting = (connection: PlainConnection): PlainConnection => {
      const after = async (sql: unknown, result: unknown) => {
        await result;
        if (sql === 'commit' && ++transactions === nth) throw new Error('the line was cut');
        return result;
      };
      return Object.create(connection, {
        whole: { value: connection },
        exec: {
          value: (sql: string) => {
            connection.exec(sql);
            if (sql === 'commit' && ++transactions === nth) throw new Error('the line was cut');
          },
        },
        query: { value: (asked: { text: string }) => after(asked.text, connection.query(asked)) },
      }) as PlainConnection;
    };
    const pool: PlainPool = {
      acquireConnection: async () => cutting(await client.acquireConnection()),
      releaseConnection: (connection) => client.releaseConnection(connection.whole!),
    };
    const em = Object.create(stage.orm.em, {
      fork: { value: fork },
      getKnex: { value: () => ({ client: pool }) },
    }) as CourseServices['orm']['em'];
    return Object.create(stage.orm, { em: { value: em } }) as CourseServices['orm'];
  }

  test.each([1, 2, 3, 4, 5, 6])(
    'after transaction %d was written: nothing is lost or doubled, or stays in hand',
    async (nth) => {
      await queue(12);
      const dispatcher = dispatcherOf(undefined, { orm: cutAfter(nth) });
      for (let pass = 0; pass < 3; pass++) await dispatcher.drain().catch(() => undefined);
      expect(counted(await states())).toEqual({ sent: 12 });
      expect(new Set(given).size).toBe(12);
      expect(given).toHaveLength(12);
      expect(counted((await attempts()).map((a) => a.outcome))).toEqual({ sent: 12 });
      expect((await messages()).map((m) => m.attempts)).toEqual(Array.from({ length: 12 }, () => 1));
    },
  );
});

describe('what processes that are dead left behind', () => {
  const dead = `${machine()}/99999999/dead`;

  test('is unclear where it was begun, leaves where it was not, and what others do goes on', async () => {
    const alive = `${machine()}/${process.ppid}/alive`;
    await em().insert(WorkerRow, { id: dead, aliveAt: Date.now() });
    await em().insert(WorkerRow, { id: alive, aliveAt: Date.now() });
    for (const [student, claimedBy, sendAt] of [
      ['s0', dead, NOW - 3],
      ['s1', dead, NOW - 2],
      ['s2', alive, NOW - 1],
    ] as const)
      await insertNudge(asTx(em()), { student, state: 'handing' }, [{ claimedBy, attempts: 1, sendAt }]);
    // The first was on its way; the second was to be next.
    await em().nativeUpdate(MessageRow, { id: 1 }, { begunAt: NOW });
    for (const message of [1, 2, 3]) {
      await em().insert(AttemptRow, {
        course: 1,
        message,
        nudge: message,
        at: NOW,
        outcome: 'handing',
        response: '',
        messageId: '<m>',
        recipientName: '',
        address: '',
        fromAddress: '',
        replyTo: '',
        subject: '',
        body: '',
        html: '',
        files: [],
        evidence: [],
      });
    }
    const dispatcher = dispatcherOf();
    await dispatcher.drain();
    expect(await messages()).toMatchObject([
      { state: 'uncertain', claimedBy: null, attempts: 1 },
      { state: 'sent', attempts: 1 },
      { state: 'handing', claimedBy: alive, attempts: 1 },
    ]);
    expect((await attempts()).map((a) => [a.message, a.outcome, a.response])).toEqual([
      [1, 'unknown', 'Zest Bell stopped while this message was on its way.'],
      [3, 'handing', ''],
      [2, 'sent', '250 ok'],
    ]);
    expect((await em().find(WorkerRow, {})).map((w) => w.id).toSorted()).toEqual([alive, dispatcher.id].toSorted());
  });

  test('comes back while the queue of another is long', async () => {
    await queue(40);
    const address = 'left@saltmarsh.example';
    answer = async () => {
      if (given.length !== 6) return SENT;
      const claimed = { address, claimedBy: dead, attempts: 1, sendAt: NOW - 60_000 };
      await insertNudge(asTx(em()), { student: 's50', state: 'handing' }, [claimed]);
      // Last: a dead process is settled once, with what it holds at that moment.
      await em().insert(WorkerRow, { id: dead, aliveAt: Date.now() });
      // This one is on its way until then.
      await until(async () => (await em().findOneOrFail(MessageRow, { address })).state !== 'handing');
      return SENT;
    };
    await dispatcherOf().drain();
    expect(counted(await states())).toEqual({ sent: 41 });
  });
});

describe('a domain that takes nothing for long', () => {
  const slow = 'slow.example';
  const queueSlow = async (course: number, many: number) => {
    for (let i = 0; i < many; i++)
      await insertNudge(asTx(em()), { course, student: `s${i}` }, [
        { address: `r${course}-${i}@${slow}`, sendAt: NOW - 60_000 },
      ]);
  };

  test('holds up no other course, though courses that were quick write there', async () => {
    const [two, three] = [await second(), await second('NAV 122')];
    for (const course of [1, two, three]) await queue(2, { course });
    const dispatcher = dispatcherOf();
    await dispatcher.drain();
    expect(given).toHaveLength(6);
    const held = door();
    answer = async ({ to }) => {
      if (to.address.endsWith(slow)) await held.pass();
      return SENT;
    };
    for (const course of [1, two]) await queueSlow(course, 10);
    const passes = [dispatcher.drain().catch(() => undefined)];
    await held.first;
    await queue(6, { course: three }, 30);
    // As it is woken each second.
    await until(() => {
      passes.push(dispatcher.drain().catch(() => undefined));
      return given.filter((to) => !to.endsWith(slow)).length === 12;
    });
    expect(given.filter((to) => to.endsWith(slow)).length).toBeLessThan(CONNECTIONS);
    held.open();
    await Promise.all(passes);
    await until(async () => {
      await dispatcher.drain();
      return counted(await states())['sent'] === 32;
    });
    expect(new Set(given).size).toBe(given.length - 4);
  });
});

describe('a mail server that closes the line once it has a text', () => {
  test('is unreachable after three messages; the rest waits', async () => {
    await queue(20);
    answer = () => Promise.resolve({ kind: 'unknown', response: 'closed', mute: true, dropped: true });
    await dispatcherOf().drain();
    const { uncertain = 0, queued = 0 } = counted(await states());
    expect([uncertain >= 3 && uncertain <= MOST_UNCLEAR, uncertain + queued]).toEqual([true, 20]);
    expect(await em().find(MailTroubleRow, {})).toMatchObject([{ course: 0, trouble: 'unreachable' }]);
  });
});

describe('a mail server that is silent', () => {
  const none: DeliveryOutcome = { kind: 'transient', response: 'Timeout', mute: true };

  test.each([
    ['and answers nothing else is unreachable', false],
    ['to one course and domain, and answers else, is not', true],
  ])('%s', async (_what, answers) => {
    await queue(6);
    answer = () => Promise.resolve(none);
    let asked = 0;
    const dispatcher = dispatcherOf(undefined, {
      mail: {
        ...stage.services.mail,
        handOver: async (_mail, mayBegin) => ((await mayBegin()) ? none : null),
        answers: () => Promise.resolve(answers && ++asked > 0),
      },
    });
    await dispatcher.drain();
    await dispatcher.drain();
    expect(await em().count(MailTroubleRow)).toBe(answers ? 0 : 1);
    expect(counted(await states())).toEqual({ queued: 6 });
  });
});

describe('a stop', () => {
  test('begins nothing more, writes the answers to what was begun, and puts the rest back', async () => {
    await queue(30);
    const held = door();
    answer = async () => {
      if (given.length > 5) await held.pass();
      return SENT;
    };
    const dispatcher = dispatcherOf();
    const drained = dispatcher.drain();
    await held.first;
    const begun = given.length;
    const stopped = dispatcher.stop();
    held.open();
    await Promise.all([drained, stopped]);
    expect(given).toHaveLength(begun);
    expect(counted(await states())).toEqual({ sent: begun, queued: 30 - begun });
    expect(counted((await attempts()).map((a) => a.outcome))).toEqual({ sent: begun });
    // Asked again it does nothing: the process ends.
    await dispatcher.drain();
    expect(given).toHaveLength(begun);
    await dispatcherOf().drain();
    expect(counted(await states())).toEqual({ sent: 30 });
    expect(new Set(given).size).toBe(30);
  });

  test('waits for an answer that does not come no longer than it says; that message alone is unclear', async () => {
    await queue(12);
    const held = door();
    answer = async () => {
      await held.pass();
      return SENT;
    };
    const dispatcher = dispatcherOf();
    const drained = dispatcher.drain().catch(() => undefined);
    await held.first;
    await dispatcher.stop(1);
    const begun = await em().count(MessageRow, { begunAt: { $ne: null } });
    expect([begun >= given.length, counted(await states())]).toEqual([true, { handing: begun, queued: 12 - begun }]);
    held.open();
    await drained;
  });
});

describe('the next mail', () => {
  const next = () => dispatcherOf().nextDue();

  test('is the one that is due first after now, and none where nothing is to come', async () => {
    expect(await next()).toBeNull();
    await insertNudge(asTx(em()), {}, [{ sendAt: NOW }, { sendAt: NOW + 9 }, { sendAt: NOW + 5 }]);
    expect(await next()).toBe(NOW + 5);
    await em().nativeUpdate(MessageRow, {}, { state: 'sent' });
    expect(await next()).toBeNull();
  });

  test('or when mail is tried again that the mail server did not take', async () => {
    await insertNudge(asTx(em()), {}, [{ sendAt: NOW + 5 }]);
    const trouble = { trouble: 'sender' as const, response: '', since: NOW, tries: 1 };
    await em().insert(MailTroubleRow, { ...trouble, course: 1, nextTryAt: NOW });
    expect(await next()).toBe(NOW + 5);
    await em().insert(MailTroubleRow, { ...trouble, course: 2, nextTryAt: NOW + 3 });
    expect(await next()).toBe(NOW + 3);
    await em().insert(MailTroubleRow, { ...trouble, course: 0, trouble: 'unreachable', nextTryAt: NOW + 2 });
    expect(await next()).toBe(NOW + 2);
  });
});
