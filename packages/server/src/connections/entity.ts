import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { instantColumn, oneOf } from '../platform/database/columns.ts';
import {
  account,
  by,
  facts,
  type ErasedStudent,
  holds,
  key,
  notTold,
  personId,
  plain,
  words,
} from '../platform/database/holds.ts';

const SOURCE_KINDS = ['oneroster', 'lti'] as const;

/** A connected service that is asked on a schedule: one of its classes feeds one course. */
export const SourceRow = defineEntity({
  name: 'SourceRow',
  tableName: 'source',
  properties: {
    id: p.integer().primary(),
    course: p.integer().index(),
    kind: oneOf(SOURCE_KINDS),
    /** How it is reached; what of it is secret is sealed. */
    settings: p.json<Readonly<Record<string, unknown>>>(),
    secret: p.text().nullable(),
    /** By the real clock, like all of a source. */
    addedAt: instantColumn(),
    nextAt: instantColumn().index(),
    /** When it last told all that it was asked for, and from when on it is asked the next time. */
    heardAt: instantColumn().nullable(),
    /** What the last pull came to. */
    last: p.json<object | null>().nullable(),
    /** Why the last pull came to nothing; null where it did not. */
    trouble: p.json<SourceTrouble | null>().nullable(),
    tries: p.integer().default(0),
  },
});
export type SourceRow = Readonly<InferEntity<typeof SourceRow>>;

export interface SourceTrouble {
  readonly code: string;
  readonly message: string;
  readonly tryAgainAt: number;
}

/** Whom or what an id of a source means in its course. */
export const SourceLinkRow = defineEntity({
  name: 'SourceLinkRow',
  tableName: 'source_link',
  properties: {
    id: p.integer().primary(),
    source: p.integer(),
    kind: oneOf(['person', 'item']),
    external: p.string(),
    key: p.string(),
    /** Of a person: nobody else had brought them. */
    alone: p.boolean().default(false),
  },
  uniques: [{ properties: ['source', 'kind', 'external'] }],
});
export type SourceLinkRow = Readonly<InferEntity<typeof SourceLinkRow>>;

export const sourceHolds = holds(SourceRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    kind: plain,
    settings: plain,
    secret: account,
    addedAt: plain,
    nextAt: plain,
    heardAt: plain,
    tries: plain,
    // What did not fit of somebody is not told of them any more.
    last: facts.searched(withoutRefused),
    trouble: words,
  },
  told: notTold('what a source said of somebody stands where it was taken'),
});

/** What is kept of a pull, without entries that it refused of them. */
function withoutRefused(last: object | null, gone: ErasedStudent): object | null {
  const { refused, refusedInAll } = (last ?? {}) as {
    readonly refused?: readonly { readonly id: string }[];
    readonly refusedInAll?: number;
  };
  if (!last || !refused) return last;
  const others = refused.filter((entry) => !gone.isCalled(entry.id) && !gone.isNamed(JSON.stringify(entry)));
  const theirs = refused.length - others.length;
  return theirs === 0 ? last : { ...last, refused: others, refusedInAll: (refusedInAll ?? refused.length) - theirs };
}

export const sourceLinkHolds = holds(SourceLinkRow, {
  owner: ['course'],
  course: { column: 'source', of: sourceHolds },
  columns: { id: key, source: key, kind: plain, external: personId, key: personId, alone: plain },
  about: [by('key', { kind: 'person' })],
  erased: 'goes',
  kept: 'goes',
  told: notTold('it is how a platform calls them'),
});
