/**
 * What one process has in hand of the outbox. Each message that it has reserved is in one phase, and goes only where an arrow leads:
 *
 *     reserved → judged → line → answered → (written: no longer in hand)
 *         │         │       └──→ back ────→ (written: queued again, as before its claim)
 *         └─────────┴──→ lost ───────────→ (written: queued again)
 *
 * `judged` may also be written at once: what waits, was withdrawn or cannot be made never comes on a line. In the database all of
 * these are `handing`; from `line` on there is a row of the log, and from the moment that its text may flow a mark (`begun.ts`), by which
 * a crash is told: a message with a mark is unclear, one without never began. What cannot be written stays in its phase for a later turn.
 */
import type { DeliveryOutcome } from '@zest-bell/core/nudges';
import type { ClaimedMessage } from './claim.ts';
import { messagesIn, type JudgedMessage } from './judge.ts';
import type { QueuedMessage } from './queue.ts';

export type MessageInHand =
  | { readonly phase: 'reserved'; readonly message: QueuedMessage }
  /** `at` is when, by `performance.now()`. */
  | { readonly phase: 'judged'; readonly judged: JudgedMessage; readonly at: number }
  /** Claimed: it waits for a line to the mail server or is on it. `at` is when it was judged. */
  | { readonly phase: 'line'; readonly claimed: ClaimedMessage; readonly at: number }
  | { readonly phase: 'answered'; readonly claimed: ClaimedMessage; readonly outcome: DeliveryOutcome }
  /** Claimed, and not handed over since its course was stopped. */
  | { readonly phase: 'back'; readonly claimed: ClaimedMessage }
  /** Reserved, and given up by a failure before anything was written. */
  | { readonly phase: 'lost'; readonly messages: readonly number[] };
export type Phase = MessageInHand['phase'];
export type MessageInPhase<P extends Phase> = Extract<MessageInHand, { readonly phase: P }>;

/** What was judged longer ago, in ms, rests on facts that are too old to leave on: it is judged again. */
const FRESH = 60_000;

const NEXT: Readonly<Record<Phase, readonly Phase[]>> = {
  reserved: ['judged', 'lost'],
  judged: ['line', 'lost'],
  line: ['answered', 'back'],
  answered: [],
  back: [],
  lost: [],
};

export class MessagesInHand {
  /** By its message, or by the one that carries its bundle; in the order in which they came into their phase. */
  private readonly held = new Map<number, MessageInHand>();

  in<P extends Phase>(phase: P): MessageInPhase<P>[] {
    return [...this.held.values()].filter((h): h is MessageInPhase<P> => h.phase === phase);
  }

  get isEmpty(): boolean {
    return this.held.size === 0;
  }

  reserve(messages: readonly QueuedMessage[]): void {
    for (const message of messages) this.take(message.id, { phase: 'reserved', message });
  }

  /** The messages that ride along are in hand together with their carrier from here on. */
  judge(all: readonly JudgedMessage[], at = performance.now()): void {
    for (const judged of all) {
      for (const { message } of judged.riders ?? []) this.held.delete(message.id);
      this.move(judged.message.id, { phase: 'judged', judged, at });
    }
  }

  /** Of what was judged and is written now, those that are claimed come on a line; the rest is no longer in hand. */
  write(all: readonly JudgedMessage[], claimed: readonly ClaimedMessage[]): void {
    const leaving = new Map(claimed.map((c) => [c.message.id, c]));
    for (const { message } of all) {
      const one = leaving.get(message.id);
      const before = this.held.get(message.id);
      const at = before?.phase === 'judged' ? before.at : -Infinity;
      if (one) this.move(message.id, { phase: 'line', claimed: one, at });
      else this.held.delete(message.id);
    }
  }

  /** A null answer says that it was not handed over. */
  answer(claimed: ClaimedMessage, outcome: DeliveryOutcome | null): void {
    const { id } = claimed.message;
    this.move(id, outcome === null ? { phase: 'back', claimed } : { phase: 'answered', claimed, outcome });
  }

  /** Gives up all that is reserved or judged. */
  lose(): void {
    for (const { message } of this.in('reserved')) this.move(message.id, { phase: 'lost', messages: [message.id] });
    this.loseJudged(this.in('judged'));
  }

  /** Gives up what was judged too long ago to leave on. */
  loseStale(now = performance.now()): void {
    this.loseJudged(this.in('judged').filter(({ at }) => now - at > FRESH));
  }

  /** Whether what waits for a line was judged too long ago to leave on. */
  isStale({ message }: ClaimedMessage, now = performance.now()): boolean {
    const held = this.held.get(message.id);
    return held?.phase === 'line' && now - held.at > FRESH;
  }

  private loseJudged(all: readonly MessageInPhase<'judged'>[]): void {
    for (const { judged } of all)
      this.move(judged.message.id, { phase: 'lost', messages: messagesIn(judged).map((m) => m.id) });
  }

  /** These are written. */
  settle(all: readonly MessageInPhase<'answered' | 'back' | 'lost'>[]): void {
    for (const one of all) this.held.delete(one.phase === 'lost' ? one.messages[0]! : one.claimed.message.id);
  }

  private take(id: number, held: MessageInPhase<'reserved'>): void {
    const now = this.held.get(id);
    if (now) throw new Error(`message ${id} is ${now.phase} and was reserved again`);
    this.held.set(id, held);
  }

  private move(id: number, to: MessageInHand): void {
    const from = this.held.get(id)?.phase;
    if (!from || !NEXT[from].includes(to.phase))
      throw new Error(`message ${id}: ${from ?? 'not in hand'} → ${to.phase}`);
    this.held.delete(id);
    this.held.set(id, to);
  }
}
