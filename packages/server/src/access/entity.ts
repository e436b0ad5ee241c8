import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { DIGESTS, SEND_DELAY } from '@zest-bell/core/exchange';
import { ACCESS_ROLES } from '@zest-bell/core/access';
import { instantColumn, oneOf } from '../platform/database/columns.ts';

/** Somebody who can sign in. */
export const Account = defineEntity({
  name: 'Account',
  properties: {
    id: p.integer().primary(),
    email: p.string().unique(),
    name: p.string(),
    passwordHash: p.text(),
    createdAt: instantColumn(),
    /** How often they get a mail about their courses, and when the next one is due. */
    digest: oneOf(DIGESTS).default('off'),
    digestAt: instantColumn().nullable(),
    /** Whether they keep the whole installation: its people, its limits, what it is connected to. */
    isAdministrator: p.boolean().default(false),
    /** Seconds that what they send by hand waits before it leaves; 0 for none. */
    sendDelay: p.integer().default(SEND_DELAY),
  },
});
export type Account = InferEntity<typeof Account>;

/** Wrong passwords for one account from one address; both as a hash. */
export const SignInTryRow = defineEntity({
  name: 'SignInTryRow',
  tableName: 'sign_in_try',
  properties: {
    key: p.string().primary(),
    wrong: p.integer(),
    /** When the first of them came; of those that are refused, the last. */
    since: instantColumn().index(),
  },
});
export type SignInTryRow = InferEntity<typeof SignInTryRow>;

/** Which account works in which course. */
export const Access = defineEntity({
  name: 'Access',
  properties: {
    id: p.integer().primary(),
    account: p.integer().index(),
    course: p.integer(),
    role: oneOf(ACCESS_ROLES),
  },
  uniques: [{ properties: ['account', 'course'] }],
});
export type Access = InferEntity<typeof Access>;

/** What of a course changes what its people may; a course without a row has the usual. */
export const CourseAccessRow = defineEntity({
  name: 'CourseAccessRow',
  tableName: 'course_access',
  properties: {
    course: p.integer().primary(),
    assistantsDecide: p.boolean().default(false),
  },
});
export type CourseAccessRow = InferEntity<typeof CourseAccessRow>;

/** A signed-in browser; the id is a hash of what its cookie holds. */
export const SessionRow = defineEntity({
  name: 'SessionRow',
  tableName: 'session',
  properties: {
    id: p.string().primary(),
    data: p.text(),
    /** Whose it is; null before anybody signed in. */
    account: p.integer().nullable().index(),
    expiresAt: instantColumn().index(),
  },
});
export type SessionRow = InferEntity<typeof SessionRow>;
