/** Who comes by a launch, and into which course: by what the platform calls them, never by an address. */
import type { AccessRole } from '@zest-bell/core/access';
import { isAddress } from '@zest-bell/core/course';
import { DAY, zoneOf, type Instant } from '@zest-bell/core/time';
import { Access, Account, accountHolds, accessHolds } from '../../access/entity.ts';
import { joinedTo } from '../../access/directory/join.ts';
import { prove } from '../../access/links.ts';
import { hashOf } from '../../access/passwords.ts';
import { withCourse } from '../../course/repository.ts';
import { NEW_COURSE } from '../../intake/setUp/setUp.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { SourceRow, sourceHolds } from '../entity.ts';
import {
  LaunchAccountRow,
  LaunchCourseRow,
  LaunchPartRow,
  type PlatformRow,
  launchAccountHolds,
  launchCourseHolds,
  launchPartHolds,
} from './entity.ts';
import type { LaunchMessage } from './message.ts';
import { wallClock } from '../../platform/process/clock.ts';
import { insertRow, updateRow } from '../../platform/database/writing.ts';
import { alsoAccount, withNewAccount } from '../../access/holding.ts';

/** Roles of the context alone (from memory of the vocabulary): those of the institution or the system give nothing. */
const MEMBERSHIP = 'http://purl.imsglobal.org/vocab/lis/v2/membership';
const WEEKS = 18;
const LONGEST_CODE = 40;

export type LaunchRole = 'instructor' | 'assistant' | 'student';

export function roleOf(roles: readonly string[]): LaunchRole {
  const has = (...wanted: string[]) => wanted.some((w) => roles.includes(w));
  if (has(`${MEMBERSHIP}/Instructor#TeachingAssistant`)) return 'assistant';
  if (has(`${MEMBERSHIP}#Instructor`, 'Instructor')) return 'instructor';
  return 'student';
}

export interface Arrival {
  readonly platform: PlatformRow;
  readonly message: LaunchMessage;
  /** By the courses' clock: a course begins on its day. */
  readonly now: Instant;
}

/** The course of the context; null while no instructor has come. */
export const launchCourse = (tx: Tx, { platform, message }: Arrival): Promise<LaunchCourseRow | null> =>
  tx.findOne(LaunchCourseRow, { platform: platform.id, deployment: message.deployment, context: message.context.id });

/** Holds the account of somebody of a deployment, which the first launch makes; its name is the platform's of today. */
export async function launchAccount<T>(
  tx: Tx,
  { platform, message, now }: Arrival,
  work: (account: Account) => Promise<T>,
): Promise<T> {
  const who = { platform: platform.id, deployment: message.deployment, subject: message.subject };
  const known = await tx.findOne(LaunchAccountRow, who);
  const name = message.name.whole || 'An instructor';
  const reachedAt = message.email !== null && isAddress(message.email) ? message.email.toLowerCase() : null;
  if (known) {
    const joined = await joinedTo(tx, known.account);
    // Its own account is theirs to name.
    if (joined !== known.account) return alsoAccount(tx, joined, (_mine, account) => work(account));
    return alsoAccount(tx, known.account, async (mine, account) => {
      const renamed = message.name.whole === '' ? {} : { name: name.slice(0, 120) };
      await updateRow(mine, accountHolds, account, { ...renamed, ...(reachedAt === null ? {} : { reachedAt }) });
      if (reachedAt !== null && platform.trustsAddresses) await prove(mine, account.id, reachedAt, 'platform');
      return work(account);
    });
  }
  const made = {
    // Without an address, nobody can sign in to it, and it cannot belong to another person.
    email: `launch:${hashOf(JSON.stringify(who))}`,
    name: name.slice(0, 120),
    passwordHash: '',
    createdAt: now,
    reachedAt,
  };
  return withNewAccount(tx, made, async (mine, account) => {
    await insertRow(mine, launchAccountHolds, { ...who, account: account.id });
    if (reachedAt !== null && platform.trustsAddresses) await prove(mine, account.id, reachedAt, 'platform');
    return work(account);
  });
}

/** A date of a custom parameter that the platform has filled in; null where it has not. */
function dateIn(message: LaunchMessage, name: string, timeZone: string): string | null {
  const said = message.custom[name];
  if (said === undefined || said.startsWith('$') || Number.isNaN(Date.parse(said))) return null;
  return /^\d{4}-\d{2}-\d{2}$/.test(said)
    ? said
    : new Date(zoneOf(timeZone).toWall(Date.parse(said))).toISOString().slice(0, 10);
}

