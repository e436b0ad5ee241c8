/**
 * Hands queued mail to the mail server. In one transaction a turn writes the log rows of what is handed over next, and reserves
 * what comes after that; outside of it messages are judged and made while others are on the line. That a message is on its way, and
 * what the mail server answered, is written at once (`journal.ts`). A process that dies leaves `handing`: what was on its way may
 * have left or not, and is the instructor's to settle; all else never left, and goes back to the queue.
 */
import { setTimeout as wait } from 'node:timers/promises';
import pLimit from 'p-limit';
import type { Instant } from '@zest-bell/core/time';
import { isMute, muteAfter, type DeliveryOutcome, type MailTrouble } from '@zest-bell/core/nudges';
import { stoppedCourses } from '../../course/waiting.ts';
import { rulesWaitingForData } from '../../rules/sources.ts';
import { MessageRow } from '../nudges/entity.ts';
import { move } from '../nudges/transitions.ts';
import { CONNECTIONS } from '../../platform/mail/mail.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { rowsOf, run } from '../../platform/database/query.ts';
import type { Services } from '../../course/services.ts';
import { every } from '../../platform/work/timer.ts';
import { inPlainTransaction, statementsOf, type Statements } from '../../platform/database/statements.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { openSendings } from '../sendings/sendings.ts';
import { packed } from '../../wording/sending.ts';
import { beginAll } from './begun.ts';
import { PUT_BACK, writeFates, type Claimed } from './claim.ts';
import { WorkerRow } from './entity.ts';
import { InHand } from './inHand.ts';
import { Journal } from './journal.ts';
import { judge, type Judged } from './judge.ts';
import { endTrouble, keepTrouble, mailTroubles } from './mailTrouble.ts';
import { letGo, putBack, writeOutcomes, type Answered } from './outcomes.ts';
import { Pace } from './pace.ts';
import { reserve, type QueuedMessage } from './queue.ts';
import { deadWorkers, heartbeat, HEARTBEAT, makeWorkerId } from './worker.ts';

/** The most messages that a crash can leave uncertain: one on each line. */
export const MOST_UNCLEAR = CONNECTIONS;
/** The most that a turn writes log rows for. */
export const MOST_A_TURN = 48;
/** How long a pass waits for messages that are still on the line, in ms; their answers are written when they come. */
const PATIENCE = 5_000;
/** How often a pass that waits for the lines writes what has come back meanwhile, in ms. */
const STEP = 250;
/** A server that keeps up gets several turns' messages judged at once: what they share is read once. */
const AHEAD = 2;

/** What other concepts do before each pass. One that fails holds up neither the others nor the mail. */
export type BeforeMail = () => Promise<void>;

export class Dispatcher {
  readonly id = makeWorkerId();
  private readonly services: Services;
  private readonly before: readonly BeforeMail[];
  private running: Promise<void> | null = null;
  private next: Promise<void> | null = null;
  private readonly lines = pLimit(CONNECTIONS);
  private readonly hand = new InHand();
  /** What is on the lines or waits for one: each ends when its answer is in hand. */
  private readonly flights = new Set<Promise<void>>();
  private readonly pace = new Pace();
  private readonly journal = new Journal(
    (begins) => this.writeDown(begins),
    () => this.hand.in('answered').length > 0,
  );
  /** Courses whose mail was stopped while messages of this process were on their way. */
  private readonly halted = new Set<number>();
  /** Messages in a row to which the mail server said nothing. */
  private mute = 0;
  /** Trouble is kept that an answer may end; asked for with each reservation. */
  private mayBeInTrouble = true;
  /** A turn failed of which nobody knows whether it was written. */
  private mayHaveStrays = false;
  /** In which turn of this process mail of a course was last taken. */
  private readonly served = new Map<number, number>();
  private turns = 0;
  /** The mail server takes nothing: what was judged ahead is to wait with the rest. */
  private isInTrouble = false;

  constructor(services: Services, before: readonly BeforeMail[] = []) {
    this.services = services;
    this.before = before;
  }

  /** Hands over all that is due now. A call while a pass runs gets the one pass that follows, and that pass's failure. */
  drain(): Promise<void> {
    if (!this.running) return this.start();
    this.next ??= this.running
      .catch(() => undefined)
      .then(() => {
        this.next = null;
        return this.start();
      });
    return this.next;
  }

