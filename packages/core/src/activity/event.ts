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

const bit = (kind: EventKind): number => 1 << EVENT_KINDS.indexOf(kind);

/** A set of kinds as bits, for one look at a column. */
export const kindMask = (...kinds: readonly EventKind[]): number => kinds.reduce((mask, kind) => mask | bit(kind), 0);

/** Every kind that also counts as a visit, and every one that counts as a sign-in (engine H1). */
export const VISITS = kindMask('visit', 'open', 'practice', 'submit', 'post', 'complete');
export const SIGN_INS = VISITS | kindMask('signIn');
export const PARTICIPATION = kindMask('practice', 'submit', 'post');
