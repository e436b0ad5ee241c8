/** Carrying over as the server tells it: what would come along, and the checklist of what has. */
import type { CarriedSetting } from '../carry/carry.ts';
import type { ItemMatch } from '../carry/match.ts';
import type { CarryProblem, DateChange } from '../carry/rules.ts';
import type { FoundText } from '../carry/wordings.ts';
import type { ItemKind } from '../course/item.ts';
import type { RuleStatus } from '../rules/rule.ts';
import type { Instant } from '../time/instant.ts';

/** When a rule runs, from its first day to its last: local dates. */
export interface RunDays {
  readonly from: string;
  readonly until: string;
}

export interface CarryRuleLine {
  /** Its id in the source, and the one it gets. */
  readonly from: string;
  readonly to: string;
  readonly name: string;
  readonly status: RuleStatus;
  /** As it will stand here. */
  readonly sentence: string;
  readonly before: RunDays;
  readonly after: RunDays;
  readonly dates: readonly DateChange[];
  readonly problems: readonly CarryProblem[];
  /** Ids of the source's items that it names, and of the wordings that it sends. */
  readonly items: readonly string[];
  readonly wordings: readonly string[];
}

export interface CarryWordingLine {
  readonly from: string;
  readonly name: string;
  /** It is here already, word for word. */
  readonly isThere: boolean;
  readonly found: readonly FoundText[];
}

export interface CarryItem {
  readonly id: string;
  readonly title: string;
  readonly kind: ItemKind;
  readonly dueAt: Instant | null;
}

/** A file of rules that was brought to be carried over from. */
export interface CarryFile {
  /** As it is named where it is carried from: `file-12`. */
  readonly from: string;
  readonly name: string;
  readonly code: string;
  readonly title: string;
  readonly at: Instant;
}

export interface CarryPreview {
  readonly source: {
    readonly code: string;
    readonly title: string;
    readonly timeZone: string;
    readonly start: string;
    readonly end: string;
    readonly items: readonly CarryItem[];
    readonly sender: string;
    /** Whether that sender is who is signed in. */
    readonly isOwnSender: boolean;
  };
  readonly days: number;
  /** One line for each of the source's items; alike ones are proposed. */
  readonly items: readonly ItemMatch[];
  /** Its items can come along: this course has none. */
  readonly mayBringItems: boolean;
  readonly rules: readonly CarryRuleLine[];
  readonly wordings: readonly CarryWordingLine[];
  readonly settings: readonly CarriedSetting[];
  readonly views: readonly { readonly name: string; readonly without: readonly string[]; readonly isThere: boolean }[];
}

/** One line of the checklist that carrying ends in (engine K8). */
export interface CarriedRuleLine {
  readonly rule: string;
  readonly name: string;
  readonly status: RuleStatus;
  readonly version: number;
  readonly dates: readonly DateChange[];
  /** What of its dates and sections is to be looked at, as it was when it came. */
  readonly problems: readonly CarryProblem[];
  /** What it names and this course lacks as it is now, as the source calls it: it cannot be turned on so. */
  readonly lacks: readonly string[];
  /** Titles of the source's items that it named when it came, with what they were here. */
  readonly items: readonly { readonly from: string; readonly to: string | null }[];
  readonly done: boolean;
  /** It was turned on: that it is done is no tick that could be taken away. */
  readonly wasOn: boolean;
}

export interface CarriedWordingLine {
  readonly wording: string;
  readonly name: string;
  /** What its texts said of the old term. */
  readonly finds: number;
  /** It names an item that this course lacks: no rule that uses it can be turned on. */
  readonly lacksItem: boolean;
  readonly done: boolean;
}

export interface CarriedList {
  readonly id: number;
  readonly from: { readonly code: string; readonly title: string };
  readonly at: Instant;
  readonly by: string;
  readonly rules: readonly CarriedRuleLine[];
  readonly wordings: readonly CarriedWordingLine[];
  /** Null where none came along. `confirmed`: somebody saved it or sent a test, so that no tick is needed. */
  readonly sender: { readonly done: boolean; readonly confirmed: boolean } | null;
  /** Limits, weights and marks that came along. */
  readonly settings: readonly { readonly what: string; readonly done: boolean }[];
  /** What was carried has rung: it can no longer be taken back. */
  readonly hasRung: boolean;
}

/** What stays when carrying is undone: it was changed since. */
export interface CarryUndone {
  readonly stays: readonly {
    readonly kind: 'rule' | 'wording' | 'setting' | 'view' | 'items';
    readonly name: string;
  }[];
}
