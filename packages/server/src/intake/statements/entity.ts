import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { instantColumn, oneOf } from '../../platform/database/columns.ts';
import {
  foundByColumns,
  facts,
  type ErasedStudent,
  holds,
  key,
  personId,
  plain,
  text,
} from '../../platform/database/holds.ts';

const STATEMENT_STATES = ['taken', 'waiting', 'nothing'] as const;

/** A statement as it was sent (xAPI), with what it became: events and grades, or a line that waits for somebody's choice. */
export const StatementRow = defineEntity({
  name: 'StatementRow',
  tableName: 'statement',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    /** Its own id, in small letters. */
    statement: p.string(),
    /** By which standard it came. */
    standard: oneOf(['xapi', 'caliper']).default('xapi'),
    json: p.text(),
    /** What two statements of one id must share. */
    digest: p.string(),
    /** The actor by the one thing that identifies them. */
    actor: p.string(),
    verb: p.string(),
    activity: p.string().nullable(),
    registration: p.string().nullable(),
    storedAt: instantColumn(),
    voided: p.boolean().default(false),
    state: oneOf(STATEMENT_STATES),
    /** What keeps it waiting, and what the statement says there: one choice takes all that say the same. */
    about: oneOf(['verb', 'person', 'item', 'other']).nullable(),
    said: p.text().nullable(),
    why: p.text().nullable(),
  },
  indexes: [
    { properties: ['course', 'id'] },
    { properties: ['course', 'state', 'id'] },
    { properties: ['course', 'storedAt'] },
    // What came in by each standard lately.
    { properties: ['course', 'standard', 'storedAt'] },
  ],
  uniques: [{ properties: ['course', 'statement'] }],
});
export type StatementRow = Readonly<InferEntity<typeof StatementRow>>;

/** By whom they are about, as senders identify people, and by what they say. */
const isAbout = (
  { actor, json, standard }: Pick<StatementRow, 'actor' | 'json' | 'standard'>,
  gone: ErasedStudent,
): boolean =>
  actor.endsWith(` ${gone.id}`) ||
  gone.isCalled(actor) ||
  gone.isNamed(json) ||
  // Caliper names people by addresses that end with an id, however short.
  (standard === 'caliper' && ['/', '#', ':'].some((before) => json.includes(`${before}${gone.id}"`)));

export const statementHolds = holds(StatementRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    statement: key,
    standard: plain,
    json: facts.emptied(''),
    digest: facts.emptied(''),
    actor: personId,
    verb: plain,
    activity: plain,
    registration: plain,
    storedAt: plain,
    voided: plain,
    state: plain,
    about: plain,
    said: text.emptied(null),
    why: text.emptied(null),
  },
  about: [foundByColumns<StatementRow>(['actor', 'json', 'standard'], isAbout)],
  erased: 'goes',
  kept: 'goes',
  told: 'statements',
});
