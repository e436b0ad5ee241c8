/** A course's students, one by one. */
import { AppError } from '../platform/http/errors.ts';
import type { Em, Tx } from '../platform/database/orm.ts';
import { changed } from './versions.ts';
import { PersonRow } from './entity.ts';

/** A student of a course by their id. Throws `notFound`. */
export async function studentRow(em: Em, course: number, key: string): Promise<PersonRow> {
  const row = await em.findOne(PersonRow, { course, key, role: 'student' });
  if (!row) throw new AppError('notFound');
  return row;
}

/** Gives a person an address; that mail came back was about the one before. */
export async function setAddress(em: Tx, person: PersonRow, email: string): Promise<void> {
  Object.assign(person, { email, bouncedAt: null });
  await em.flush();
  await changed(em, person.course);
}
