import type { Instant } from '../time/instant.ts';

export const ITEM_KINDS = ['page', 'assignment', 'quiz', 'forum', 'practice', 'session'] as const;
export type ItemKind = (typeof ITEM_KINDS)[number];

/** A later due instant for one person or one section. */
export interface Extension {
  readonly person?: string | undefined;
  readonly section?: string | undefined;
  readonly dueAt: Instant;
}

/** A thing of the course that students open, do or attend. */
export interface Item {
  readonly id: string;
  readonly title: string;
  readonly kind: ItemKind;
  readonly group: string | null;
  /** Points possible; null when it is not graded in points. */
  readonly points: number | null;
  readonly opensAt: Instant | null;
  readonly dueAt: Instant | null;
  readonly topics: readonly string[];
  /** Ids of the people who need not do it. */
  readonly excused: readonly string[];
  readonly extensions: readonly Extension[];
  /** Where students open it, http or https; null or left out when nobody said. */
  readonly url?: string | null | undefined;
}
