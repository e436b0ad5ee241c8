/** What was sent and answered so far, as limits count it; a round adds to it. */
import type { Condition } from '../../conditions/condition.ts';
import type { MessageState } from '../../nudges/message.ts';
import type { Rule, RuleWeight } from '../../rules/rule.ts';
import type { Instant } from '../../time/instant.ts';

/** A past nudge as far as limits need to know it. */
export interface LoggedNudge {
  /** Null for a nudge by hand. */
  readonly rule: string | null;
  readonly student: string;
  readonly round: Instant;
  readonly step: number;
  readonly state: MessageState;
  /** False when only third parties were written to. */
  readonly toStudent: boolean;
  /** The weight of its rule as it is now; normal unless given. A nudge by hand is strong, whatever is here. */
  readonly weight?: RuleWeight | undefined;
  /** It has not been decided yet: another rule's, before the round that is asked about. */
  readonly coming?: boolean | undefined;
  /** The condition of the rule's version that sent it, when the rule was changed since (engine R3). */
  readonly when?: Condition | undefined;
}

export interface Reply {
  readonly student: string;
  /** The rule of the nudge that it answers; null or left out for a direct message. */
  readonly rule?: string | null | undefined;
  readonly at: Instant;
}

/** What limits are counted from. */
export class NudgeLog {
  private readonly byStudent = new Map<string, LoggedNudge[]>();
  private readonly replies = new Map<string, Reply[]>();

  constructor(nudges: Iterable<LoggedNudge> = [], replies: Iterable<Reply> = []) {
    for (const n of nudges) this.add(n);
    for (const r of replies) {
      const replies = this.replies.get(r.student);
      if (replies) replies.push(r);
      else this.replies.set(r.student, [r]);
    }
  }

  add(nudge: LoggedNudge): void {
    this.added.push(nudge.student);
    const nudges = this.byStudent.get(nudge.student);
    if (nudges) nudges.push(nudge);
    else this.byStudent.set(nudge.student, [nudge]);
  }

  private readonly added: string[] = [];

  /** Where the log is, for `rewind`. */
  mark(): number {
    return this.added.length;
  }

  /** Takes back what was added since the mark. Nothing may have been replaced in between. */
  rewind(mark: number): void {
    while (this.added.length > mark) this.byStudent.get(this.added.pop()!)!.pop();
  }

  /** Takes the place of an earlier entry, as when a queued nudge is withdrawn. */
  replace(old: LoggedNudge, next: LoggedNudge): void {
    const nudges = this.byStudent.get(old.student);
    const i = nudges?.indexOf(old) ?? -1;
    if (nudges && i >= 0) nudges[i] = next;
  }

  of(student: string): readonly LoggedNudge[] {
    return this.byStudent.get(student) ?? [];
  }

  /** Whether the student replied in `[from, until]`. */
  replied(student: string, from: Instant, until: Instant): boolean {
    return (this.replies.get(student) ?? []).some(({ at }) => at >= from && at <= until);
  }

  /** Whether the student replied in `[from, until]` to a nudge of a rule that stops at a reply (engine R6). */
  isStopped(rule: Pick<Rule, 'id' | 'repeat'>, student: string, from: Instant, until: Instant): boolean {
    if (!rule.repeat.untilReply) return false;
    return (this.replies.get(student) ?? []).some((r) => r.rule === rule.id && r.at >= from && r.at <= until);
  }
}

/** What limits are counted from, as it is stored and sent. */
export interface LimitLog {
  readonly nudges: readonly LoggedNudge[];
  readonly replies: readonly Reply[];
}

export const NOTHING_LOGGED: LimitLog = { nudges: [], replies: [] };

export const logOf = ({ nudges, replies }: LimitLog): NudgeLog => new NudgeLog(nudges, replies);
