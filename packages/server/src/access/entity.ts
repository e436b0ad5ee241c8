import { type InferEntity, defineEntity, p } from '@mikro-orm/core';
import { COURSE_MAKERS, DIGESTS, SEND_DELAY } from '@zest-bell/core/exchange';
import { ACCESS_ROLES, type Actor, type Capability } from '@zest-bell/core/access';
import { instantColumn, oneOf } from '../platform/database/columns.ts';
import { account, holds, key, notTold, personIds, plain } from '../platform/database/holds.ts';

/** Who did something. */
export const actorColumn = () => p.string().$type<Actor>();

/** Somebody who can sign in. */
export const Account = defineEntity({
  name: 'Account',
  properties: {
    id: p.integer().primary(),
    email: p.string().unique(),
    name: p.string(),
    passwordHash: p.text(),
    /** Where mail reaches a person who came by a launch or the directory and has no `email` that is sure; null for all others. */
    reachedAt: p.string().nullable(),
    createdAt: instantColumn(),
    /** How often they get a mail about their courses, and when the next one is due. */
    digest: oneOf(DIGESTS).default('off'),
    digestAt: instantColumn().nullable(),
    /** Whether they keep the whole installation: its people, its limits, what it is connected to. */
    isAdministrator: p.boolean().default(false),
    /** The secret of their authenticator app, sealed; null for none. */
    totp: p.text().nullable(),
    /** The period of the last code that was taken: a code works once. */
    totpUsed: p.integer().nullable(),
    /** Made through an invitation with a link that another person has seen: unproven until a mailed link proves its address. */
    isUnproven: p.boolean().default(false),
    /** Seconds that what they send by hand waits before it leaves; 0 for none. */
    sendDelay: p.integer().default(SEND_DELAY),
    /** Whether they have taken the tour, or left it. */
    tourOver: p.boolean().default(false),
  },
});
export type Account = Readonly<InferEntity<typeof Account>>;

/** Whether an account is named by an address of its own: that of a launch, or of the directory, may have none that is sure. */
const hasOwnAddress = (email: string): boolean => !/^(launch|directory):/.test(email);

/** Whether an account was made by a launch. */
export const isOfLaunch = ({ email }: Pick<Account, 'email'>): boolean => email.startsWith('launch:');

/** Where mail reaches somebody; null where no platform and no directory has said so. */
export const mailOf = ({ email, reachedAt }: Pick<Account, 'email' | 'reachedAt'>): string | null =>
  hasOwnAddress(email) ? email : (reachedAt ?? null);

/** Wrong tries within one window, by a hash of what is counted. */
export const SignInTryRow = defineEntity({
  name: 'SignInTryRow',
  tableName: 'sign_in_try',
  properties: {
    key: p.string().primary(),
    wrong: p.integer(),
    /** When the window began. */
    since: instantColumn().index(),
    endsAt: instantColumn().default(0).index(),
  },
});
export type SignInTryRow = Readonly<InferEntity<typeof SignInTryRow>>;

/** An account and a network address that have signed in together, as a hash. */
export const KnownPairRow = defineEntity({
  name: 'KnownPairRow',
  tableName: 'known_pair',
  properties: { key: p.string().primary(), until: instantColumn().index() },
});
export type KnownPairRow = Readonly<InferEntity<typeof KnownPairRow>>;

const PROOFS = ['link', 'code', 'platform', 'directory', 'administrator', 'machine'] as const;

/** An address that an account has shown to be its own, and how. */
export const ProvenAddressRow = defineEntity({
  name: 'ProvenAddressRow',
  tableName: 'proven_address',
  properties: {
    id: p.integer().primary(),
    account: p.integer(),
    /** In lower case. */
    address: p.string(),
    how: oneOf(PROOFS),
    /** By the real clock. */
    at: instantColumn(),
  },
  uniques: [{ properties: ['account', 'address'] }],
});
export type ProvenAddressRow = Readonly<InferEntity<typeof ProvenAddressRow>>;

/** A code mailed to an address, for the account that asked for it. */
export const AddressCodeRow = defineEntity({
  name: 'AddressCodeRow',
  tableName: 'address_code',
  properties: {
    id: p.integer().primary(),
    account: p.integer(),
    address: p.string(),
    /** Keyed with the server's secret: eight digits alone could be tried out. */
    mark: p.string(),
    tries: p.integer().default(0),
    at: instantColumn(),
    endsAt: instantColumn().index(),
  },
  indexes: [{ properties: ['account', 'at'] }, { properties: ['address', 'at'] }],
});
export type AddressCodeRow = Readonly<InferEntity<typeof AddressCodeRow>>;

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
export type Access = Readonly<InferEntity<typeof Access>>;

/** What of a course changes what its people may; a course without a row has the usual. */
export const CourseAccessRow = defineEntity({
  name: 'CourseAccessRow',
  tableName: 'course_access',
  properties: { course: p.integer().primary(), assistantsDecide: p.boolean().default(false) },
});
export type CourseAccessRow = Readonly<InferEntity<typeof CourseAccessRow>>;

