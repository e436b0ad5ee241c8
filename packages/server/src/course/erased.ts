/** Students who were erased on request: nobody knows any more who they were, and no source brings them back. */
import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import type { Course, CourseParts, Person } from '@zest-bell/core/course';
import { actorColumn } from '../access/entity.ts';
import { instantColumn } from '../platform/database/columns.ts';
import type { Em } from '../platform/database/orm.ts';
import type { Seal } from '../platform/process/seal.ts';
import { account, holds, key, notTold, plain, text } from '../platform/database/holds.ts';

export const ErasedRow = defineEntity({
  name: 'ErasedRow',
  tableName: 'erased',
  properties: {
    id: p.integer().primary(),
    course: p.integer().index(),
    /** Keyed hashes of their id and their addresses. */
    marks: p.json<readonly string[]>(),
    /** Under which id they stand in what keeps counts true. */
    standsAs: p.string(),
    at: instantColumn(),
    by: actorColumn(),
    /** Who they were, sealed, until the last of it is erased; null from then on. */
    who: p.text().nullable(),
    /** When an owner said that sources may bring them again. */
    allowedAt: instantColumn().nullable(),
    /** Backups that were made before. */
    backups: p.json<readonly string[]>().default('[]'),
  },
});
export type ErasedRow = Readonly<InferEntity<typeof ErasedRow>>;

const compared = (said: string): string => said.trim().toLowerCase();

export const marksOf = (seal: Seal, { id, email, contacts }: Pick<Person, 'id' | 'email' | 'contacts'>): string[] =>
  [id, email, ...contacts.map((c) => c.email)].flatMap((text) => (text ? [seal.mark(compared(text))] : []));

/** Tells of a person whether they were erased here, and no owner let them be brought again. */
export async function erasedHere(
  em: Em,
  seal: Seal,
  course: number,
): Promise<(person: Pick<Person, 'id' | 'email'>) => boolean> {
  const rows = await em.find(ErasedRow, { course, allowedAt: null }, { disableIdentityMap: true });
  const marks = new Set(rows.flatMap((r) => r.marks));
  if (marks.size === 0) return () => false;
  return ({ id, email }) => [id, email].some((text) => text && marks.has(seal.mark(compared(text))));
}

/** What would come into a course without those who were erased there, and their ids. */
export async function withoutErased<C extends CourseParts>(
  em: Em,
  seal: Seal,
  course: number,
  before: Pick<Course, 'personIndex'>,
  after: C,
): Promise<{ readonly after: C; readonly out: ReadonlySet<string> }> {
  const isErased = await erasedHere(em, seal, course);
  const out = new Set(after.people.filter((p) => !before.personIndex.has(p.id) && isErased(p)).map((p) => p.id));
  return out.size === 0
    ? { after, out }
    : { after: { ...after, people: after.people.filter((p) => !out.has(p.id)) }, out };
}

export const erasedHolds = holds(ErasedRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    standsAs: plain,
    at: plain,
    by: account,
    allowedAt: plain,
    backups: plain,
    // Keyed hashes: nobody is told from them.
    marks: plain,
    who: text.stays('it is sealed, and empty as soon as the last of them is erased'),
  },
  told: notTold('it says who was erased, to nobody'),
});
