/**
 * Hands queued mail to the mail server. In one transaction a turn writes the answers that have come, the log rows of what is
 * handed over next, and reserves what comes after that; outside of it messages are judged and made while others are on the
 * line. A process that dies leaves `handing`: with a log row it may have left or not, and is the instructor's to settle;
 * without one it never left, and goes back to the queue.
 */
import { setTimeout as wait } from 'node:timers/promises';
import pLimit from 'p-limit';
import type { Instant } from '@zest-bell/core/time';
import type { DeliveryOutcome } from '@zest-bell/core/nudges';
import { stoppedCourses } from '../../course/waiting.ts';
import { rulesWaitingForData } from '../../rules/sources.ts';
import { MessageRow } from '../nudges/entity.ts';
import { move } from '../nudges/transitions.ts';
import { CONNECTIONS } from '../../platform/mail/mail.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { rowsOf, run } from '../../platform/database/query.ts';
import type { Services } from '../../course/services.ts';
import { every } from '../../platform/work/timer.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { openSendings } from '../sendings/sendings.ts';
import { packed } from '../../wording/sending.ts';
import { PUT_BACK, writeFates, type Claimed } from './claim.ts';
import { WorkerRow } from './entity.ts';
import { judge, messagesIn, type Judged } from './judge.ts';
import { endTrouble, keepTrouble, mailTroubles } from './mailTrouble.ts';
import { putBack, writeOutcomes, type Answered } from './outcomes.ts';
import { reserve, type QueuedMessage } from './queue.ts';
import { deadWorkers, heartbeat, HEARTBEAT, makeWorkerId } from './worker.ts';

/** The most messages that a crash can leave uncertain. */
export const MOST_AT_ONCE = 20;
/** A turn takes about as many as the mail server took lately in this time, in ms: a slow one leaves few uncertain. */
const SPAN = 100;
/** How long a pass waits for messages that are still on the line, in ms; their answers are written when they come. */
const PATIENCE = 5_000;
/** Lines that one course may hold with messages that take longer than this, in ms, before its others wait. */
const SHARE_OF_LINES = 3;
const SLOW = 1_000;
/** A server that keeps up gets several turns' messages judged at once: what they share is read once. */
const AHEAD = 4;

/** With those on the line, no more than a crash may leave uncertain. */
const MOST_A_TURN = MOST_AT_ONCE - CONNECTIONS + 1;
/** How many a turn hands over, by how long a message takes on a line, in ms. */
const paced = (ms: number): number =>
  Math.min(MOST_A_TURN, Math.max(CONNECTIONS, Math.round((CONNECTIONS * SPAN) / Math.max(ms, 1))));

/** What other concepts do along with mail. */
export interface DispatchHooks {
  /** Before each pass. One that fails holds up neither the others nor the mail. */
  readonly before: readonly ((worker: string) => Promise<void>)[];
  /** Settles what processes that are dead had claimed. */
  readonly release: readonly ((em: Tx, dead: readonly string[]) => Promise<void>)[];
}
const NO_HOOKS: DispatchHooks = { before: [], release: [] };

interface Flight {
  readonly course: number;
  readonly done: Promise<void>;
  /** When it got its line, by `performance.now()`; null before. */
  begun: number | null;
}

export class Dispatcher {
  readonly id = makeWorkerId();
  private readonly services: Services;
  private readonly hooks: DispatchHooks;
  private running: Promise<void> | null = null;
  private next: Promise<void> | null = null;
  private readonly lines = pLimit(CONNECTIONS);
  /** Messages that wait for a line or are on it. */
  private readonly flying = new Set<Flight>();
  /** Judged, and not yet written. */
  private ahead: Judged[] = [];
  /** What a message has lately taken on its line, in ms; null before the first. */
  private handOverMs: number | null = null;
  private answered: Answered[] = [];
  /** Claimed, and not handed over since the course was stopped. */
  private back: Claimed[] = [];
  /** Reserved, and lost to a failure before they were written. */
  private lost: number[] = [];
  /** Courses whose mail was stopped while messages of this process were on their way. */
  private readonly halted = new Set<number>();

