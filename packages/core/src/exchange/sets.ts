/** Rules and wordings that several courses have from one origin, as the server tells of them. */
import type { ItemMatch } from '../carry/match.ts';
import type { CarryProblem } from '../carry/rules.ts';
import type { RuleStatus } from '../rules/rule.ts';
import type { PartState, PartSide } from '../sets/threeWays.ts';

export const SET_KINDS = ['rule', 'wording'] as const;
export type SetKind = (typeof SET_KINDS)[number];

/** What the list of rules or wordings says of one that is of a set. */
export interface SetCard {
  readonly kind: SetKind;
  readonly key: string;
  /** All courses that have it, this one too. */
  readonly courses: number;
  /** Of them, those of which the reader sees nothing: they are not compared. */
  readonly hidden: number;
  /** Of those that the reader sees, how many differ from the set's latest version. */
  readonly differ: number;
  /** A change from another course waits here for a yes: its code. */
  readonly waitsFrom: string | null;
}

/** One part of a copy that is not the same as what is offered. */
export interface SetLine {
  readonly part: string;
  readonly title: string;
  readonly state: PartState;
  /** What it would be, as far as anybody has chosen. */
  readonly pick: PartSide | null;
  /** A text with merge fields: shown with their titles. */
  readonly isText: boolean;
  readonly origin: string;
  /** As it is offered. */
  readonly here: string;
  /** As it is there. */
  readonly there: string;
}

/** What a change would do to one copy. */
export interface SetChange {
  /** The course it comes from. */
  readonly from: string;
  readonly lines: readonly SetLine[];
  readonly problems: readonly CarryProblem[];
  /** Items that look alike and are no match before somebody says so, with their titles. */
  readonly proposed: readonly (ItemMatch & { readonly fromTitle: string; readonly toTitle: string })[];
  /** Whom the rule finds now, and whom it would find with what is taken; null for a wording. */
  readonly reach: {
    readonly before: number;
    readonly after: number;
    readonly students: number;
    /** Names, the first of them. */
    readonly more: readonly string[];
    readonly fewer: readonly string[];
  } | null;
}

export interface SetMember {
  readonly course: { readonly id: number; readonly code: string; readonly title: string };
  readonly key: string;
  readonly name: string;
  /** Null for a wording. */
  readonly status: RuleStatus | null;
  readonly version: number;
  readonly isHere: boolean;
  /** Why it is left alone; null where it may be changed. */
  readonly leftAlone: 'archivedCourse' | 'notAllowed' | 'putAway' | null;
  /** Titles of the parts in which it differs from the set's latest version. */
  readonly differs: readonly string[];
  /** It waits there as a draft and is not what runs. */
  readonly waits: boolean;
  /** Here: what waits for a yes. Elsewhere: what this course's copy would change. Null where there is nothing. */
  readonly change: SetChange | null;
}

export interface SetAnswer {
  readonly kind: SetKind;
  /** By course. Courses that one has no access to are counted alone. */
  readonly members: readonly SetMember[];
  readonly others: number;
}

/** A course that could have a copy. */
export interface SetCandidate {
  readonly course: { readonly id: number; readonly code: string; readonly title: string };
  /** Why it cannot; null where it can. */
  readonly leftAlone: 'archivedCourse' | 'notAllowed' | 'otherTerm' | 'hasIt' | null;
  /** Those of the same name there, which could be joined. */
  readonly alike: readonly { readonly key: string; readonly name: string }[];
  readonly problems: readonly CarryProblem[];
  readonly proposed: SetChange['proposed'];
  /** How many a copy would find there now; null for a wording. */
  readonly finds: { readonly now: number; readonly students: number } | null;
}

/** What became of one course: a course that fails stops no other. */
export interface SetOutcome {
  readonly course: number;
  readonly code: string;
  /** Null where it went well. */
  readonly problem: { readonly code: string; readonly words: string; readonly addresses: readonly string[] } | null;
}
