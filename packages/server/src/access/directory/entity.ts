/** The institution's own sign-in (OpenID Connect): its settings, whom it knows by which account, and accounts joined to others. */
import { type InferEntity, defineEntity, p } from '@mikro-orm/core';
import type { AccessRole } from '@zest-bell/core/access';
import type { DirectoryAdmission } from '@zest-bell/core/exchange';
import { instantColumn } from '../../platform/database/columns.ts';
import { account, holds, key, notTold, plain } from '../../platform/database/holds.ts';

/** One row, and none before an administrator has connected a provider or changed what holds for it. */
export const DirectoryRow = defineEntity({
  name: 'DirectoryRow',
  tableName: 'directory',
  properties: {
    id: p.integer().primary(),
    /** Null where the server's own settings name the provider. */
    issuer: p.text().nullable(),
    clientId: p.text().nullable(),
    /** Sealed; null for a provider that asks for none. */
    secret: p.text().nullable(),
    name: p.string(),
    /** Whether an administrator has said that the addresses it gives are its people's own. */
    trustsAddresses: p.boolean().default(false),
    admits: p.json<DirectoryAdmission>().nullable(),
    acr: p.json<readonly string[]>(),
    amr: p.json<readonly string[]>(),
    passwordsOff: p.boolean().default(false),
  },
});
export type DirectoryRow = Readonly<InferEntity<typeof DirectoryRow>>;

/** Which account somebody of a provider is: an account is (issuer, subject). */
export const DirectoryAccountRow = defineEntity({
  name: 'DirectoryAccountRow',
  tableName: 'directory_account',
  properties: {
    id: p.integer().primary(),
    account: p.integer().index(),
    issuer: p.string(),
    subject: p.string(),
    /** By the real clock. */
    at: instantColumn(),
  },
  uniques: [{ properties: ['issuer', 'subject'] }],
});
export type DirectoryAccountRow = Readonly<InferEntity<typeof DirectoryAccountRow>>;

/** What somebody had in a course before their accounts were joined. */
export interface JoinedPart {
  readonly course: number;
  readonly role: AccessRole;
  /** Of the account that it was joined to; null for none. */
  readonly was: AccessRole | null;
}

/** An account of a launch that its owner has joined to another: who launches as it is signed in as that one. */
export const JoinedAccountRow = defineEntity({
  name: 'JoinedAccountRow',
  tableName: 'joined_account',
  properties: {
    id: p.integer().primary(),
    account: p.integer().unique(),
    to: p.integer().fieldName('to_account').index(),
    /** By the real clock. */
    at: instantColumn(),
    parts: p.json<readonly JoinedPart[]>(),
  },
});
export type JoinedAccountRow = Readonly<InferEntity<typeof JoinedAccountRow>>;

const OF_STAFF = { owner: ['account'], told: notTold('it is about people who work here') } as const;

export const directoryHolds = holds(DirectoryRow, {
  owner: ['installation'],
  columns: {
    id: key,
    issuer: plain,
    clientId: plain,
    secret: plain,
    name: plain,
    trustsAddresses: plain,
    admits: plain,
    acr: plain,
    amr: plain,
    passwordsOff: plain,
  },
});
export const directoryAccountHolds = holds(DirectoryAccountRow, {
  ...OF_STAFF,
  columns: { id: key, account: key, issuer: plain, subject: account, at: plain },
});
export const joinedAccountHolds = holds(JoinedAccountRow, {
  ...OF_STAFF,
  columns: { id: key, account: key, to: account, at: plain, parts: plain },
});
