/** A course's students, one by one. */
import { AppError } from '../platform/errors/errors.ts';
import type { Em, Tx } from '../platform/database/orm.ts';
import { bumpVersions } from './versions.ts';
import { PersonRow, personHolds } from './entity.ts';
import { updateRow } from '../platform/database/writing.ts';

/** A student of a course by their id. Throws `notFound`. */
export async function studentRow(em: Em, course: number, key: string): Promise<PersonRow> {
  const row = await em.findOne(PersonRow, { course, key, role: 'student' });
  if (!row) throw new AppError('notFound');
  return row;
}

/** Gives a person an address; that mail came back was about the one before. */
export async function setAddress(em: Tx<'course'>, person: PersonRow, email: string): Promise<void> {
  await updateRow(em, personHolds, person, { email, bouncedAt: null });
  await bumpVersions(em, person.course);
}
