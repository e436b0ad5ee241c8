import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import type { Break } from '@zest-bell/core/time';
import {
  ITEM_KINDS,
  ROLES,
  type Contact,
  type CourseSettings,
  type Extension,
  type OwnSender,
  type SenderSettings,
  type SourceTimes,
} from '@zest-bell/core/course';
import type { Condition } from '@zest-bell/core/conditions';
import { DEFAULT_GUARDS, type CourseGuards } from '@zest-bell/core/rounds';
import type { CourseMeanings } from '@zest-bell/core/imports';
import { instantColumn, oneOf } from '../platform/database/columns.ts';
import { actorColumn } from '../access/entity.ts';
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
  personIds,
  plain,
  redactedIn,
  text,
  withoutNamed,
  words,
} from '../platform/database/holds.ts';

export const CourseRow = defineEntity({
  name: 'CourseRow',
  tableName: 'course',
  properties: {
    id: p.integer().primary(),
    code: p.string(),
    title: p.string(),
    timeZone: p.string(),
    /** Local dates, both inclusive. */
    start: p.string(),
    end: p.string(),
    /** Its page on the learning platform. */
    url: p.text().nullable(),
    breaks: p.json<readonly Break[]>(),
    groupWeights: p.json<Readonly<Record<string, number>> | null>().nullable(),
    marks: p.json<Readonly<Record<string, number>>>(),
    /** Its own scale of letter grades, in percent. */
    letters: p.json<Readonly<Record<string, number>> | null>().nullable(),
    settings: p.json<CourseSettings>(),
    guards: p.json<CourseGuards>().default(JSON.stringify(DEFAULT_GUARDS)),
    sender: p.json<SenderSettings>(),
    /** The account that set the sender's addresses, for which they are proven; null for a sender from before that was asked. */
    senderBy: p.integer().nullable(),
    /** Whether somebody looked at the sender since the course was begun. */
    senderConfirmed: p.boolean().default(true),
    /** Whether somebody confirmed its days and its zone, where a launch has made it: until then no rule is on and nothing is sent. */
    daysConfirmed: p.boolean().default(true),
    /** Grows with whatever changes of it, so that what is in memory can tell that it is old. */
    version: p.integer().default(1),
    /** Grows when something changes that facts are computed from; an address or a pause is not. */
    factsVersion: p.integer().default(1),
    /** Grows when the sender, the limits or the days change: a dialog that shows them is old then. */
    settingsVersion: p.integer().default(1),
    /** When the learning platform last told anything, by our clock. */
    heardAt: instantColumn().nullable(),
    /** Whom its people worry about; null for what everybody does. */
    worry: p.json<Condition | null>().nullable(),
    /** Titles of items that were removed, by their ids: rules may still name them. */
    formerItems: p.json<Readonly<Record<string, string>> | null>().nullable(),
    /** How often facts were taken back: what was read of its history before is old then. */
    retractions: p.integer().default(0),
    /** What somebody chose for verbs, actors and activities that Zest Bell did not know. */
    meanings: p.json<CourseMeanings>().default('{}'),
    /** Whether files in the course’s folder are taken by themselves. */
    watched: p.boolean().default(false),
    /** When each source last told anything, by our clock. */
    sources: p.json<SourceTimes>().default('{}'),
    /** Months after its end that what is known of its students is kept; null for as long as everywhere. */
    keepMonths: p.integer().nullable(),
    /** While set, no mail of the course leaves and no round runs. */
    stoppedAt: instantColumn().nullable(),
    stoppedBy: actorColumn().nullable(),
    /** While set, the course is there to be read, and nothing in it changes. */
    archivedAt: instantColumn().nullable(),
    /** When the backup was made that this was restored from; null again once its mail was started. */
    copyFrom: instantColumn().nullable(),
  },
});
export type CourseRow = Readonly<InferEntity<typeof CourseRow>>;

/** What one of its people signs with in place of the course’s sender. */
export const OwnSenderRow = defineEntity({
  name: 'OwnSenderRow',
  tableName: 'own_sender',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    account: p.integer().index(),
    sender: p.json<OwnSender>(),
    /** Whether its addresses were proven when it was saved; false for one from before that was asked. */
    isChecked: p.boolean().default(false),
  },
  uniques: [{ properties: ['course', 'account'] }],
});
export type OwnSenderRow = Readonly<InferEntity<typeof OwnSenderRow>>;

/**
 * For each field, the last import that repeated its current value; under the empty name, the last import that named the entry. A field that
 * changes is removed. Undoing the change that set a field leaves the field alone while that import has not been undone.
 */
export type FieldImports = Readonly<Record<string, number>>;

