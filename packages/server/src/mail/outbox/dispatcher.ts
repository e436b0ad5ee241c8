/**
 * Hands queued mail to the mail server. In one transaction a turn writes the answers that have come, the log rows of what is
 * handed over next, and reserves what comes after that; outside of it messages are judged and made while others are on the
 * line. A process that dies leaves `handing`: with a log row it may have left or not, and is the instructor's to settle;
 * without one it never left, and goes back to the queue.
 */
import { setTimeout as wait } from 'node:timers/promises';
import pLimit from 'p-limit';
import type { Instant } from '@zest-bell/core/time';
import { isMute, muteAfter, type DeliveryOutcome } from '@zest-bell/core/nudges';
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
import { InHand } from './inHand.ts';
import { judge, type Judged } from './judge.ts';
import { endTrouble, keepTrouble, mailTroubles } from './mailTrouble.ts';
import { putBack, writeOutcomes, type Answered } from './outcomes.ts';
import { Pace } from './pace.ts';
import { reserve, type QueuedMessage } from './queue.ts';
import { deadWorkers, heartbeat, HEARTBEAT, makeWorkerId } from './worker.ts';

/** The most messages that a crash can leave uncertain. */
export const MOST_AT_ONCE = 20;
/** How long a pass waits for messages that are still on the line, in ms; their answers are written when they come. */
const PATIENCE = 5_000;
/** How long an answer waits for those on the other lines before it is written, in ms. */
const STEP = 250;
/** A server that keeps up gets several turns' messages judged at once: what they share is read once. */
const AHEAD = 4;

/** With those on the line, no more than a crash may leave uncertain. */
const MOST_A_TURN = MOST_AT_ONCE - CONNECTIONS + 1;

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
  /** Courses whose mail was stopped while messages of this process were on their way. */
  private readonly halted = new Set<number>();
  /** Messages in a row to which the mail server said nothing. */
  private mute = 0;

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
    for (const work of this.before) {
      await work().catch((error: unknown) => this.services.logger.error({ err: error }, 'work before mail failed'));
    }
    // A few at first: what is due by itself leaves soon, and a crash leaves little uncertain.
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
  }

  private get isUnwritten(): boolean {
    return (['answered', 'back', 'lost'] as const).some((phase) => this.hand.in(phase).length > 0);
  }

  /** Writes all that has come and takes more. What cannot be written stays in hand and is written by a later turn. */
  private async turn(
    judged: readonly Judged[],
    limit: number,
  ): Promise<{ claimed: Claimed[]; reserved: QueuedMessage[] }> {
    const { orm, clock } = this.services;
    const [answered, back, lost] = [this.hand.in('answered'), this.hand.in('back'), this.hand.in('lost')];
    const mute = answered.reduce((n, a) => muteAfter(n, a.outcome), this.mute);
    try {
      const written = await inTransaction(orm, async (em) => {
        await heartbeat(em, this.id);
        const now = clock.now();
        await this.writeAnswers(em, answered, mute, now);
        await putBack(
          em,
          back.map((b) => b.claimed),
          now,
        );
        await move(
          em,
          lost.flatMap((l) => l.messages),
          { ...PUT_BACK, now, claimedBy: this.id },
        );
        const stopped = new Set([...this.halted, ...(judged.length > 0 ? await stoppedCourses(em) : [])]);
        const claimed = await writeFates(em, judged, { worker: this.id, now, stopped });
        const ahead = this.hand.in('judged').filter((h) => !judged.includes(h.judged));
        const coming = [...claimed, ...ahead.map((h) => h.judged)].map((h) => h.message.course);
        return { claimed, reserved: await this.reserve(em, { limit, now, coming }) };
      });
      this.hand.settle([...answered, ...back, ...lost]);
      this.hand.write(judged, written.claimed);
      // What was judged ahead waits with the rest once the mail server is in trouble.
      const isInTrouble =
        answered.some((a) => a.outcome.kind === 'unavailable') || (answered.length > 0 && isMute(mute));
      if (isInTrouble) this.hand.lose();
      this.mute = mute;
      this.hand.reserve(written.reserved);
      return written;
    } catch (error) {
      this.hand.lose();
      throw error;
    }
  }

  /** `mute`: messages in a row without an answer, up to the last of these. */
  private async writeAnswers(em: Tx, answered: readonly Answered[], mute: number, now: Instant): Promise<void> {
    await writeOutcomes(em, answered, now);
    const reached = new Set(
      answered.flatMap((a) => (a.outcome.kind === 'unavailable' ? [] : [a.claimed.message.course])),
    );
    const last = answered.at(-1);
    if (last && isMute(mute)) {
      const { response } = last.outcome;
      await keepTrouble(em, last.claimed.message.course, { trouble: 'unreachable', response }, now);
    } else await endTrouble(em, reached);
    for (const { claimed, outcome } of answered) {
      if (outcome.kind === 'unavailable') await keepTrouble(em, claimed.message.course, outcome, now);
    }
  }

  /** `coming` are the courses of what comes on the lines before it. */
  private async reserve(
    em: Tx,
    { limit, now, coming }: { readonly limit: number; readonly now: Instant; readonly coming: readonly number[] },
  ): Promise<QueuedMessage[]> {
    if (limit === 0) return [];
    const { server, courses } = await mailTroubles(em);
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
    return reserve(em, { worker: this.id, now, limit: most, without, stale, waiting, room });
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
      const begun = performance.now();
      this.hand.begin(claimed, begun);
      const outcome = await this.services.mail.send({ ...mail, files });
      this.pace.took(message.course, performance.now() - begun);
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
      await em.nativeDelete(WorkerRow, { id: { $in: dead } });
    });
  }
}
