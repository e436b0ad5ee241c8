import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import type { LeafEvidence } from '@zest-bell/core/conditions';
import { HELD_REASONS, MESSAGE_STATES } from '@zest-bell/core/nudges';
import type { Variant } from '@zest-bell/core/wording';
import { RECIPIENT_KINDS, WITHHELD_REASONS, type WithheldReason } from '@zest-bell/core/rounds';
import { LOGGED_REASONS } from '@zest-bell/core/exchange';
import { instantColumn, oneOf } from '../../platform/database/columns.ts';
import type { Return } from '@zest-bell/core/outcomes';
import { actorColumn } from '../../access/entity.ts';
import {
  account,
  address,
  by,
  facts,
  holds,
  key,
  name,
  notTold,
  personId,
  plain,
  redactedIn,
  text,
  through,
} from '../../platform/database/holds.ts';

/** What came of a nudge, kept from the moment in which the facts that tell it went. */
export interface StoredReturn {
  /** False where no act of the student could be a return. */
  readonly canReturn: boolean;
  /** The student's act that ended what the rule found; null where there was none. */
  readonly act: Return | null;
  readonly replied: boolean;
}

/** One decision to write about one student for a reason. */
export const NudgeRow = defineEntity({
  name: 'NudgeRow',
  tableName: 'nudge',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    /** Rule, student and round: the store refuses a second one. */
    idempotencyKey: p.string().unique(),
    rule: p.string().nullable(),
    ruleVersion: p.integer(),
    student: p.string(),
    roundAt: instantColumn(),
    step: p.integer(),
    spellStart: instantColumn(),
    /** The state of its lead message. */
    state: oneOf(MESSAGE_STATES),
    /** Why it was withdrawn. */
    reason: oneOf(LOGGED_REASONS).nullable(),
    toStudent: p.boolean(),
    wording: p.string(),
    /** Under which subject its lead message was last made; null until it was. */
    subject: p.text().nullable(),
    /** When a message of it was last handed over; null until one was. */
    lastAt: instantColumn().nullable(),
    evidence: p.json<readonly LeafEvidence[]>(),
    /** Limits that would have refused it and that the instructor passed on purpose, with their name; null for all others. */
    passed: p.json<readonly WithheldReason[]>().nullable(),
    passedBy: actorColumn().nullable(),
    /** The text that the instructor wrote for this one alone; it takes the place of its wording’s. */
    edited: p.json<Variant | null>().nullable(),
    /** Put off by the instructor until then. */
    laterUntil: instantColumn().nullable(),
    /** Who approved or dismissed it, and why it was dismissed. */
    decidedBy: actorColumn().nullable(),
    /** Null while it is computed from the facts. */
    came: p.json<StoredReturn | null>().nullable(),
    dismissedFor: p.text().nullable(),
  },
  indexes: [
    { properties: ['course', 'roundAt'] },
    // Its last columns let nudges be counted by student from the index alone.
    { properties: ['course', 'student', 'roundAt', 'state', 'toStudent'] },
    { properties: ['course', 'student', 'rule', 'spellStart'] },
    { properties: ['course', 'rule', 'roundAt'] },
    { properties: ['course', 'state', 'roundAt'] },
    { properties: ['course', 'id'] },
    {
      name: 'nudge_latest_index',
      expression: 'create index "nudge_latest_index" on "nudge" ("course", coalesce("last_at", "round_at"), "id")',
    },
  ],
});
export type NudgeRow = Readonly<InferEntity<typeof NudgeRow>>;

