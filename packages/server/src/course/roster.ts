/** Changes of a course's people, and that whoever has the course in memory learns of them. */
import { AppError } from '../platform/http/errors.ts';
import type { Em, Tx } from '../platform/database/orm.ts';
import { CourseRow, PersonRow } from './entity.ts';

/** The roster changed: what other readers have in memory is old. */
export async function bumpVersion(em: Tx, course: number): Promise<void> {
  const row = await em.findOneOrFail(CourseRow, { id: course });
  row.version += 1;
  await em.flush();
}

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
  await bumpVersion(em, person.course);
}