/** Makes the course of a context; an instructor has yet to confirm its days and zone. */
export async function beginCourse<T>(
  tx: Tx,
  arrival: Arrival,
  account: Account,
  work: (tx: Tx<'course'>, course: number) => Promise<T>,
): Promise<T> {
  const { platform, message, now } = arrival;
  const { timeZone } = Intl.DateTimeFormat().resolvedOptions();
  const day = (at: number) => new Date(zoneOf(timeZone).toWall(at)).toISOString().slice(0, 10);
  const start = dateIn(message, 'begin', timeZone) ?? day(now);
  const told = dateIn(message, 'end', timeZone);
  const end = told !== null && told >= start ? told : day(Date.parse(`${start}T12:00:00Z`) + WEEKS * 7 * DAY);
  // A proposal: rules are not turned on with it before it is proven, nor without a sender.
  const address = account.reachedAt ?? '';
  const { label, title } = message.context;
  return withCourse(
    tx,
    {
      ...NEW_COURSE,
      code: (label || title || 'Course').slice(0, LONGEST_CODE),
      title: (title || label || 'Course').slice(0, 200),
      timeZone,
      start,
      end,
    },
    {
      sender: { name: account.name, address, replyTo: address, signature: account.name, officeHours: '' },
      senderBy: account.id,
      senderConfirmed: false,
      daysConfirmed: false,
    },
    async (held, course) => {
      const context = message.context.id;
      await insertRow(held, launchCourseHolds, {
        platform: platform.id,
        deployment: message.deployment,
        context,
        course,
      });
      return work(held, course);
    },
  );
}

/**
 * What somebody may in the course from now on; null for what an owner took away. What an owner changed is left; a lower role of the
 * platform lowers, and the last owner stays.
 */
export async function updateAccessFromLaunch(
  tx: Tx<'course'>,
  {
    account,
    course,
    role,
    isFirst,
  }: { account: number; course: number; role: 'instructor' | 'assistant'; isFirst: boolean },
): Promise<AccessRole | null> {
  const given = await tx.findOne(LaunchPartRow, { account, course });
  const access = await tx.findOne(Access, { account, course });
  if (!given) {
    const as: AccessRole = role === 'assistant' ? 'assistant' : isFirst ? 'owner' : 'co-instructor';
    // Who was invited before keeps what they have.
    if (!access) await insertRow(tx, accessHolds, { account, course, role: as });
    await insertRow(tx, launchPartHolds, { account, course, role: access?.role ?? as });
    return access?.role ?? as;
  }
  if (!access || access.role !== given.role) return access?.role ?? null;
  const isLower = role === 'assistant' && (given.role === 'owner' || given.role === 'co-instructor');
  const isLast = given.role === 'owner' && (await tx.count(Access, { course, role: 'owner' })) === 1;
  if (isLower && !isLast) {
    await updateRow(tx, accessHolds, access, { role: 'assistant' });
    await updateRow(tx, launchPartHolds, given, { role: 'assistant' });
  }
  return access.role;
}

/** The course's source of names and grades, as the platform says where they are at this launch. */
export async function keepSource(
  tx: Tx<'course'>,
  { platform, message }: Arrival,
  course: number,
): Promise<number | null> {
  const { namesUrl, groupsUrl, grades, deployment, context } = message;
  if (namesUrl === null && grades === null) return null;
  const settings = {
    platform: platform.id,
    deployment,
    context: context.id,
    namesUrl,
    groupsUrl,
    itemsUrl: grades?.url ?? null,
    scopes: grades?.scopes ?? [],
  };
  const known = await tx.findOne(SourceRow, { course, kind: 'lti' });
  if (known) {
    await updateRow(tx, sourceHolds, known, { settings });
    return known.id;
  }
  const row = await insertRow(tx, sourceHolds, {
    course,
    kind: 'lti' as const,
    settings,
    secret: null,
    // It is asked at once, and then by the real clock.
    addedAt: wallClock(),
    nextAt: wallClock() + DAY,
  });
  return row.id;
}

/** Whether a deployment launches into a course: a session of a launch reaches no other. */
export const isLaunched = async (
  em: Em,
  { platform, deployment }: { readonly platform: number; readonly deployment: string },
  course: number,
): Promise<boolean> => (await em.count(LaunchCourseRow, { platform, deployment, course })) > 0;