  private start(): Promise<void> {
    this.running = this.pass().finally(() => (this.running = null));
    return this.running;
  }

  /** Says now and then that this process lives. Returns how to stop. */
  keepAlive(): () => Promise<void> {
    const { orm, logger } = this.services;
    return every(HEARTBEAT, () => inTransaction(orm, (em) => heartbeat(em, this.id)), logger);
  }

  /** What this process has claimed of a course and not yet handed over goes back to the queue. */
  halt(course: number): void {
    if (this.running) this.halted.add(course);
  }

  /** When the next queued message falls due after now, or when mail is tried again that the server did not take; or null. */
  async nextDue(): Promise<Instant | null> {
    const em = this.services.orm.em.fork();
    const now = this.services.clock.now();
    const [row] = await em.find(
      MessageRow,
      { state: 'queued', sendAt: { $gt: now } },
      { orderBy: { sendAt: 'asc' }, limit: 1 },
    );
    const { server, courses } = await mailTroubles(em);
    const tries = [server, ...courses].flatMap((t) => (t && t.nextTryAt > now ? [t.nextTryAt] : []));
    const all = [...tries, ...(row ? [row.sendAt] : [])];
    return all.length === 0 ? null : Math.min(...all);
  }

  private async pass(): Promise<void> {
    await this.settleForDeadWorkers();
    await this.takeInStrays();
    for (const work of this.before) {
      await work().catch((error: unknown) => this.services.logger.error({ err: error }, 'work before mail failed'));
    }
    // A few at first: what is due by itself leaves soon.
    for (let limit = CONNECTIONS; ;) {
      const waiting = this.hand.in('judged').map((h) => h.judged);
      const judged = waiting.slice(0, limit);
      const few = waiting.length - judged.length < limit;
      const { claimed, reserved } = await this.turn(judged, !few ? 0 : limit === MOST_A_TURN ? AHEAD * limit : limit);
      for (const one of claimed) this.launch(one);
      await this.judge(reserved);
      await this.room();
      limit = this.pace.limit(MOST_A_TURN) ?? limit;
      if (this.hand.in('judged').length > 0) continue;
      if (reserved.length === 0 && this.flights.size === 0) break;
      if (!(await this.landed())) break;
    }
    if (this.isUnwritten) await this.turn([], 0);
    this.served.clear();
  }

  private get isUnwritten(): boolean {
    return (['answered', 'back', 'lost'] as const).some((phase) => this.hand.in(phase).length > 0);
  }

  /** Writes what was judged and takes more. What cannot be written stays in hand and is written by a later turn. */
  private async turn(
    judged: readonly Judged[],
    limit: number,
  ): Promise<{ claimed: Claimed[]; reserved: QueuedMessage[] }> {
    const { orm, clock } = this.services;
    try {
      await this.journal.flush();
      if (this.isInTrouble) {
        this.isInTrouble = false;
        this.hand.lose();
        judged = [];
      }
      const [back, lost] = [this.hand.in('back'), this.hand.in('lost')];
      const written = await inTransaction(orm, async (em) => {
        await heartbeat(em, this.id);
        const now = clock.now();
        await putBack(
          em,
          back.map((b) => b.claimed),
          { worker: this.id, now },
        );
        await letGo(
          em,
          lost.flatMap((l) => l.messages),
          { worker: this.id, now },
        );
        const stopped = new Set([...this.halted, ...(judged.length > 0 ? await stoppedCourses(em) : [])]);
        const claimed = await writeFates(em, judged, { worker: this.id, now, stopped });
        const ahead = this.hand.in('judged').filter((h) => !judged.includes(h.judged));
        const coming = [...claimed, ...ahead.map((h) => h.judged)].map((h) => h.message.course);
        return { claimed, reserved: await this.reserve(em, { limit, now, coming }) };
      });
      this.hand.settle([...back, ...lost]);
      this.hand.write(judged, written.claimed);
      this.hand.reserve(written.reserved);
      this.turns++;
      for (const { course } of written.reserved) this.served.set(course, this.turns);
      return written;
    } catch (error) {
      this.hand.lose();
      this.mayHaveStrays = true;
      throw error;
    }
  }

