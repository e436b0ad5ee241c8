/**
 * Hands queued mail to the mail server. In one transaction a turn writes the log rows of what is handed over next, and reserves
 * what comes after that; outside of it messages are judged and made while others are on the line. That a message is on its way, and
 * what the mail server answered, is written at once (`journal.ts`). A process that dies leaves `handing`: what was on its way may
 * have left or not, and is the instructor's to settle; all else never left, and goes back to the queue.
 */
import { setTimeout as wait } from 'node:timers/promises';
import type { Instant } from '@zest-bell/core/time';
import type { DeliveryOutcome } from '@zest-bell/core/nudges';
import { stoppedCourses } from '../../course/waiting.ts';
import { rulesWaitingForData } from '../../rules/sources.ts';
import { MessageRow } from '../nudges/entity.ts';
import { CONNECTIONS } from '../../platform/mail/mail.ts';
import type { Tx } from '../../platform/database/orm.ts';
import type { CourseServices } from '../../course/services.ts';
import { every } from '../../platform/work/timer.ts';
import { inPlainTransaction, type Statements } from '../../platform/database/statements.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { openSendings } from '../sendings/sendings.ts';
import { packed } from '../../wording/sending.ts';
import { beginAll } from './begun.ts';
import { writeFates, type ClaimedMessage } from './claim.ts';
import { MessagesInHand } from './inHand.ts';
import { Journal } from './journal.ts';
import { judge, type JudgedMessage } from './judge.ts';
import { settleForDeadWorkers, requeueStrayMessages } from './leftBehind.ts';
import { mailTroubles } from './mailTrouble.ts';
import { letGo, putBack, writeOutcomes, type AnsweredMessage } from './outcomes.ts';
import { domainOf, ServerLines, type Passenger } from './lines.ts';
import { Pace } from './pace.ts';
import { reserve, type QueuedMessage } from './queue.ts';
import { ServerState } from './serverState.ts';
import { heartbeat, HEARTBEAT, makeWorkerId } from './worker.ts';
import { byClaim } from './claim.ts';

/** The most messages that a crash can leave uncertain: one on each line. */
export const MOST_UNCLEAR = CONNECTIONS;
/** The most that a turn writes log rows for. */
export const MOST_A_TURN = 48;
/** How long a pass waits for messages that are still on the line, in ms; their answers are written when they come. */
export const PATIENCE = 2_000;
const STOP_STEP = 20;
/** How often a pass that waits for the lines writes what has come back in the meantime, in ms. */
const STEP = 250;
/** How long a stop waits for answers to what was begun, in ms. */
const STOPS_WITHIN = 8_000;
/** A server that keeps up gets several turns' messages judged at once: what they share is read once. */
const AHEAD = 2;

/**
 * What a dispatcher does at a moment.
 *
 * - `idle`: no pass runs. Left when somebody calls `drain`; entered at the end of a pass.
 * - `turning`: writes what was judged, and takes and judges more. Entered at the start of a pass and by every turn.
 * - `waitingForLines`: all lines are taken, or the last answers are awaited. Entered after a turn; left by the next one, or by the end of
 *   the pass.
 * - `inTrouble`: the mail server takes nothing, so what was judged ahead goes back to wait with the rest. Entered when that was written
 *   to the database; left by the next turn, which puts it back.
 */
type DispatcherMode = 'idle' | 'turning' | 'waitingForLines' | 'inTrouble';

/** What other concepts do before each pass. One that fails holds up neither the others nor the mail. */
export type BeforeMail = () => Promise<void>;