/** One mail in the outbox: of a nudge, to the student or to a third party, or one that is no nudge. */
export const MessageRow = defineEntity({
  name: 'MessageRow',
  tableName: 'message',
  properties: {
    id: p.integer().primary(),
    /** Null for a mail that is no nudge. */
    nudge: p.integer().nullable().index(),
    /** What it says where it is no nudge; null for all others. */
    plainMail: p.integer().nullable().index(),
    course: p.integer(),
    kind: oneOf(RECIPIENT_KINDS),
    /** The message that gives the nudge its state: the student's message, or the first if the student gets none (engine R11). */
    lead: p.boolean().default(false),
    /** As the step named them: the audience of the text; null for messages from before that was stored. */
    reader: p.string().nullable(),
    name: p.string(),
    address: p.string(),
    state: oneOf(MESSAGE_STATES),
    /** Why it waits for the instructor; null while it does not. */
    heldFor: oneOf(HELD_REASONS).nullable(),
    /** Why it could not be made or handed over, as a sentence with what to do; null while nothing is wrong. */
    trouble: p.text().nullable(),
    sendAt: instantColumn(),
    attempts: p.integer().default(0),
    /** Which of the wording's texts it was made from; null until it was made. */
    variant: p.integer().nullable(),
    /** The process that is handing it over. */
    claimedBy: p.string().nullable(),
    /** Since when the mail server may have its text, by the database's clock; null before that and once it has answered. */
    begunAt: instantColumn().nullable(),
    settledAt: instantColumn().nullable(),
    /** What it waits with while a person can take it back; null where nobody set it off by hand. */
    sending: p.integer().nullable().index(),
    /** Messages of one round, step and address that go as one mail (engine R11a); null for all others. */
    bundle: p.string().nullable().index(),
  },
  indexes: [
    { properties: ['state', 'course', 'sendAt'] },
    { properties: ['course', 'sendAt'] },
    { properties: ['course', 'settledAt'] },
  ],
});
export type MessageRow = Readonly<InferEntity<typeof MessageRow>>;

/** Rounds in a row in which one limit refused a student in one spell. */
export const RefusalRow = defineEntity({
  name: 'RefusalRow',
  tableName: 'refusal',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    rule: p.string(),
    student: p.string(),
    spellStart: instantColumn(),
    step: p.integer(),
    reason: oneOf(WITHHELD_REASONS),
    firstRound: instantColumn(),
    lastRound: instantColumn(),
    rounds: p.integer(),
    evidence: p.json<readonly LeafEvidence[]>(),
  },
  indexes: [
    { properties: ['course', 'lastRound'] },
    { properties: ['course', 'rule', 'lastRound'] },
    { properties: ['course', 'student', 'rule', 'lastRound'] },
  ],
});
export type RefusalRow = Readonly<InferEntity<typeof RefusalRow>>;

export const nudgeHolds = holds(NudgeRow, {
  owner: ['course', 'claim'],
  columns: {
    id: key,
    course: key,
    rule: key,
    ruleVersion: plain,
    student: personId,
    roundAt: plain,
    step: plain,
    spellStart: plain,
    state: plain,
    reason: plain,
    toStudent: plain,
    wording: key,
    lastAt: plain,
    passed: plain,
    passedBy: account,
    came: plain,
    laterUntil: plain,
    decidedBy: account,
    // It names the student.
    idempotencyKey: facts.made((id) => `erased:${id}`),
    subject: text.emptied(null),
    evidence: facts.emptied([]),
    edited: text.both<Variant | null>(null, redactedIn),
    dismissedFor: text.both<string | null>(null, redactedIn),
  },
  about: [by('student')],
  kept: 'emptied',
  told: 'nudges',
});
export const messageHolds = holds(MessageRow, {
  owner: ['course', 'claim'],
  columns: {
    id: key,
    nudge: key,
    plainMail: key,
    course: key,
    kind: plain,
    lead: plain,
    state: plain,
    heldFor: plain,
    sendAt: plain,
    attempts: plain,
    variant: plain,
    claimedBy: plain,
    begunAt: plain,
    settledAt: plain,
    sending: key,
    name: name.emptied('a student'),
    address: address.emptied(''),
    reader: text.emptied(null),
    // It is made from an address.
    trouble: text.emptied(null),
    bundle: address.emptied(null),
  },
  about: [through('nudge', 'NudgeRow'), through('plainMail', 'PlainMailRow')],
  kept: 'emptied',
  told: notTold('what left is in the mail; what waits, in the nudges'),
});
export const refusalHolds = holds(RefusalRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    rule: key,
    student: personId,
    spellStart: plain,
    step: plain,
    reason: plain,
    firstRound: plain,
    lastRound: plain,
    rounds: plain,
    evidence: facts.emptied([]),
  },
  about: [by('student')],
  kept: 'emptied',
  told: 'heldBack',
});