export const PersonRow = defineEntity({
  name: 'PersonRow',
  tableName: 'person',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    key: p.string(),
    position: p.integer(),
    firstName: p.string(),
    lastName: p.string(),
    email: p.string().nullable(),
    role: oneOf(ROLES),
    section: p.string().nullable(),
    active: p.boolean(),
    enrolledAt: instantColumn(),
    paused: p.boolean().default(false),
    /** When a pause ends; null for a pause without an end, and without a pause. */
    pausedUntil: instantColumn().nullable(),
    /** When the address last proved not to work. */
    bouncedAt: instantColumn().nullable(),
    contacts: p.json<readonly Contact[]>(),
    fields: p.json<Readonly<Record<string, string | number>>>(),
    saidAgain: p.json<FieldImports | null>().nullable(),
  },
  uniques: [{ properties: ['course', 'key'] }],
});
export type PersonRow = Readonly<InferEntity<typeof PersonRow>>;

/** A student whom the instructor has set aside: until a day, no line about them asks for anything. */
export const AsideRow = defineEntity({
  name: 'AsideRow',
  tableName: 'aside',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    student: p.string(),
    /** The first instant at which they are looked at again. */
    until: instantColumn(),
    note: p.text(),
    setBy: actorColumn(),
    setAt: instantColumn(),
  },
  uniques: [{ properties: ['course', 'student'] }],
});
export type AsideRow = Readonly<InferEntity<typeof AsideRow>>;

export const ItemRow = defineEntity({
  name: 'ItemRow',
  tableName: 'item',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    key: p.string(),
    position: p.integer(),
    title: p.string(),
    kind: oneOf(ITEM_KINDS),
    itemGroup: p.string().nullable(),
    points: p.double().nullable(),
    opensAt: instantColumn().nullable(),
    dueAt: instantColumn().nullable(),
    topics: p.json<readonly string[]>(),
    excused: p.json<readonly string[]>(),
    extensions: p.json<readonly Extension[]>(),
    url: p.text().nullable(),
    saidAgain: p.json<FieldImports | null>().nullable(),
  },
  uniques: [{ properties: ['course', 'key'] }],
});
export type ItemRow = Readonly<InferEntity<typeof ItemRow>>;

export const courseHolds = holds(CourseRow, {
  owner: ['course'],
  course: 'id',
  columns: {
    id: key,
    code: plain,
    title: plain,
    timeZone: plain,
    start: plain,
    end: plain,
    url: plain,
    breaks: words,
    groupWeights: plain,
    marks: plain,
    letters: plain,
    settings: plain,
    guards: plain,
    sender: account,
    senderBy: account,
    senderConfirmed: plain,
    daysConfirmed: plain,
    version: plain,
    factsVersion: plain,
    settingsVersion: plain,
    heardAt: plain,
    worry: words,
    formerItems: words,
    retractions: plain,
    watched: plain,
    sources: plain,
    keepMonths: plain,
    stoppedAt: plain,
    stoppedBy: account,
    archivedAt: plain,
    copyFrom: plain,
    meanings: personIds.searched((meanings: CourseMeanings, { isThem }) => withoutNamed(meanings, isThem)),
  },
  told: notTold('it is about the course'),
});
export const ownSenderHolds = holds(OwnSenderRow, {
  owner: ['course', 'account'],
  columns: { id: key, course: key, account: key, sender: account, isChecked: plain },
});
export const personHolds = holds(PersonRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    key: personId,
    position: plain,
    firstName: name.emptied(''),
    lastName: name.emptied(''),
    email: address.emptied(null),
    role: plain,
    section: plain,
    active: plain,
    enrolledAt: plain,
    paused: plain,
    pausedUntil: plain,
    bouncedAt: plain,
    contacts: address.emptied([]),
    fields: facts.emptied({}),
    saidAgain: facts.emptied(null),
  },
  about: [by('key', { role: 'student' })],
  erased: 'goes',
  told: 'person',
});
export const asideHolds = holds(AsideRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    student: personId,
    until: plain,
    note: text.both('', redactedIn),
    setBy: account,
    setAt: plain,
  },
  about: [by('student')],
  erased: 'goes',
  kept: 'goes',
  told: 'setAside',
});

/** An item that excuses nobody and extends no date for them. */
export const withoutThem = <I extends Pick<ItemRow, 'excused' | 'extensions'>>(item: I, person: string): I => ({
  ...item,
  excused: item.excused.filter((id) => id !== person),
  extensions: item.extensions.filter((e) => e.person !== person),
});

export const itemHolds = holds(ItemRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    key: key,
    position: plain,
    title: words,
    kind: plain,
    itemGroup: words,
    points: plain,
    opensAt: plain,
    dueAt: plain,
    topics: words,
    url: plain,
    saidAgain: plain,
    excused: personIds.both<readonly string[]>([], (excused, { id }) => excused.filter((one) => one !== id)),
    extensions: personIds.both<readonly Extension[]>([], (all, { id }) => all.filter((one) => one.person !== id)),
  },
  told: notTold('it is about the course'),
});