  constructor(services: Services, hooks: DispatchHooks = NO_HOOKS) {
    this.services = services;
    this.hooks = hooks;
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
    for (const work of this.hooks.before) {
      await work(this.id).catch((error: unknown) =>
        this.services.logger.error({ err: error }, 'work before mail failed'),
      );
    }
    // A few at first: what is due by itself leaves soon, and a crash leaves little uncertain.
    for (let limit = CONNECTIONS; ;) {
      const judged = this.ahead.splice(0, limit);
      const few = this.ahead.length < limit;
      const { claimed, reserved } = await this.turn(judged, !few ? 0 : limit === MOST_A_TURN ? AHEAD * limit : limit);
      for (const one of claimed) this.launch(one);
      this.ahead.push(...(await this.judged(reserved)));
      await this.room();
      if (this.handOverMs !== null) limit = paced(this.handOverMs);
      if (this.ahead.length > 0) continue;
      if (reserved.length === 0 && this.flying.size === 0) break;
      if (!(await this.landed())) break;
    }
    if (this.pending) await this.turn([], 0);
  }

  private get pending(): boolean {
    return this.answered.length + this.back.length + this.lost.length > 0;
  }

  /** Writes all that has come and takes more. What cannot be written is kept and written by a later turn. */
  private async turn(
    judged: readonly Judged[],
    limit: number,
  ): Promise<{ claimed: Claimed[]; reserved: QueuedMessage[] }> {
    const { orm, clock } = this.services;
    const [answered, back, lost] = [this.answered, this.back, this.lost];
    try {
      const written = await inTransaction(orm, async (em) => {
        await heartbeat(em, this.id);
        const now = clock.now();
        await this.writeAnswers(em, answered, now);
        await putBack(em, back, now);
        await move(em, lost, { ...PUT_BACK, now, claimedBy: this.id });
        const stopped = new Set([...this.halted, ...(judged.length > 0 ? await stoppedCourses(em) : [])]);
        const claimed = await writeFates(em, judged, { worker: this.id, now, stopped });
        return { claimed, reserved: await this.reserve(em, limit, now) };
      });
      this.answered = this.answered.slice(answered.length);
      this.back = this.back.slice(back.length);
      this.lost = this.lost.slice(lost.length);
      // What was judged ahead waits with the rest once the mail server is in trouble.
      if (answered.some((a) => a.outcome.kind === 'unavailable')) this.lose(this.ahead.splice(0).flatMap(messagesIn));
      return written;
    } catch (error) {
      this.lose([...judged, ...this.ahead.splice(0)].flatMap(messagesIn));
      throw error;
    }
  }

  private async writeAnswers(em: Tx, answered: readonly Answered[], now: Instant): Promise<void> {
    await writeOutcomes(em, answered, now);
    const reached = new Set(
      answered.flatMap((a) => (a.outcome.kind === 'unavailable' ? [] : [a.claimed.message.course])),
    );
    await endTrouble(em, reached);
    for (const { claimed, outcome } of answered) {
      if (outcome.kind !== 'unavailable') continue;
      await keepTrouble(em, claimed.message.course, outcome, now);
      // Behind those that wait longer: perhaps it is something about this one after all.
      await putBack(em, [claimed], now, now);
    }
  }

