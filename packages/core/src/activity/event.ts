/** What a student can do, as a course is told of it, and the masks by which a history is searched. */
import { z } from 'zod';
import type { Instant } from '../time/instant.ts';

/** What a person can do that a learning platform tells of (engine H1). The order is the stored code: only add at the end. */
export const EVENT_KINDS = [
  'signIn',
  'visit',
  'open',
  'practice',
  'submit',
  'post',
  'complete',
  'attend',
  'absent',
  'lastVisit',
  'lastSignIn',
] as const;
export type EventKind = (typeof EVENT_KINDS)[number];

/** What somebody did, after their name; an item follows those that are about one. */
export const EVENT_WORDS: Readonly<Record<EventKind, string>> = {
  signIn: 'signed in',
  visit: 'visited the course',
  open: 'opened',
  practice: 'practiced',
  submit: 'submitted',
  post: 'posted in',
  complete: 'completed',
  attend: 'attended',
  absent: 'was absent from',
  lastVisit: 'visited the course, by a list of last visits',
  lastSignIn: 'signed in, by a list of last sign-ins',
};

export const eventKindSchema = z.enum(EVENT_KINDS);

export interface ActivityEvent {
  readonly person: string;
  readonly kind: EventKind;
  readonly item: string | null;
  readonly at: Instant;
}

/** The latest grade of an item, or of one rubric criterion of it, from its instant on (engine H2). */
export interface Grade {
  readonly person: string;
  readonly item: string;
  readonly criterion: string | null;
  readonly points: number;
  readonly at: Instant;
}

/** Kinds that mean nothing without an item. */
export const NEEDS_ITEM: ReadonlySet<EventKind> = new Set(['open', 'practice', 'submit', 'post', 'attend', 'absent']);

/** Kinds that come from a list of last visits or sign-ins. They have no item (engine H1). */
export type LastSeenKind = Extract<EventKind, 'lastVisit' | 'lastSignIn'>;
const FROM_LISTS: readonly LastSeenKind[] = ['lastVisit', 'lastSignIn'];
export const isFromList = (kind: EventKind): kind is LastSeenKind =>
  (FROM_LISTS as readonly EventKind[]).includes(kind);

/** Why an event of this kind cannot have this item, or cannot be without one; null if it can. */
export function itemTrouble(kind: EventKind, item: string | null | undefined): string | null {
  if (item == null) return NEEDS_ITEM.has(kind) ? 'This kind needs an item' : null;
  return isFromList(kind) ? 'This kind has no item' : null;
}

const bit = (kind: EventKind): number => 1 << EVENT_KINDS.indexOf(kind);

/** A set of kinds as bits, for one look at a column. */
export const kindMask = (...kinds: readonly EventKind[]): number => kinds.reduce((mask, kind) => mask | bit(kind), 0);

/** Kinds that count as a visit when visits are counted or paired (engine H1, M5). */
export const VISITS = kindMask('visit', 'open', 'practice', 'submit', 'post', 'complete');
/** Kinds that show that a student was in the course, or signed in, at their instant. They end an absence (engine H1). */
export const VISIT_EVIDENCE = VISITS | kindMask('lastVisit');
export const SIGN_IN_EVIDENCE = VISIT_EVIDENCE | kindMask('signIn', 'lastSignIn');
/** Kinds that give the latest visit or sign-in and say nothing about earlier ones. */
export const LAST_SEEN = kindMask(...FROM_LISTS);
/** Kinds that only a source which records every visit sends. With at least one of them, visits can be counted (engine M5). */
export const VISIT_RECORDS = kindMask('visit', 'open', 'practice');
export const PARTICIPATION = kindMask('practice', 'submit', 'post');

/** How far in the future an act may lie, in ms, as clocks differ. One that is further off is refused: it would hide an absence. */
const CLOCKS_DIFFER = 5 * 60_000;

/** The latest instant at which something can have happened, as somebody tells of it at `now`. */
export const latestActAt = (now: Instant): Instant => now + CLOCKS_DIFFER;