export const FEEDS = ['activity', 'statements'] as const;

/** What opens a course to a program: shown once, kept as a hash. */
export const TokenRow = defineEntity({
  name: 'TokenRow',
  tableName: 'token',
  properties: {
    id: p.integer().primary(),
    course: p.integer().index(),
    name: p.string(),
    /** SHA-256. */
    hash: p.string().unique(),
    capabilities: p.json<readonly Capability[]>(),
    /** What a platform sends along, for those made by the course’s data page; null for all others. */
    feeds: oneOf(FEEDS).nullable(),
    /** Null for those that were there before anybody could make one. */
    madeBy: p.integer().nullable(),
    /** By the real clock, like all of a token. */
    madeAt: instantColumn(),
    endsAt: instantColumn().nullable(),
    revokedAt: instantColumn().nullable(),
    /** To the minute. */
    usedAt: instantColumn().nullable(),
  },
});
export type TokenRow = Readonly<InferEntity<typeof TokenRow>>;

/** What somebody did: each changing request that was answered, and each file that left. */
export const ActRow = defineEntity({
  name: 'ActRow',
  tableName: 'act',
  properties: {
    id: p.integer().primary(),
    /** By the real clock. */
    at: instantColumn().index(),
    /** Null for what is about no course. */
    course: p.integer().nullable(),
    by: actorColumn(),
    /** As the contract names the request: `rules.ring`. */
    act: p.string(),
    /** What it was about: the names in its path, ids of today. */
    about: p.json<Readonly<Record<string, string>>>(),
    /** Where it came from: an address of the network. */
    from: p.string(),
    /** How often, where alike acts within a quarter of an hour are one row; by `tally` they are told to be alike. */
    count: p.integer().default(1),
    tally: p.string().nullable().unique(),
  },
  indexes: [{ properties: ['course', 'at'] }],
});
export type ActRow = Readonly<InferEntity<typeof ActRow>>;

/** A link that works once: of an invitation, or of a forgotten password. It is kept as a hash. */
export const LinkRow = defineEntity({
  name: 'LinkRow',
  tableName: 'link',
  properties: {
    id: p.integer().primary(),
    kind: oneOf(['invitation', 'password']),
    /** SHA-256. */
    hash: p.string().unique(),
    /** Whom it was made for. */
    email: p.string(),
    /** Of an invitation. */
    course: p.integer().nullable().index(),
    role: oneOf(ACCESS_ROLES).nullable(),
    by: actorColumn().nullable(),
    at: instantColumn(),
    endsAt: instantColumn(),
    usedAt: instantColumn().nullable(),
    /** Whether somebody other than its address's owner has seen it. */
    isShown: p.boolean().default(false),
  },
});
export type LinkRow = Readonly<InferEntity<typeof LinkRow>>;

/** A code for anyone who lost their second factor: it works once. */
export const RecoveryRow = defineEntity({
  name: 'RecoveryRow',
  tableName: 'recovery_code',
  properties: {
    id: p.integer().primary(),
    account: p.integer().index(),
    /** SHA-256: such a code is as long as a token. */
    hash: p.string(),
  },
});
export type RecoveryRow = Readonly<InferEntity<typeof RecoveryRow>>;

/** A passkey (Web Authentication, Level 2). */
export const PasskeyRow = defineEntity({
  name: 'PasskeyRow',
  tableName: 'passkey',
  properties: {
    id: p.integer().primary(),
    account: p.integer().index(),
    name: p.string(),
    /** As the browser names it, in base64url. */
    credential: p.string().unique(),
    /** In base64url. */
    publicKey: p.text(),
    counter: p.bigint('number'),
    at: instantColumn(),
    usedAt: instantColumn().nullable(),
  },
});
export type PasskeyRow = Readonly<InferEntity<typeof PasskeyRow>>;

/** What holds for the whole installation; one row, and none while all is as usual. */
export const InstallationRow = defineEntity({
  name: 'InstallationRow',
  tableName: 'installation',
  properties: {
    id: p.integer().primary(),
    factorRequired: p.boolean().default(false),
    keepMonths: p.integer().default(24),
    /** Who carries invitations, passwords, notices and summaries; null where nobody has said. */
    senderName: p.string().nullable(),
    senderAddress: p.string().nullable(),
    /** Domains and addresses that mail may come from; empty for any that is proven. */
    senderDomains: p.json<readonly string[]>().default('[]'),
    coursesBy: oneOf(COURSE_MAKERS).default('proven'),
    /** Accounts that may make courses, where only those named may. */
    courseMakers: p.json<readonly number[]>().default('[]'),
    /** What the institution is called; empty where nobody has said. */
    name: p.string().default(''),
    /** Accounts that may put things on the shelf, beside administrators. */
    shelfKeepers: p.json<readonly number[]>().default('[]'),
    /** Of the server's secret, by which a process with another one is noticed. */
    fingerprint: p.string().nullable(),
  },
});
export type InstallationRow = Readonly<InferEntity<typeof InstallationRow>>;

