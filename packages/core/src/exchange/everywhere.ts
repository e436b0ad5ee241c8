/** What is asked over all of one’s courses, each row with its course. */
import type { Value } from '../measures/values/value.ts';
import type { LogLine, LogState } from './sendLog.ts';
import type { RuleCard } from './rules.ts';
import type { Rule } from '../rules/rule.ts';

export interface EveryLogLine extends LogLine {
  readonly course: number;
  readonly code: string;
  readonly timeZone: string;
}

export interface EveryLogAnswer {
  readonly lines: readonly EveryLogLine[];
  /** Of the first page alone. */
  readonly counts: Readonly<Record<LogState | 'all', number>> | null;
  readonly more: boolean;
}

export interface EveryStudent {
  readonly course: number;
  readonly code: string;
  readonly student: string;
  readonly name: string;
  /** By column of the view; null where it is unknown, or names what the course lacks. */
  readonly values: readonly Value[];
}

export interface EveryLookoutAnswer {
  /** In the order of the view, the first of them. */
  readonly rows: readonly EveryStudent[];
  readonly shown: number;
  readonly students: number;
  /** Columns, by their place, and conditions that a course cannot answer. */
  readonly courses: readonly {
    readonly course: number;
    readonly code: string;
    readonly shown: number;
    readonly without: readonly string[];
  }[];
}

/** A rule with its course; what is archived is left out. */
export interface EveryRule
  extends
    Pick<RuleCard, 'sentence' | 'nextRoundAt' | 'cannotRun' | 'wasOn' | 'lastRound'>,
    Pick<Rule, 'id' | 'name' | 'label' | 'status'> {
  readonly course: number;
  readonly code: string;
  readonly timeZone: string;
  /** Whom it looks for, after “students who”. */
  readonly looksFor: string;
  /** Whether its messages go to others alone. */
  readonly tellsOthers: boolean;
}
