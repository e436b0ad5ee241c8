import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { instantColumn } from '../platform/columns.ts';

/** Somebody who can sign in. */
export const Account = defineEntity({
  name: 'Account',
  properties: {
    id: p.integer().primary(),
    email: p.string().unique(),
    name: p.string(),
    passwordHash: p.text(),
    createdAt: instantColumn(),
  },
});
export type Account = InferEntity<typeof Account>;

/** Which account works in which course. */
export const Access = defineEntity({
  name: 'Access',
  properties: {
    id: p.integer().primary(),
    account: p.integer().index(),
    course: p.integer(),
    role: p.string(),
  },
  uniques: [{ properties: ['account', 'course'] }],
});
export type Access = InferEntity<typeof Access>;

/** A signed-in browser; the id is a hash of what its cookie holds. */
export const SessionRow = defineEntity({
  name: 'SessionRow',
  tableName: 'session',
  properties: {
    id: p.string().primary(),
    data: p.text(),
    expiresAt: instantColumn().index(),
  },
});
export type SessionRow = InferEntity<typeof SessionRow>;