/** A signed-in browser; the id is a hash of what its cookie holds. */
export const SessionRow = defineEntity({
  name: 'SessionRow',
  tableName: 'session',
  properties: {
    id: p.string().primary(),
    data: p.text(),
    /** Its account; null before anybody signed in. */
    account: p.integer().nullable().index(),
    since: instantColumn().default(0),
    /** To the minute. */
    seenAt: instantColumn().default(0),
    /** Where it was signed in from, and with which browser, as it says itself. */
    from: p.string().default(''),
    browser: p.text().default(''),
    expiresAt: instantColumn().index(),
  },
});
export type SessionRow = Readonly<InferEntity<typeof SessionRow>>;

const OF_STAFF = { owner: ['account'], told: notTold('it is about people who work here') } as const;
/** Written by single conditional statements: two who write at once cannot undo what the other did. */
const OF_STAFF_ALONE = { ...OF_STAFF, owner: ['process'] } as const;

export const accountHolds = holds(Account, {
  ...OF_STAFF,
  account: 'id',
  columns: {
    id: key,
    email: account,
    name: account,
    passwordHash: account,
    reachedAt: account,
    createdAt: plain,
    digest: plain,
    digestAt: plain,
    isAdministrator: plain,
    totp: account,
    totpUsed: plain,
    isUnproven: plain,
    sendDelay: plain,
    tourOver: plain,
  },
});
export const signInTryHolds = holds(SignInTryRow, {
  owner: ['process'],
  columns: { key: plain, wrong: plain, since: plain, endsAt: plain },
});
export const knownPairHolds = holds(KnownPairRow, { owner: ['process'], columns: { key: plain, until: plain } });
export const provenAddressHolds = holds(ProvenAddressRow, {
  ...OF_STAFF,
  columns: { id: key, account: key, address: account, how: plain, at: plain },
});
export const addressCodeHolds = holds(AddressCodeRow, {
  ...OF_STAFF_ALONE,
  columns: { id: key, account: key, address: account, mark: account, tries: plain, at: plain, endsAt: plain },
});
export const accessHolds = holds(Access, {
  owner: ['course'],
  columns: { id: key, account: key, course: key, role: plain },
  told: 'seenBy',
});
export const courseAccessHolds = holds(CourseAccessRow, {
  owner: ['course'],
  columns: { course: key, assistantsDecide: plain },
});
export const tokenHolds = holds(TokenRow, {
  owner: ['process'],
  columns: {
    id: key,
    course: key,
    name: plain,
    hash: key,
    capabilities: plain,
    feeds: plain,
    madeBy: account,
    madeAt: plain,
    endsAt: plain,
    revokedAt: plain,
    usedAt: plain,
  },
});
export const actHolds = holds(ActRow, {
  owner: ['process'],
  columns: {
    id: key,
    at: plain,
    course: key,
    by: account,
    act: plain,
    from: plain,
    count: plain,
    about: personIds.searched((about: Readonly<Record<string, string>>, { id, standsAs }) =>
      Object.fromEntries(Object.entries(about).map(([what, of]) => [what, of === id ? standsAs : of])),
    ),
    // Of sign-ins alone, and a digest.
    tally: plain,
  },
  told: notTold('it says what people who work here did'),
});
export const linkHolds = holds(LinkRow, {
  owner: ['process'],
  columns: {
    id: key,
    kind: plain,
    hash: key,
    email: account,
    course: key,
    role: plain,
    by: account,
    at: plain,
    endsAt: plain,
    usedAt: plain,
    isShown: plain,
  },
});
export const recoveryHolds = holds(RecoveryRow, { ...OF_STAFF, columns: { id: key, account: key, hash: account } });
export const passkeyHolds = holds(PasskeyRow, {
  ...OF_STAFF,
  columns: {
    id: key,
    account: key,
    name: account,
    credential: account,
    publicKey: account,
    counter: plain,
    at: plain,
    usedAt: plain,
  },
});
export const installationHolds = holds(InstallationRow, {
  owner: ['installation'],
  columns: {
    id: key,
    factorRequired: plain,
    keepMonths: plain,
    senderName: account,
    senderAddress: account,
    senderDomains: plain,
    coursesBy: plain,
    courseMakers: account,
    name: plain,
    shelfKeepers: plain,
    fingerprint: plain,
  },
});
export const sessionHolds = holds(SessionRow, {
  ...OF_STAFF_ALONE,
  columns: {
    id: key,
    data: account,
    account: key,
    since: plain,
    seenAt: plain,
    from: account,
    browser: account,
    expiresAt: plain,
  },
});
