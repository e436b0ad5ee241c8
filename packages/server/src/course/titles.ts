import type { Em } from '../platform/database/orm.ts';
import { CourseRow } from './entity.ts';

/** What courses are called, in the order of their ids. */
export async function titlesOf(em: Em, courses: readonly number[]) {
  const fields = ['id', 'code', 'title'] as const;
  const rows = await em.find(CourseRow, { id: { $in: [...courses] } }, { fields, orderBy: { id: 'asc' } });
  return rows.map(({ id, code, title }) => ({ id, code, title }));
}
