/** Starters and texts that an institution offers to all its courses. */
import type { Rule } from '../rules/rule.ts';
import type { CourseWord } from '../shelf/courseWords.ts';
import type { Instant } from '../time/instant.ts';
import type { Wording } from '../wording/wording.ts';

export const SHELF_KINDS = ['rule', 'wording'] as const;
export type ShelfKind = (typeof SHELF_KINDS)[number];

/** The longest note on when to use something, in characters. */
export const LONGEST_SHELF_NOTE = 500;

/** Something on the shelf, as it would be in a course. */
export interface ShelfItem {
  readonly id: number;
  readonly kind: ShelfKind;
  readonly name: string;
  /** When to use it, in the words of who put it there. */
  readonly note: string;
  readonly version: number;
  readonly by: string;
  readonly at: Instant;
  /** No longer offered; courses that have it keep it. */
  readonly isRetired: boolean;
  readonly versions: readonly {
    readonly version: number;
    readonly note: string;
    readonly by: string;
    readonly at: Instant;
  }[];
  /** Of a rule: its sentence; null where the course lacks something for it. */
  readonly sentence: string | null;
  /** Of a rule: how many meet its condition now. */
  readonly matching: number;
  /** What the course lacks for it, as a sentence; null for nothing. */
  readonly needs: string | null;
  /** The first of its texts. */
  readonly text: string;
}

/** A rule or a text of the course that was taken from the shelf. */
export interface ShelfCopy {
  readonly kind: ShelfKind;
  /** The key of the rule or the wording. */
  readonly key: string;
  readonly item: number;
  /** That was taken, or looked at since. */
  readonly version: number;
}

/** What every page of a rule or a wording asks: nothing of it is computed. */
export interface ShelfStanding {
  /** The name of the institution that offers it. */
  readonly college: string;
  /** Whether the reader may put things there and retire them. */
  readonly mayKeep: boolean;
  readonly items: readonly Pick<ShelfItem, 'id' | 'kind' | 'name' | 'note' | 'version' | 'isRetired'>[];
  readonly copies: readonly ShelfCopy[];
}

export interface ShelfAnswer extends ShelfStanding {
  readonly items: readonly ShelfItem[];
}

/** What would go on the shelf. */
export interface ShelfLook {
  readonly name: string;
  readonly rule: Rule | null;
  readonly wordings: readonly Wording[];
  /** What is still of the course. */
  readonly words: readonly CourseWord[];
}
