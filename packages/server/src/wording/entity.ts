import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import type { Actor } from '@zest-bell/core/access';
import type { Instant } from '@zest-bell/core/time';
import {
  WORDING_PURPOSES,
  type Copy,
  type FileRef,
  type LetterSettings,
  type Variant,
  type Wording,
} from '@zest-bell/core/wording';
import { oneOf } from '../platform/database/columns.ts';
import { holds, key, plain, words } from '../platform/database/holds.ts';

/** What somebody drafted beside a wording that a running rule says. */
export interface WordingDraft {
  readonly wording: Wording;
  readonly by: Actor;
  readonly at: Instant;
}

export const WordingRow = defineEntity({
  name: 'WordingRow',
  tableName: 'wording',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    key: p.string(),
    name: p.string(),
    purpose: oneOf(WORDING_PURPOSES),
    subject: p.text(),
    body: p.text(),
    /** Further texts that say the same. */
    variants: p.json<readonly Variant[]>().default('[]'),
    /** Own words for third parties. */
    copies: p.json<readonly Copy[]>().default('[]'),
    /** Its attachments. */
    files: p.json<readonly FileRef[]>().default('[]'),
    letter: p.json<LetterSettings | null>().nullable(),
    version: p.integer().default(1),
    /** Changes of one that a running rule says, by somebody who may not run rules: nobody reads them until they are published. */
    drafted: p.json<WordingDraft | null>().nullable(),
  },
  uniques: [{ properties: ['course', 'key'] }],
});
export type WordingRow = Readonly<InferEntity<typeof WordingRow>>;

export const wordingHolds = holds(WordingRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    key: key,
    name: words,
    purpose: plain,
    subject: words,
    body: words,
    variants: words,
    copies: words,
    files: words,
    letter: words,
    version: plain,
    drafted: words,
  },
});
