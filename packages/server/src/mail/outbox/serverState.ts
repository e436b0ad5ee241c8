/** Whether the mail server takes mail, as far as this process has heard: from its answers, and from its silence. */
import type { Logger } from 'pino';
import {
  silenceOf,
  unansweredAfter,
  type DeliveryOutcome,
  type HandOverResult,
  type MailTrouble,
} from '@zest-bell/core/nudges';
import type { Instant } from '@zest-bell/core/time';
import type { Tx } from '../../platform/database/orm.ts';
import { endTrouble, keepTrouble } from './mailTrouble.ts';
import type { AnsweredMessage } from './outcomes.ts';

interface TroubleReport {
  readonly trouble: MailTrouble;
  readonly response: string;
}

export class ServerState {
  /** Asks the mail server on a fresh line whether it answers at all. */
  private readonly asks: () => Promise<boolean>;
  private readonly logger: Logger;
  /** Told when the server takes nothing. */
  private readonly onSilence: () => void;
  /** Messages in a row to which the mail server said nothing. */
  private unanswered: readonly HandOverResult[] = [];
  private silent: HandOverResult | null = null;
  private isAsking = false;
  /** When the mail server last answered a message, by `performance.now()`. */
  private lastAnswer = -Infinity;
  /** Trouble is kept that an answer may end; read again with each reservation. */
  private mayBeInTrouble = true;

  constructor(asks: () => Promise<boolean>, logger: Logger, onSilence: () => void) {
    this.asks = asks;
    this.logger = logger;
    this.onSilence = onSilence;
  }

  /** It says nothing to anybody, which is not written yet: nothing is begun until it is. */
  get unreachable(): HandOverResult | null {
    return this.silent;
  }

  /** Whether it answered a message after a moment, by `performance.now()`. */
  hasAnsweredSince(moment: number): boolean {
    return this.lastAnswer > moment;
  }

  knows(isInTrouble: boolean): void {
    this.mayBeInTrouble = isInTrouble;
  }

  /** Learns from an answer, or from silence. Silence of one course and domain alone is asked about on a fresh line. */
  listen(one: HandOverResult): void {
    if (said(one.outcome)) this.lastAnswer = performance.now();
    this.unanswered = unansweredAfter(this.unanswered, one);
    const silence = silenceOf(this.unanswered);
    if (silence === 'server') this.giveUp(one);
    if (silence !== 'ask' || this.isAsking) return;
    this.isAsking = true;
    void this.asks().then((answers) => {
      this.isAsking = false;
      if (answers) this.unanswered = [];
      // A message may have been answered meanwhile.
      else if (silenceOf(this.unanswered) !== 'none') this.giveUp(one);
    });
  }

  private giveUp(one: HandOverResult): void {
    this.silent ??= one;
    this.onSilence();
  }

  /** Whether these answers, or the silence, begin or end a trouble, so that `write` has something to say. */
  isNews(answered: readonly AnsweredMessage[], unreachable: HandOverResult | null): boolean {
    if (unreachable !== null) return true;
    return answered.length > 0 && (this.mayBeInTrouble || answered.some((a) => a.outcome.kind === 'unavailable'));
  }

  /** Writes what these answers say about the mail server, and its silence before them. */
  async write(
    em: Tx,
    answered: readonly AnsweredMessage[],
    unreachable: HandOverResult | null,
    now: Instant,
  ): Promise<void> {
    const reached = new Set(answered.flatMap((a) => (said(a.outcome) ? [a.claimed.message.course] : [])));
    if (unreachable) {
      const { course, outcome } = unreachable;
      await this.keep(em, course, { trouble: 'unreachable', response: outcome.response }, now);
    } else if (this.mayBeInTrouble) await endTrouble(em, reached);
    for (const { claimed, outcome } of answered)
      if (outcome.kind === 'unavailable') await this.keep(em, claimed.message.course, outcome, now);
  }

  /** The silence is written: the next messages are heard anew. */
  silenceWritten(): void {
    this.silent = null;
    this.unanswered = [];
  }

  /** A trouble is one line in the log, when it begins. What the mail server said is on Today: it may name somebody. */
  private async keep(em: Tx, course: number, about: TroubleReport, now: Instant): Promise<void> {
    this.mayBeInTrouble = true;
    if (!(await keepTrouble(em, course, about, now))) return;
    const { trouble } = about;
    this.logger.warn({ event: 'mailTrouble', trouble, course }, 'the mail server takes no mail');
  }
}

const said = (outcome: DeliveryOutcome): boolean => outcome.kind !== 'unavailable' && !('mute' in outcome);
