// Runs on PostgreSQL too.
/**
 * The dispatcher against a model of what may have happened to each message, in random orders of what comes due, of answers of the
 * mail server, of crashes, stops and yeses. The model knows what a person would: how often the mail server was given a message, what
 * it said, and what somebody decided.
 */
import { afterEach, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { DAY, MINUTE } from '@zest-bell/core/time';
import type { DeliveryOutcome } from '@zest-bell/core/nudges';
import { asTx } from '../../testing/asTx.ts';
import { insertNudge } from '../../testing/queued.ts';
import { classOf, openStage, SENDER, type TestStage } from '../../testing/stage.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import type { Orm } from '../../platform/database/orm.ts';
import { CourseRow } from '../../course/entity.ts';
import { AttemptRow } from '../nudges/attempt.ts';
import { MessageRow } from '../nudges/entity.ts';
import { queuePlainMail } from '../plainMail/queue.ts';
import { approve, settleByHand } from './approval.ts';
import { Dispatcher, MOST_UNCLEAR } from './dispatcher.ts';
import { WorkerRow } from './entity.ts';
import { machine } from './worker.ts';
import { unguarded } from '../../testing/unguarded.ts';

const STUDENTS = 60;

let stage: TestStage;
afterEach(() => stage.close());
const em = () => unguarded(stage.orm);

const ANSWERS: readonly DeliveryOutcome[] = [
  { kind: 'sent', response: '250 ok' },
  { kind: 'transient', response: '450 later' },
  { kind: 'permanent', response: '550 no' },
  { kind: 'unknown', response: '' },
  { kind: 'unavailable', trouble: 'refused', response: '421 no' },
];

type ModelAct =
  | { readonly do: 'queue'; readonly many: number; readonly held: boolean; readonly plain: boolean }
  | { readonly do: 'drain' }
  | { readonly do: 'answer'; readonly answer: number; readonly all: boolean }
  | { readonly do: 'crash' }
  | { readonly do: 'stop' }
  | { readonly do: 'start' }
  | { readonly do: 'later'; readonly minutes: number }
  | { readonly do: 'yes' }
  | { readonly do: 'settle'; readonly as: 'arrived' | 'sendAgain' };

const act: fc.Arbitrary<ModelAct> = fc.oneof(
  {
    weight: 3,
    arbitrary: fc.record({
      do: fc.constant('queue' as const),
      many: fc.integer({ min: 1, max: 25 }),
      held: fc.constantFrom(false, false, true),
      plain: fc.boolean(),
    }),
  },
  { weight: 3, arbitrary: fc.record({ do: fc.constant('drain' as const) }) },
  {
    weight: 4,
    arbitrary: fc.record({
      do: fc.constant('answer' as const),
      answer: fc.integer({ min: 0, max: ANSWERS.length - 1 }),
      all: fc.boolean(),
    }),
  },
  {
    weight: 2,
    arbitrary: fc.record({ do: fc.constantFrom('crash' as const, 'stop' as const, 'start' as const, 'yes' as const) }),
  },
  fc.record({ do: fc.constant('later' as const), minutes: fc.constantFrom(1, 31, 600) }),
  fc.record({ do: fc.constant('settle' as const), as: fc.constantFrom('arrived' as const, 'sendAgain' as const) }),
);

/** What was seen from outside of one message, by its address. */
interface SeenMessage {
  given: number;
  taken: number;
  /** Hand-overs that may have come: unanswered at a crash, or answered “unknown”. */
  unclear: number;
  /** Hand-overs that were answered, and crashed before the answer was written. */
  unwritten: number;
  again: number;
}

/** A process that is gone asks the database for nothing and writes nothing. */
const whileItLives = (orm: Orm, lives: () => boolean): Orm =>
  new Proxy(orm, {
    get(target, key) {
      if (!lives()) throw new Error('This process is gone.');
      return Reflect.get(target, key) as unknown;
    },
  });

/** A world with one mail server that answers when it is told to, and one living dispatcher. */
class World {
  readonly seen = new Map<string, SeenMessage>();
  private waiting: { readonly to: string; readonly answer: (outcome: DeliveryOutcome) => void }[] = [];
  private epoch = 0;
  private draining: Promise<unknown> = Promise.resolve();
  dispatcher = this.open();

  of(to: string): SeenMessage {
    let seen = this.seen.get(to);
    if (!seen) this.seen.set(to, (seen = { given: 0, taken: 0, unclear: 0, unwritten: 0, again: 0 }));
    return seen;
  }

  private open(): Dispatcher {
    const epoch = this.epoch;
    const lives = () => epoch === this.epoch;
    return new Dispatcher({
      ...stage.services,
      orm: whileItLives(stage.orm, lives),
      mail: {
        ...stage.services.mail,
        handOver: async (mail, mayBegin) => {
          const mayLeave = lives() && (await mayBegin());
          if (!lives()) return new Promise(() => undefined);
          if (!mayLeave) return null;
          const to = mail.to.address;
          this.of(to).given++;
          return new Promise((ready) => {
            this.waiting.push({ to, answer: ready });
          });
        },
      },
    });
  }

  get onLine(): number {
    return this.waiting.length;
  }

  answer(outcome: DeliveryOutcome, all: boolean): void {
    const some = all ? this.waiting.splice(0) : this.waiting.splice(0, 1);
    for (const { to, answer } of some) {
      if (outcome.kind === 'sent') this.of(to).taken++;
      if (outcome.kind === 'unknown') this.of(to).unclear++;
      answer(outcome);
    }
  }

  drain(): void {
    this.draining = this.dispatcher.drain().catch(() => undefined);
  }

  /** Until nothing moves on its own: the dispatcher waits for the mail server, or is through. */
  async rest(): Promise<void> {
    let through = false;
    void this.draining.then(() => (through = true));
    for (let still = 0, last = -1; still < 5 && !through;) {
      await new Promise((later) => setImmediate(later));
      await em().count(MessageRow, { state: 'handing' });
      still = this.waiting.length === last && last > 0 ? still + 1 : 0;
      last = this.waiting.length;
    }
  }

  /** The process dies: what it has not written is lost, and another one starts. */
  async crash(): Promise<void> {
    this.epoch++;
    for (const { address } of await em().find(MessageRow, { begunAt: { $ne: null } })) this.of(address).unwritten++;
    for (const { to } of this.waiting.splice(0)) this.of(to).unclear++;
    const old = this.dispatcher.id;
    // Its rows are found under the name of a process that the system does not know.
    const dead = `${machine()}/99999999/${old}`;
    await em().nativeUpdate(MessageRow, { claimedBy: old }, { claimedBy: dead });
    await em().nativeDelete(WorkerRow, { id: old });
    await em().insert(WorkerRow, { id: dead, aliveAt: 0 });
    this.dispatcher = this.open();
    this.draining = Promise.resolve();
  }
}

async function play(acts: readonly ModelAct[]): Promise<void> {
  stage = await openStage({ now: '2026-09-10T12:00', course: { people: classOf(STUDENTS) } });
  const world = new World();
  let made = 0;
  for (const one of acts) {
    switch (one.do) {
      case 'queue':
        for (let i = 0; i < one.many && made < STUDENTS; i++, made++) {
          const address = `m${made}@saltmarsh.example`;
          const now = stage.clock.now();
          if (one.plain) {
            await inTransaction(stage.orm, (tx) =>
              queuePlainMail(
                asTx(tx),
                {
                  kind: 'answer',
                  course: 1,
                  reply: null,
                  nudge: null,
                  by: 'Ada',
                  at: now,
                  subject: 's',
                  text: 't',
                  messageId: `<${made}@x.example>`,
                  inReplyTo: null,
                },
                { name: '', address, now },
              ),
            );
          } else {
            await insertNudge(asTx(em()), { student: `s${made}`, state: one.held ? 'held' : 'queued' }, [
              { address, heldFor: one.held ? 'step' : null, sendAt: now },
            ]);
          }
        }
        break;
      case 'drain':
        world.drain();
        break;
      case 'answer':
        world.answer(ANSWERS[one.answer]!, one.all);
        break;
      case 'crash':
        await world.rest();
        await world.crash();
        break;
      case 'stop':
        await em().nativeUpdate(CourseRow, { id: 1 }, { stoppedAt: stage.clock.now(), stoppedBy: 'Ada' });
        world.dispatcher.halt(1);
        break;
      case 'start':
        await em().nativeUpdate(CourseRow, { id: 1 }, { stoppedAt: null, stoppedBy: null });
        break;
      case 'later':
        stage.clock.set(stage.clock.now() + one.minutes * MINUTE);
        break;
      case 'yes':
        await inTransaction(stage.orm, async (tx) =>
          approve(asTx(tx), await tx.find(MessageRow, { state: 'held' }), SENDER, stage.clock.now()),
        );
        break;
      case 'settle':
        for (const { id, address } of await em().find(MessageRow, { state: 'uncertain' })) {
          await inTransaction(stage.orm, async (tx) =>
            settleByHand(asTx(tx), await tx.findOneOrFail(MessageRow, { id }), one.as, stage.clock.now()),
          );
          if (one.as === 'sendAgain') world.of(address).again++;
        }
        break;
    }
    await world.rest();
    await whatHoldsAlways(world);
  }
  await andInTheEnd(world);
}

/** Nothing is doubled, and what a crash may leave unclear stays within its bounds, whatever happened. */
async function whatHoldsAlways(world: World): Promise<void> {
  for (const [to, seen] of world.seen) {
    // It may have come once, and once more for each time that somebody said to send it again.
    expect([to, seen.taken + seen.unclear <= 1 + seen.again]).toEqual([to, true]);
  }
  expect(await em().count(MessageRow, { begunAt: { $ne: null } })).toBeLessThanOrEqual(MOST_UNCLEAR);
}

/** The mail server answers everything, all mail may leave, and time goes by: then everything has reached an end consistent with events. */
async function andInTheEnd(world: World): Promise<void> {
  await em().nativeUpdate(CourseRow, { id: 1 }, { stoppedAt: null, stoppedBy: null });
  for (let round = 0; round < 60; round++) {
    world.drain();
    await world.rest();
    while (world.onLine > 0) {
      world.answer(ANSWERS[0]!, true);
      await world.rest();
    }
    const open = await em().count(MessageRow, { state: { $in: ['queued', 'handing'] } });
    if (open === 0) break;
    // Far enough for every wait, and in the day.
    stage.clock.set(stage.clock.now() + DAY);
  }
  const now = stage.clock.now();
  for (const m of await em().find(MessageRow, {})) {
    const seen = world.of(m.address);
    const about = `${m.address} at ${new Date(now).toISOString()}: ${m.state}, ${JSON.stringify(seen)}`;
    switch (m.state) {
      case 'sent':
        // The server took it, or somebody said that it had come.
        expect([about, seen.taken + seen.unclear + seen.unwritten > 0]).toEqual([about, true]);
        break;
      case 'uncertain':
        expect([about, seen.unclear + seen.unwritten > 0]).toEqual([about, true]);
        break;
      case 'failed':
        expect([about, seen.given > 0]).toEqual([about, true]);
        break;
      case 'withdrawn':
      case 'held':
        break;
      default:
        throw new Error(`came to no end: ${about}`);
    }
    expect(m.claimedBy ?? null).toBeNull();
  }
  expect(await em().count(AttemptRow, { outcome: 'handing' })).toBe(0);
}

test('whatever the order of answers, crashes, stops and yeses: nothing is doubled, lost, or left without a name', async () => {
  await fc.assert(
    fc.asyncProperty(fc.array(act, { minLength: 15, maxLength: 40, size: 'max' }), async (acts) => {
      try {
        await play(acts);
      } finally {
        await stage.close();
      }
    }),
    { seed: 0x0b0c5, numRuns: 12 },
  );
  stage = await openStage({ now: '2026-09-10T12:00' });
}, 300_000);