export class Dispatcher {
  readonly id = makeWorkerId();
  private readonly services: CourseServices;
  private readonly before: readonly BeforeMail[];
  private readonly patience: number;
  private mode: DispatcherMode = 'idle';
  /** The pass that runs, and the one that follows it. */
  private running: Promise<void> | null = null;
  private next: Promise<void> | null = null;
  private readonly hand = new MessagesInHand();
  /** What is on the lines or waits for one: each ends when its answer is in hand. */
  private readonly flights = new Set<Promise<void>>();
  private readonly pace = new Pace();
  private readonly lines = new ServerLines(this.pace);
  private readonly journal = new Journal(
    (begins) => this.writeDown(begins),
    () => this.hand.in('answered').length > 0 || this.server.unreachable !== null,
  );
  /** Courses with mail that was stopped while messages of this process were on their way. */
  private readonly halted = new Set<number>();
  private readonly server: ServerState;
  /** A turn failed of which nobody knows whether it was written. */
  private mayHaveStrays = false;
  /** In which turn of this process mail of a course was last taken. */
  private readonly served = new Map<number, number>();
  private turns = 0;
  /** Messages that may flow and have no answer yet. */
  private readonly begun = new Set<ClaimedMessage>();
  private readonly stopping = new AbortController();

  constructor(services: CourseServices, before: readonly BeforeMail[] = [], patience = PATIENCE) {
    this.services = services;
    this.before = before;
    this.patience = patience;
    this.server = new ServerState(
      () => services.mail.answers(),
      services.logger,
      () => this.giveUp(),
    );
  }

  /** Hands over all that is due now. A call while a pass runs gets the one pass that follows, and that pass's failure. */
  drain(): Promise<void> {
    if (this.isStopping) return Promise.resolve();
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
    this.mode = 'turning';
    this.running = this.pass().finally(() => {
      this.mode = 'idle';
      this.running = null;
    });
    return this.running;
  }

  private get isStopping(): boolean {
    return this.stopping.signal.aborted;
  }

  /**
   * From this moment on no message is begun. Waits for the answers to those that are, at most `patience` ms, and writes them; what was
   * taken and not begun goes back to the queue, at the latest when others see that this process is gone.
   */
  async stop(patience = STOPS_WITHIN): Promise<void> {
    this.stopping.abort();
    await this.running?.catch((error: unknown) =>
      this.services.logger.error({ err: error }, 'mail was not handed over'),
    );
    for (const end = performance.now() + patience; this.begun.size > 0 && performance.now() < end;)
      await wait(STOP_STEP);
    this.lines.clear();
    await wait(0);
    this.hand.lose();
    await this.turn([], 0);
  }

  /** Says now and then that this process lives. Returns how to stop. */
  keepAlive(): () => Promise<void> {
    const { orm, logger } = this.services;
    return every(HEARTBEAT, () => inTransaction(orm, (em) => heartbeat(em, this.id)), logger);
  }

