/** What a term is told by: what the log says of each rule, and what was read in hindsight. */
import type { Condition } from '../conditions/condition.ts';
import type { Hindsight } from '../outcomes/hindsight.ts';
import type { TextResult } from '../outcomes/textResults.ts';
import type { WithheldReason } from '../rounds/decide/withheld.ts';
import type { Rule } from '../rules/rule.ts';
import type { Instant } from '../time/instant.ts';

/** What limits held back of one rule. */
export interface HeldBack {
  readonly reason: WithheldReason;
  readonly students: number;
  /** Of these, those whom the rule never nudged. */
  readonly neverNudged: number;
  readonly rounds: number;
}

/** What the log says of a rule. */
export interface RuleLog {
  /** Null for what was sent by hand, and where a rule is gone. */
  readonly rule: string | null;
  readonly name: string;
  readonly rounds: number;
  readonly result: TextResult;
  /** Students whom its nudges reached. */
  readonly reached: number;
  /** Day of the term on which they got their first one, the median of them; null where it reached nobody. The term begins on day 1. */
  readonly firstDay: number | null;
  /** Worst first. */
  readonly heldBack: readonly HeldBack[];
}

/** The texts of a wording that has several, and what came of each. */
export interface TextLog {
  readonly wording: string;
  readonly texts: readonly TextResult[];
  /** Which is better by more than chance; null where none is. */
  readonly better: { readonly what: 'returns' | 'replies'; readonly better: number; readonly worse: number } | null;
}

export interface TermOrder {
  /** In the order of the course; put away ones too, if they sent something. */
  readonly rules: readonly Rule[];
  /** The outcome that one worries about. */
  readonly outcome: Condition;
  /** When it is read. */
  readonly at: Instant;
  readonly log: readonly RuleLog[];
  readonly texts: readonly TextLog[];
  /** Without other numbers, which are tried one by one. */
  readonly isBrief?: boolean;
}

/** One number of a rule, changed: what it would have found. */
export interface OtherNumber {
  readonly of: string;
  readonly unit: string;
  readonly value: number;
  readonly other: number;
  readonly counts: Hindsight['counts'];
}

export interface RuleHindsight {
  readonly rule: string;
  readonly counts: Hindsight['counts'];
  /** The value of its first number that finds more without finding as many needlessly; null where none does. */
  readonly other: OtherNumber | null;
}

export interface TermReport {
  readonly at: Instant;
  readonly students: number;
  /** Students with a known outcome, and those who have it. */
  readonly known: number;
  readonly worried: number;
  /** Of those, whom no rule found. */
  readonly missedByAll: number;
  readonly rules: readonly (RuleLog & { readonly hindsight: RuleHindsight | null })[];
  readonly texts: readonly TextLog[];
  /** At most three, the weightiest first. */
  readonly changes: readonly string[];
}
