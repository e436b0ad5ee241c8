import type { ItemKind } from '@zest-bell/core/course';

/** Kinds of items as an instructor calls them. */
export const ITEM_KIND_WORDS = {
  page: 'Page',
  assignment: 'Assignment',
  quiz: 'Quiz',
  forum: 'Forum',
  practice: 'Practice',
  session: 'Session',
} as const satisfies Record<ItemKind, string>;

/** What students have done with an item of each kind. */
export const ITEM_DONE_WORDS: Readonly<Record<ItemKind, string>> = {
  page: 'opened',
  assignment: 'turned in',
  quiz: 'turned in',
  forum: 'posted in',
  practice: 'practiced',
  session: 'attended',
};