  /**
   * A line to the database that is cut as a turn is written leaves open whether it was: what this process may have claimed without
   * knowing it goes back to the queue, once nothing else is in hand.
   */
  private async takeInStrays(): Promise<void> {
    if (!this.mayHaveStrays || !this.hand.isEmpty) return;
    const { orm, clock } = this.services;
    await inTransaction(orm, async (em) => {
      const mine = em
        .getKnex()('message')
        .where({ state: 'handing', claimed_by: this.id })
        .whereNull('begun_at')
        .select('id');
      const ids = (await rowsOf<{ id: number }>(em, mine)).map((row) => row.id);
      await letGo(em, ids, { worker: this.id, now: clock.now() });
    });
    this.mayHaveStrays = false;
  }

  /** In one transaction, the answers that have come and what is begun now. */
  private async writeDown(begins: readonly Claimed[]): Promise<ReadonlySet<Claimed>> {
    const { orm, clock } = this.services;
    const answered = this.hand.in('answered');
    const mute = answered.reduce((n, a) => muteAfter(n, a.outcome), this.mute);
    const by = { worker: this.id, now: clock.now() };
    const write = async (statements: Statements) => {
      await writeOutcomes(statements, answered, by);
      return beginAll(statements, begins, this.id);
    };
    const begun = !this.tellsOfTrouble(answered, mute)
      ? await inPlainTransaction(orm, write)
      : await inTransaction(orm, async (em) => {
          await this.writeTrouble(em, answered, mute, by.now);
          return write(await statementsOf(em));
        });
    this.hand.settle(answered);
    this.isInTrouble ||=
      answered.some((a) => a.outcome.kind === 'unavailable') || (answered.length > 0 && isMute(mute));
    this.mute = mute;
    return begun;
  }

  private tellsOfTrouble(answered: readonly Answered[], mute: number): boolean {
    if (answered.length === 0) return false;
    return this.mayBeInTrouble || isMute(mute) || answered.some((a) => a.outcome.kind === 'unavailable');
  }

  /** What these answers say about the mail server. `mute`: messages in a row without an answer, up to the last of these. */
  private async writeTrouble(em: Tx, answered: readonly Answered[], mute: number, now: Instant): Promise<void> {
    const reached = new Set(
      answered.flatMap((a) => (a.outcome.kind === 'unavailable' ? [] : [a.claimed.message.course])),
    );
    const last = answered.at(-1);
    if (last && isMute(mute)) {
      const { response } = last.outcome;
      this.mayBeInTrouble = true;
      await this.keepTrouble(em, last.claimed.message.course, { trouble: 'unreachable', response }, now);
    } else if (this.mayBeInTrouble) await endTrouble(em, reached);
    for (const { claimed, outcome } of answered) {
      if (outcome.kind !== 'unavailable') continue;
      this.mayBeInTrouble = true;
      await this.keepTrouble(em, claimed.message.course, outcome, now);
    }
  }

  /** A trouble is one line in the log, when it begins. What the mail server said is on Today: it may name somebody. */
  private async keepTrouble(em: Tx, course: number, about: { trouble: MailTrouble; response: string }, now: Instant) {
    if (!(await keepTrouble(em, course, about, now))) return;
    const { trouble } = about;
    this.services.logger.warn({ event: 'mailTrouble', trouble, course }, 'the mail server takes no mail');
  }

  /** `coming` are the courses of what comes on the lines before it. */
  private async reserve(
    em: Tx,
    { limit, now, coming }: { readonly limit: number; readonly now: Instant; readonly coming: readonly number[] },
  ): Promise<QueuedMessage[]> {
    if (limit === 0) return [];
    const { server, courses } = await mailTroubles(em);
    this.mayBeInTrouble = server !== null || courses.length > 0;
    if (server && server.nextTryAt > now) return [];
    const without = new Set(await stoppedCourses(em));
    const stale = await rulesWaitingForData(em, now);
    for (const trouble of courses) if (trouble.nextTryAt > now) without.add(trouble.course);
    for (const course of this.halted) without.add(course);
    // While the server is in trouble, a few tell whether it is over.
    const most = server ? Math.min(limit, CONNECTIONS) : limit;
    const waiting = (await openSendings(em, now)).map((s) => s.id);
    const lines = this.hand.in('line');
    const room = this.pace.roomOf([...coming, ...lines.map((l) => l.claimed.message.course)], lines);
    return reserve(em, { worker: this.id, now, limit: most, without, stale, waiting, room, served: this.served });
  }

