/** In which courses an account has a role, what it may do in each, and whether it may make courses. */
import { AsyncLocalStorage } from 'node:async_hooks';
import {
  type AccessRole,
  type AccessTerms,
  CAPABILITIES,
  type Capability,
  capabilitiesOf,
} from '@zest-bell/core/access';
import type { Em } from '../platform/database/orm.ts';
import { Access, Account, CourseAccessRow, mailOf } from './entity.ts';
import { AppError } from '../platform/errors/errors.ts';
import { installationOf } from './installation.ts';
import { isProven } from './links.ts';

/** What one person is and may in one course. */
export interface CoursePermissions {
  readonly role: AccessRole;
  readonly may: ReadonlySet<Capability>;
}

/** Whether a session reaches a course. */
type CourseReach = (em: Em, course: number) => Promise<boolean>;
const reachHere = new AsyncLocalStorage<CourseReach>();

/**
 * What is done here reaches only some of the courses of an account: a session of a launch those of its deployment. Kept beside the
 * account, as every question about courses comes through this file.
 */
export const reachingOnly = <T>(reach: CourseReach, work: () => T): T => reachHere.run(reach, work);

const reaches: CourseReach = async (em, course) => (await reachHere.getStore()?.(em, course)) ?? true;

const ALONE: AccessTerms = { assistantsDecide: false };
const FRESH = { disableIdentityMap: true } as const;

export async function termsOf(em: Em, course: number): Promise<AccessTerms> {
  return (await em.findOne(CourseAccessRow, { course }, FRESH)) ?? ALONE;
}

const partOf = (role: AccessRole, terms: AccessTerms): CoursePermissions => ({
  role,
  may: new Set(capabilitiesOf(role, terms)),
});

/** Null for a course that they may not enter. */
export async function partIn(em: Em, account: number, course: number): Promise<CoursePermissions | null> {
  const access = await em.findOne(Access, { account, course }, FRESH);
  return access && (await reaches(em, course)) ? partOf(access.role, await termsOf(em, course)) : null;
}

/** Their courses by id, in order. */
export async function partsFor(em: Em, account: number): Promise<ReadonlyMap<number, CoursePermissions>> {
  const all = await em.find(Access, { account }, { ...FRESH, orderBy: { course: 'asc' } });
  const mine: Access[] = [];
  for (const access of all) if (await reaches(em, access.course)) mine.push(access);
  const terms = await em.find(CourseAccessRow, { course: { $in: mine.map((a) => a.course) } }, FRESH);
  const of = new Map(terms.map((t) => [t.course, t]));
  return new Map(mine.map((a) => [a.course, partOf(a.role, of.get(a.course) ?? ALONE)]));
}

/** Those of their courses in which they may do something. */
export async function coursesWhere(em: Em, account: number, capability: Capability): Promise<number[]> {
  return [...(await partsFor(em, account))].filter(([, { may }]) => may.has(capability)).map(([course]) => course);
}

export async function mayIn(em: Em, account: number, course: number, capability: Capability): Promise<boolean> {
  return (await partIn(em, account, course))?.may.has(capability) ?? false;
}

/** In the order of the list, as it is told. */
export const listOf = ({ may }: CoursePermissions): Capability[] => CAPABILITIES.filter((c) => may.has(c));

/** Whether somebody may put things on the shelf of the institution, and retire them. */
export async function mayKeepShelf(em: Em, account: number): Promise<boolean> {
  const row = await em.findOne(Account, { id: account }, FRESH);
  return row !== null && (row.isAdministrator || (await installationOf(em)).shelfKeepers.includes(account));
}

type Maker = Pick<Account, 'id' | 'email' | 'reachedAt' | 'isAdministrator' | 'isUnproven'>;

/** Whether the installation lets an account make courses, once its address is proven. */
export async function mayMakeCourses(em: Em, { id, isAdministrator }: Maker): Promise<boolean> {
  const { coursesBy, courseMakers } = await installationOf(em);
  if (isAdministrator || coursesBy === 'proven') return true;
  return coursesBy === 'named' && courseMakers.includes(id);
}

/** Throws `mayNotMakeCourses`, or `addressNotProven` where a code would help. */
export async function mustMakeCourses(em: Em, maker: Maker): Promise<void> {
  if (!(await mayMakeCourses(em, maker))) throw new AppError('mayNotMakeCourses');
  const address = mailOf(maker);
  if (maker.isUnproven || address === null || !(await isProven(em, maker.id, address)))
    throw new AppError('addressNotProven');
}
