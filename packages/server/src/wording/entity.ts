import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { WORDING_PURPOSES, type Copy, type FileRef, type LetterSettings, type Variant } from '@zest-bell/core/wording';
import { oneOf } from '../platform/database/columns.ts';

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
    /** What goes with it. */
    files: p.json<readonly FileRef[]>().default('[]'),
    letter: p.json<LetterSettings | null>().nullable(),
    version: p.integer().default(1),
  },
  uniques: [{ properties: ['course', 'key'] }],
});
export type WordingRow = InferEntity<typeof WordingRow>;
