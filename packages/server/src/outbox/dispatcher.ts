/**
 * Hands queued mail to the mail server. Messages are claimed some at a time, in a transaction that writes what will be handed
 * over; then they are, several on the line at once; then the answers are written together. A process that dies in between
 * leaves `handing`, which the next one turns into `uncertain`: it is never sent again by itself.
 */
import type { DeliveryOutcome, Instant } from '@zest-bell/core';
import { MessageRow } from '../nudges/entity.ts';
import { settle } from '../nudges/settle.ts';
import { endPauses } from '../pauses/pause.ts';
import { CONNECTIONS } from '../platform/mail.ts';
import type { Services } from '../platform/services.ts';
import { inTransaction } from '../platform/transaction.ts';
import { ReplyRow } from '../replies/entity.ts';
import { forwardReplies } from '../replies/forward.ts';
import { AttemptRow } from '../sendLog/entity.ts';
import { packed } from '../wording/sending.ts';
import { claimDue, type Claimed } from './claim.ts';
import { putBack, writeOutcomes, type Answered } from './outcomes.ts';
import { deadWorkers, heartbeat, makeWorkerId } from './worker.ts';

/** The most messages that one claim takes, and that a crash can leave uncertain. */
export const MOST_AT_ONCE = 20;
/** A claim takes about as many as the mail server took lately in this time, in ms: a slow one leaves few uncertain. */
const SPAN = 100;

function paced(count: number, ms: number): number {
  return Math.min(MOST_AT_ONCE, Math.max(CONNECTIONS, Math.round((count / Math.max(ms, 1)) * SPAN)));
}

interface Handed {
  readonly answered: readonly Answered[];
  /** Claimed, and not handed over. */
  readonly back: readonly Claimed[];
}
const NOTHING_HANDED: Handed = { answered: [], back: [] };

export class Dispatcher {
  readonly id = makeWorkerId();
  private readonly services: Services;
  private running: Promise<void> | null = null;
  /** Courses whose mail was stopped while a claim of this process was on its way. */
  private readonly stopped = new Set<number>();

  constructor(services: Services) {
    this.services = services;
  }

  /** Hands over all that is due now. Calls while one runs share it, and one more pass follows. */
  async drain(): Promise<void> {
    while (this.running) await this.running;
    this.running = this.pass().finally(() => (this.running = null));
    return this.running;
  }

  /** What this process has claimed of a course and not yet handed over goes back to the queue. */
  halt(course: number): void {
    if (this.running) this.stopped.add(course);
  }

  /** When the next queued message falls due after now, or null. */
  async nextDue(): Promise<Instant | null> {
    const [row] = await this.services.orm.em
      .fork()
      .find(
        MessageRow,
        { state: 'queued', sendAt: { $gt: this.services.clock.now() } },
        { orderBy: { sendAt: 'asc' }, limit: 1 },
      );
    return row?.sendAt ?? null;
  }

  private async pass(): Promise<void> {
    await this.inheritFromTheDead();
    await endPauses(this.services);
    await forwardReplies(this.services, this.id);
    // A few at first: what is due by itself leaves soon, and a crash leaves little uncertain.
    let handed: Handed = NOTHING_HANDED;
    for (let limit = CONNECTIONS; ;) {
      this.stopped.clear();
      const { claimed, full } = await this.turn(handed, limit);
      const from = performance.now();
      handed = await this.handOver(claimed);
      limit = paced(claimed.length, performance.now() - from);
      if (!full) break;
    }
    if (handed !== NOTHING_HANDED) await this.turn(handed, 0);
  }

  private async inheritFromTheDead(): Promise<void> {
    const { orm, clock } = this.services;
    await inTransaction(orm, async (em) => {
      await heartbeat(em, this.id);
      const dead = await deadWorkers(em);
      if (dead.size === 0) return;
      // What it was passing on to the instructor may have left or not, like any other mail.
      await em.nativeUpdate(
        ReplyRow,
        { forward: 'handing', claimedBy: { $in: [...dead] } },
        { forward: 'uncertain', claimedBy: null },
      );
      for (const m of await em.find(MessageRow, { state: 'handing', claimedBy: { $in: [...dead] } })) {
        await settle(em, m, 'uncertain', null, clock.now());
        await em.nativeUpdate(
          AttemptRow,
          { message: m.id, outcome: 'handing' },
          { outcome: 'unknown', response: 'The server stopped while this message was on the line.' },
        );
      }
    });
  }

  /** Whatever happens to the next claim, what became of the messages handed over is written. */
  private async turn(handed: Handed, limit: number): Promise<{ claimed: Claimed[]; full: boolean }> {
    try {
      return await this.writeAndClaim(handed, limit);
    } catch (error) {
      if (handed !== NOTHING_HANDED && limit > 0) await this.writeAndClaim(handed, 0);
      throw error;
    }
  }

  private writeAndClaim({ answered, back }: Handed, limit: number): Promise<{ claimed: Claimed[]; full: boolean }> {
    const { orm, clock } = this.services;
    return inTransaction(orm, async (em) => {
      await heartbeat(em, this.id);
      await writeOutcomes(em, answered, clock.now());
      await putBack(em, back);
      return limit === 0 ? { claimed: [], full: false } : claimDue(em, this.services, this.id, limit);
    });
  }

  /** As many at once as there are lines to the mail server. */
  private async handOver(claimed: readonly Claimed[]): Promise<Handed> {
    if (claimed.length === 0) return NOTHING_HANDED;
    const answered: Answered[] = [];
    const back: Claimed[] = [];
    const left = [...claimed];
    const line = async () => {
      for (let of = left.shift(); of; of = left.shift()) {
        if (this.stopped.has(of.message.course)) back.push(of);
        else answered.push({ of, outcome: await this.send(of) });
      }
    };
    await Promise.all(Array.from({ length: CONNECTIONS }, line));
    return { answered, back };
  }

  /** Nothing was handed over when what goes with it cannot be made: then it fails, and says why. */
  private async send({ mail, parcel, message }: Claimed): Promise<DeliveryOutcome> {
    const { orm, logger } = this.services;
    let files;
    try {
      files = await packed(orm, parcel, message.kind === 'student');
    } catch (error) {
      logger.error({ err: error, message: message.id }, 'what goes with a message cannot be made');
      const reason = error instanceof Error ? error.message : 'unknown reason';
      return { kind: 'permanent', response: `What goes with it could not be made: ${reason}` };
    }
    return this.services.mail.send({ ...mail, files });
  }
}
