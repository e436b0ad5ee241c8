import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { ACCESS_ROLES } from '@zest-bell/core/access';
import { instantColumn, oneOf } from '../../platform/database/columns.ts';
import { account, holds, key, plain } from '../../platform/database/holds.ts';

/** A learning platform that may launch, as an administrator registered it (LTI 1.3). */
export const PlatformRow = defineEntity({
  name: 'PlatformRow',
  tableName: 'platform',
  properties: {
    id: p.integer().primary(),
    issuer: p.string(),
    clientId: p.string(),
    deployments: p.json<readonly string[]>(),
    authEndpoint: p.text(),
    tokenEndpoint: p.text(),
    jwksUrl: p.text(),
    /** What an assertion is made out to; the token endpoint, unless told otherwise. */
    tokenAudience: p.text().nullable(),
    /** Further origins that show it in a frame, and that its services are on. */
    frameOrigins: p.json<readonly string[]>(),
    serviceOrigins: p.json<readonly string[]>(),
    addedAt: instantColumn(),
    /** When an administrator let it launch; null for one that registered itself and waits for that. */
    approvedAt: instantColumn().nullable(),
    /** Whether an administrator has said that the addresses it gives are its people's own. */
    trustsAddresses: p.boolean().default(false),
  },
  uniques: [{ properties: ['issuer', 'clientId'] }],
});
export type PlatformRow = Readonly<InferEntity<typeof PlatformRow>>;

/** Lets a platform of one origin register itself, once. */
export const RegistrationCodeRow = defineEntity({
  name: 'RegistrationCodeRow',
  tableName: 'registration_code',
  properties: {
    /** SHA-256. */
    hash: p.string().primary(),
    origin: p.text(),
    endsAt: instantColumn(),
  },
});
export type RegistrationCodeRow = Readonly<InferEntity<typeof RegistrationCodeRow>>;

/** A key with which the tool signs: published before it is used. */
export const ToolKeyRow = defineEntity({
  name: 'ToolKeyRow',
  tableName: 'tool_key',
  properties: {
    id: p.integer().primary(),
    kid: p.string().unique(),
    publicKey: p.json<Readonly<Record<string, unknown>>>(),
    /** Sealed. */
    privateKey: p.text(),
    signsFrom: instantColumn(),
  },
});
export type ToolKeyRow = Readonly<InferEntity<typeof ToolKeyRow>>;

/** A nonce of a launch, so that none is used twice. */
export const NonceRow = defineEntity({
  name: 'NonceRow',
  tableName: 'launch_nonce',
  properties: { nonce: p.string().primary(), endsAt: instantColumn().index() },
});
export type NonceRow = Readonly<InferEntity<typeof NonceRow>>;

/** Which course a context of a deployment is. */
export const LaunchCourseRow = defineEntity({
  name: 'LaunchCourseRow',
  tableName: 'launch_course',
  properties: {
    id: p.integer().primary(),
    platform: p.integer(),
    deployment: p.string(),
    context: p.string(),
    course: p.integer().index(),
  },
  uniques: [{ properties: ['platform', 'deployment', 'context'] }],
});
export type LaunchCourseRow = Readonly<InferEntity<typeof LaunchCourseRow>>;

/** Which account somebody of a deployment is. */
export const LaunchAccountRow = defineEntity({
  name: 'LaunchAccountRow',
  tableName: 'launch_account',
  properties: {
    id: p.integer().primary(),
    platform: p.integer(),
    deployment: p.string(),
    subject: p.string(),
    account: p.integer().index(),
  },
  uniques: [{ properties: ['platform', 'deployment', 'subject'] }],
});
export type LaunchAccountRow = Readonly<InferEntity<typeof LaunchAccountRow>>;

/** What a launch gave somebody in a course: what an owner changed since is left as it is. */
export const LaunchPartRow = defineEntity({
  name: 'LaunchPartRow',
  tableName: 'launch_part',
  properties: { id: p.integer().primary(), account: p.integer(), course: p.integer(), role: oneOf(ACCESS_ROLES) },
  uniques: [{ properties: ['account', 'course'] }],
});
export type LaunchPartRow = Readonly<InferEntity<typeof LaunchPartRow>>;

/** Opens a window of its own for a launch in a frame that keeps no cookie: once, within a minute. */
export const LaunchCodeRow = defineEntity({
  name: 'LaunchCodeRow',
  tableName: 'launch_code',
  properties: {
    /** SHA-256. */
    hash: p.string().primary(),
    session: p.json<object>(),
    leadsTo: p.text(),
    endsAt: instantColumn(),
  },
});
export type LaunchCodeRow = Readonly<InferEntity<typeof LaunchCodeRow>>;

export const platformHolds = holds(PlatformRow, {
  owner: ['installation'],
  columns: {
    id: key,
    issuer: plain,
    clientId: plain,
    deployments: plain,
    authEndpoint: plain,
    tokenEndpoint: plain,
    jwksUrl: plain,
    tokenAudience: plain,
    frameOrigins: plain,
    serviceOrigins: plain,
    addedAt: plain,
    approvedAt: plain,
    trustsAddresses: plain,
  },
});
export const registrationCodeHolds = holds(RegistrationCodeRow, {
  owner: ['process'],
  columns: { hash: key, origin: plain, endsAt: plain },
});
export const toolKeyHolds = holds(ToolKeyRow, {
  owner: ['installation'],
  columns: { id: key, kid: plain, publicKey: plain, privateKey: plain, signsFrom: plain },
});
export const nonceHolds = holds(NonceRow, { owner: ['process'], columns: { nonce: plain, endsAt: plain } });
export const launchCourseHolds = holds(LaunchCourseRow, {
  owner: ['course'],
  columns: { id: key, platform: key, deployment: plain, context: plain, course: key },
});
/** Students who launch have no account. */
export const launchAccountHolds = holds(LaunchAccountRow, {
  owner: ['account'],
  columns: { id: key, platform: key, deployment: plain, subject: account, account: key },
});
export const launchPartHolds = holds(LaunchPartRow, {
  owner: ['course'],
  columns: { id: key, account: key, course: key, role: plain },
});
/** Lives for a minute; what opens a student's page is ended with their erasure (`ended.ts`). */
export const launchCodeHolds = holds(LaunchCodeRow, {
  owner: ['process'],
  columns: { hash: key, session: account, leadsTo: plain, endsAt: plain },
});
