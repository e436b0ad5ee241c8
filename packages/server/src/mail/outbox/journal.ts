/**
 * Writes down, right before the mail server gets the text of a message, that it does, and right after its answer, what it was. What
 * comes together is written together. A server that answers at once needs few messages on their way at a time, so that a process that
 * dies leaves few unclear; one that takes its time gets as many as there are lines.
 */
import { DEAD_AFTER } from './worker.ts';
import { byItself } from '../../platform/turns/requestQueue.ts';
import { CONNECTIONS } from '../../platform/mail/mail.ts';
import type { ClaimedMessage } from './claim.ts';

/** A message that takes longer than this, in ms, keeps no other from being begun. */
const SLOW = 50;
/** Of a server that answers in this time, in ms, one more is on its way for each. */
const QUICK = 5;
const FEWEST = 2;

/** Writes the answers that have come, and which of these are begun; tells which may leave. */
export type Write = (begins: readonly ClaimedMessage[]) => Promise<ReadonlySet<ClaimedMessage>>;

interface MarkRequest {
  readonly claimed: ClaimedMessage;
  readonly told: (mayLeave: boolean) => void;
}

export class Journal {
  private readonly write: Write;
  private readonly hasAnswers: () => boolean;
  private asked: MarkRequest[] = [];
  private running: Promise<void> | null = null;
  /** On their way, and not yet for long. */
  private onTheirWay = 0;
  private readonly waiting: (() => void)[] = [];
  /** Something could not be written since a flush told of it. */
  private failed: { readonly error: unknown } | null = null;
  /** What an answer has lately taken, in ms. */
  private lately = QUICK;

  constructor(write: Write, hasAnswers: () => boolean) {
    this.write = write;
    this.hasAnswers = hasAnswers;
  }

  /**
   * Waits for its turn, and writes that a message is on its way. Null when it is not to leave: it is no longer this process's, its
   * course's mail was stopped, or that took so long that others may take it over. Else returns what to call with the answer.
   */
  async begin(claimed: ClaimedMessage): Promise<(() => void) | null> {
    while (this.onTheirWay >= this.most) await new Promise<void>((next) => this.waiting.push(next));
    this.onTheirWay++;
    let isCounted = true;
    const leave = () => {
      if (!isCounted) return;
      isCounted = false;
      this.onTheirWay--;
      this.waiting.shift()?.();
    };
    const asked = performance.now();
    const mayLeave = await new Promise<boolean>((told) => {
      this.asked.push({ claimed, told });
      this.soon();
    });
    const from = performance.now();
    if (!mayLeave || from - asked > DEAD_AFTER / 2) {
      leave();
      return null;
    }
    const slow = setTimeout(leave, SLOW);
    slow.unref();
    return () => {
      clearTimeout(slow);
      this.lately = (4 * this.lately + (performance.now() - from)) / 5;
      leave();
    };
  }

  private get most(): number {
    return Math.min(CONNECTIONS, Math.max(FEWEST, Math.round(this.lately / QUICK)));
  }

  /**
   * Until all that has come is written. Rejects when it cannot be, or could not since the last flush: answers stay in hand, and nothing
   * that asked may leave.
   */
  async flush(): Promise<void> {
    await this.writing();
    const { failed } = this;
    this.failed = null;
    if (failed) throw failed.error;
  }

  /** Writes what has come; the next flush tells where it could not. */
  soon(): void {
    void this.writing();
  }

  private writing(): Promise<void> {
    // For all who asked, not for the first of them.
    this.running ??= byItself(() => this.writeAll())
      .catch((error: unknown) => void (this.failed = { error }))
      .finally(() => {
        this.running = null;
        // What asked at the last moment.
        if (this.asked.length > 0) this.soon();
      });
    return this.running;
  }

  private async writeAll(): Promise<void> {
    while (this.asked.length > 0 || this.hasAnswers()) {
      // What follows an answer asks at the same moment and is written in the same transaction.
      await new Promise(setImmediate);
      const begins = this.asked;
      this.asked = [];
      try {
        const may = await this.write(begins.map((b) => b.claimed));
        for (const { claimed, told } of begins) told(may.has(claimed));
      } catch (error) {
        for (const { told } of begins) told(false);
        throw error;
      }
    }
  }
}