  private async reserve(em: Tx, limit: number, now: Instant): Promise<QueuedMessage[]> {
    if (limit === 0) return [];
    const { server, courses } = await mailTroubles(em);
    if (server && server.nextTryAt > now) return [];
    const without = new Set(await stoppedCourses(em));
    const stale = await rulesWaitingForData(em, now);
    for (const trouble of courses) if (trouble.nextTryAt > now) without.add(trouble.course);
    const slow = [...this.flying].filter((f) => f.begun !== null && performance.now() - f.begun > SLOW);
    for (const { course } of slow) {
      if (slow.filter((f) => f.course === course).length >= SHARE_OF_LINES) without.add(course);
    }
    for (const course of this.halted) without.add(course);
    // While the server is in trouble, a few tell whether it is over.
    const most = server ? Math.min(limit, CONNECTIONS) : limit;
    const waiting = (await openSendings(em, now)).map((s) => s.id);
    return reserve(em, { worker: this.id, now, limit: most, without, stale, waiting });
  }

  private async judged(reserved: readonly QueuedMessage[]): Promise<Judged[]> {
    try {
      return await judge(this.services, reserved, this.ahead);
    } catch (error) {
      this.lose([...reserved, ...this.ahead.splice(0).flatMap(messagesIn)]);
      if (this.pending) await this.turn([], 0);
      throw error;
    }
  }

  private lose(messages: readonly QueuedMessage[]): void {
    this.lost.push(...messages.map((m) => m.id));
  }

  private launch(claimed: Claimed): void {
    const done = this.lines(() => {
      flight.begun = performance.now();
      return this.send(claimed);
    }).then((outcome) => {
      this.flying.delete(flight);
      if (outcome === null) this.back.push(claimed);
      else this.answered.push({ claimed, outcome });
    });
    const flight: Flight = { course: claimed.message.course, done, begun: null };
    this.flying.add(flight);
  }

  /** Waits until there is a free line, so that one slow reader holds up no other. */
  private async room(): Promise<void> {
    while (this.flying.size >= CONNECTIONS) await Promise.race([...this.flying].map((f) => f.done));
  }

  /** Waits for what is on the line. False when something still is after a while: its answer is written when it comes. */
  private async landed(): Promise<boolean> {
    const all = Promise.all([...this.flying].map((f) => f.done));
    const stop = new AbortController();
    const late = wait(PATIENCE, 'late', { signal: stop.signal }).catch(() => 'late');
    const came = (await Promise.race([all, late])) !== 'late';
    stop.abort();
    if (!came) void all.then(() => this.drain()).catch((error: unknown) => this.services.logger.error({ err: error }));
    return came;
  }

  /** Null when the course was stopped before it was begun. What cannot go with it fails it, and says why. */
  private async send({ mail, parcel, message }: Claimed): Promise<DeliveryOutcome | null> {
    const { orm, logger } = this.services;
    if (this.halted.has(message.course)) return null;
    try {
      const files = await packed(orm, parcel, message.kind === 'student');
      if (this.halted.has(message.course)) return null;
      const from = performance.now();
      const outcome = await this.services.mail.send({ ...mail, files });
      const took = performance.now() - from;
      this.handOverMs = this.handOverMs === null ? took : (4 * this.handOverMs + took) / 5;
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
      const left = await rowsOf<{ id: number; begun: number }>(
        em,
        knex('message as m')
          .where('m.state', 'handing')
          .whereIn('m.claimed_by', dead)
          .select('m.id')
          .select({
            begun: knex('attempt as a').whereRaw("a.message = m.id and a.outcome = 'handing'").count('*'),
          }),
      );
      const begun = left.filter((m) => Number(m.begun) > 0).map((m) => m.id);
      await move(em, begun, { to: 'uncertain', now });
      await run(
        em,
        knex('attempt')
          .whereIn('message', begun)
          .where('outcome', 'handing')
          .update({ outcome: 'unknown', response: 'Zest Bell stopped while this message was on its way.' }),
      );
      const neverBegun = left.filter((m) => Number(m.begun) === 0).map((m) => m.id);
      await move(em, neverBegun, { ...PUT_BACK, now });
      for (const release of this.hooks.release) await release(em, dead);
      await em.nativeDelete(WorkerRow, { id: { $in: dead } });
    });
  }
}