  private async judge(reserved: readonly QueuedMessage[]): Promise<void> {
    try {
      this.hand.judge(
        await judge(
          this.services,
          reserved,
          this.hand.in('judged').map((h) => h.judged),
        ),
      );
    } catch (error) {
      this.hand.lose();
      await this.turn([], 0);
      throw error;
    }
  }

  private launch(claimed: Claimed): void {
    const flight = this.lines(() => this.send(claimed)).then((outcome) => {
      this.flights.delete(flight);
      this.hand.answer(claimed, outcome);
      // What cannot be written now stays in hand for the next turn.
      if (outcome !== null) this.journal.soon();
    });
    this.flights.add(flight);
  }

  /** Waits until there is a free line, so that one slow reader holds up no other. */
  private async room(): Promise<void> {
    while (this.flights.size >= CONNECTIONS) await Promise.race(this.flights);
  }

  /**
   * Waits for what is on the line, and writes what has come meanwhile. False when something still is after a while: its answer is
   * written when it comes.
   */
  private async landed(): Promise<boolean> {
    const all = Promise.all(this.flights);
    for (let waited = 0; waited < PATIENCE; waited += STEP) {
      const stop = new AbortController();
      const late = wait(STEP, 'late', { signal: stop.signal, ref: false }).catch(() => 'late');
      const came = (await Promise.race([all, late])) !== 'late';
      stop.abort();
      if (came) return true;
      if (this.isUnwritten) await this.turn([], 0);
    }
    void all.then(() => this.drain()).catch((error: unknown) => this.services.logger.error({ err: error }));
    return false;
  }

  /** Null when the course was stopped before it was begun. What cannot go with it fails it, and says why. */
  private async send(claimed: Claimed): Promise<DeliveryOutcome | null> {
    const { mail, parcel, message } = claimed;
    const { orm, logger } = this.services;
    if (this.halted.has(message.course)) return null;
    try {
      const files = parcel === null ? [] : await packed(orm, parcel, message.kind === 'student');
      if (this.halted.has(message.course)) return null;
      const since = performance.now();
      this.hand.begin(claimed, since);
      const begun: { waited: number; answered?: () => void } = { waited: 0 };
      const outcome = await this.services.mail.handOver({ ...mail, files }, async () => {
        const asked = performance.now();
        const answered = this.halted.has(message.course) ? null : await this.journal.begin(claimed);
        begun.waited = performance.now() - asked;
        if (answered !== null) begun.answered = answered;
        return answered !== null;
      });
      begun.answered?.();
      this.pace.took(message.course, performance.now() - since - begun.waited);
      return outcome;
    } catch (error) {
      logger.error({ err: error, message: message.id }, 'what goes with a message cannot be made');
      const reason = error instanceof Error ? error.message : 'unknown reason';
      return { kind: 'permanent', response: `An attachment could not be made: ${reason}` };
    }
  }

  /** Settles what processes left behind that no longer live. */
  private async settleForDeadWorkers(): Promise<void> {
    const { orm, clock } = this.services;
    this.halted.clear();
    if ((await deadWorkers(orm.em.fork())).size === 0) return;
    await inTransaction(orm, async (em) => {
      await heartbeat(em, this.id);
      const dead = [...(await deadWorkers(em))];
      const now = clock.now();
      const knex = em.getKnex();
      const left = await rowsOf<{ id: number; begunAt: Instant | null }>(
        em,
        knex('message')
          .where('state', 'handing')
          .whereIn('claimed_by', dead)
          .select('id')
          .select({ begunAt: 'begun_at' }),
      );
      const begun = left.filter((m) => m.begunAt !== null).map((m) => m.id);
      await move(em, begun, { to: 'uncertain', from: ['handing'], now });
      const onTheirWay = knex('attempt').where('outcome', 'handing');
      await run(
        em,
        onTheirWay
          .clone()
          .whereIn('message', begun)
          .update({ outcome: 'unknown', response: 'Zest Bell stopped while this message was on its way.' }),
      );
      const neverBegun = left.filter((m) => m.begunAt === null).map((m) => m.id);
      await run(em, onTheirWay.clone().whereIn('message', neverBegun).delete());
      await move(em, neverBegun, { ...PUT_BACK, now });
      await em.nativeDelete(WorkerRow, { id: { $in: dead } });
    });
  }
}