  /** What this process has claimed of a course and not yet handed over goes back to the queue. */
  halt(course: number): void {
    if (this.mode !== 'idle') this.halted.add(course);
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
    this.halted.clear();
    await this.settleForDeadWorkers();
    if (this.mayHaveStrays && this.hand.isEmpty) {
      await requeueStrayMessages(this.services.orm, this.id, this.services.clock.now());
      this.mayHaveStrays = false;
    }
    for (const work of this.before) {
      await work().catch((error: unknown) => this.services.logger.error({ err: error }, 'work before mail failed'));
    }
    // A few at first: what is due on its own leaves soon.
    for (let limit = CONNECTIONS; ;) {
      this.hand.loseStale();
      const waiting = this.hand.in('judged').map((h) => h.judged);
      const judged = waiting.slice(0, limit);
      const few = waiting.length - judged.length < limit;
      const { claimed, reserved } = await this.turn(judged, !few ? 0 : limit === MOST_A_TURN ? AHEAD * limit : limit);
      for (const one of claimed) this.launch(one);
      await this.judge(reserved);
      await this.room();
      if (this.isStopping) break;
      // What a process that is gone had taken comes back while others work.
      await this.settleForDeadWorkers();
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
    judged: readonly JudgedMessage[],
    limit: number,
  ): Promise<{ claimed: ClaimedMessage[]; reserved: QueuedMessage[] }> {
    const { orm, clock } = this.services;
    try {
      await this.journal.flush();
      if (this.mode === 'inTrouble') {
        this.hand.lose();
        judged = [];
      }
      if (this.mode !== 'idle') this.mode = 'turning';
      const [back, lost] = [this.hand.in('back'), this.hand.in('lost')];
      const written = await inTransaction(orm, async (tx) => {
        const em = byClaim(tx);
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

  /** In one transaction, the answers that have come and what is begun now. */
  private async writeDown(begins: readonly ClaimedMessage[]): Promise<ReadonlySet<ClaimedMessage>> {
    const { orm, clock } = this.services;
    const answered = this.hand.in('answered');
    const { unreachable } = this.server;
    const by = { worker: this.id, now: clock.now() };
    const writesTrouble = this.server.isNews(answered, unreachable);
    if (writesTrouble) {
      await inTransaction(orm, async (tx) => {
        const em = byClaim(tx);
        await this.server.write(em, answered, unreachable, by.now);
        await writeOutcomes(em, answered, by);
      });
      this.hand.settle(answered);
      const takesNothing = unreachable !== null || answered.some((a) => a.outcome.kind === 'unavailable');
      if (takesNothing && this.mode !== 'idle') this.mode = 'inTrouble';
      if (unreachable !== null) this.server.silenceWritten();
    }
    const mayBegin = this.isStopping || unreachable !== null ? [] : begins;
    const begun = await this.writeBegun(writesTrouble ? [] : answered, mayBegin, by);
    if (!writesTrouble) this.hand.settle(answered);
    return begun;
  }

  /** A message that may flow has its mark on the disk: after a power cut, nothing that may have left counts as not begun. */
  private async writeBegun(
    answered: readonly AnsweredMessage[],
    begins: readonly ClaimedMessage[],
    by: { readonly worker: string; readonly now: Instant },
  ): Promise<ReadonlySet<ClaimedMessage>> {
    if (answered.length === 0 && begins.length === 0) return new Set();
    const write = async (unclaimed: Statements) => {
      const statements = byClaim(unclaimed);
      await writeOutcomes(statements, answered, by);
      return beginAll(statements, begins, this.id);
    };
    return inPlainTransaction(this.services.orm, write, { isSynced: begins.length > 0 });
  }

  /** `coming` are the courses of what comes on the lines before it. */
  private async reserve(
    em: Tx<'claim'>,
    { limit, now, coming }: { readonly limit: number; readonly now: Instant; readonly coming: readonly number[] },
  ): Promise<QueuedMessage[]> {
    if (limit === 0) return [];
    const { server, courses } = await mailTroubles(em);
    this.server.knows(server !== null || courses.length > 0);
    if (server && server.nextTryAt > now) return [];
    const without = new Set(await stoppedCourses(em));
    const stale = await rulesWaitingForData(em, now);
    for (const trouble of courses) if (trouble.nextTryAt > now) without.add(trouble.course);
    for (const course of this.halted) without.add(course);
    // While the server is in trouble, a few tell whether it is over.
    const most = server ? Math.min(limit, CONNECTIONS) : limit;
    const waiting = (await openSendings(em, now)).map((s) => s.id);
    const room = this.pace.roomOf([...coming, ...this.hand.in('line').map((l) => l.claimed.message.course)]);
    const { crowded } = this.lines;
    const { id: worker, served } = this;
    return reserve(em, { worker, now, limit: most, without, stale, waiting, crowded, room, served });
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

  private waitForLines(): void {
    if (this.mode === 'turning') this.mode = 'waitingForLines';
  }

  private launch(claimed: ClaimedMessage): void {
    const { course, address } = claimed.message;
    const passenger = { course, domain: domainOf(address) };
    const flight = this.lines
      .run(passenger, () => this.send(claimed, passenger))
      .then((outcome) => {
        this.flights.delete(flight);
        this.begun.delete(claimed);
        this.hand.answer(claimed, outcome);
        // What cannot be written now stays in hand for the next turn.
        if (outcome !== null) this.journal.soon();
      });
    this.flights.add(flight);
  }

  /** The mail server takes nothing: what waits for a line goes back. */
  private giveUp(): void {
    this.lines.clear();
    this.journal.soon();
  }

  /**
   * Waits until a turn may take more: there are fewer messages in flight than lines, or some lines are held up while another is free, so
   * that messages for other domains can leave.
   */
  private async room(): Promise<void> {
    this.waitForLines();
    const { signal } = this.stopping;
    let stopped = () => undefined as void;
    const stops = new Promise<void>((resolve) => (stopped = resolve));
    signal.addEventListener('abort', stopped);
    while (this.flights.size >= CONNECTIONS && !signal.aborted && !(this.pace.isHeldUp && this.lines.hasRoom)) {
      await Promise.race([...this.flights, stops, wait(STEP, undefined, { ref: false })]);
    }
    signal.removeEventListener('abort', stopped);
  }

  /**
   * Waits for what is on the line, and writes what has come in the meantime. False when something still is after a while: its answer is
   * written when it comes.
   */
  private async landed(): Promise<boolean> {
    this.waitForLines();
    const all = Promise.all(this.flights);
    for (let waited = 0; waited < this.patience; waited += STEP) {
      const stop = new AbortController();
      const late = wait(STEP, 'late', { signal: stop.signal, ref: false }).catch(() => 'late');
      const came = (await Promise.race([all, late])) !== 'late';
      stop.abort();
      if (came) return true;
      if (this.isStopping) return false;
      if (this.isUnwritten) await this.turn([], 0);
    }
    void all.then(() => this.drain()).catch((error: unknown) => this.services.logger.error({ err: error }));
    return false;
  }

  /** Null if the course was stopped before the message began. An attachment that cannot be made fails the message, and the error says why. */
  private async send(claimed: ClaimedMessage, passenger: Passenger): Promise<DeliveryOutcome | null> {
    const { mail, parcel, message } = claimed;
    const { orm, logger } = this.services;
    const isHalted = () => this.isStopping || this.server.unreachable !== null || this.halted.has(message.course);
    if (isHalted() || this.hand.isStale(claimed)) return null;
    try {
      const files = parcel === null ? [] : await packed(orm, parcel, message.kind === 'student');
      if (isHalted()) return null;
      const since = performance.now();
      this.pace.began(passenger, since);
      const begun: { waited: number; answered?: () => void } = { waited: 0 };
      const outcome = await this.services.mail.handOver({ ...mail, files }, async () => {
        const asked = performance.now();
        const answered = isHalted() ? null : await this.journal.begin(claimed);
        begun.waited = performance.now() - asked;
        if (answered === null) return false;
        begun.answered = answered;
        this.begun.add(claimed);
        return true;
      });
      begun.answered?.();
      this.pace.ended(passenger, outcome === null ? null : performance.now() - since - begun.waited);
      // A line that comes to nothing, while the server answers on others, says nothing about the server.
      const isAlone =
        outcome?.kind === 'unavailable' && outcome.trouble === 'unreachable' && this.server.hasAnsweredSince(since);
      if (outcome === null || isAlone) return null;
      this.server.listen({ ...passenger, outcome });
      return outcome;
    } catch (error) {
      this.pace.ended(passenger, null);
      logger.error({ err: error, message: message.id }, 'what goes with a message cannot be made');
      const reason = error instanceof Error ? error.message : 'unknown reason';
      return { kind: 'permanent', response: `An attachment could not be made: ${reason}` };
    }
  }

  private settleForDeadWorkers(): Promise<void> {
    return settleForDeadWorkers(this.services.orm, this.id, this.services.clock.now());
  }
}
