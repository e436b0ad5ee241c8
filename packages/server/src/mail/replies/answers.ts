/** The answers of students, as far as limits and second looks need to know them. */
import type { Reply } from '@zest-bell/core/rounds';
import type { Em } from '../../platform/database/orm.ts';
import { inSlices, rowsOf } from '../../platform/database/query.ts';

/** For these students, or with null for the whole course; each with the rule of the nudge that it answers. */
export async function answersOf(em: Em, course: number, students: readonly string[] | null): Promise<Reply[]> {
  const replies: Reply[] = [];
  const knex = em.getKnex();
  for (const slice of students === null ? [null] : inSlices(students)) {
    const query = knex('reply as r')
      .join('nudge as n', 'n.id', 'r.nudge')
      .where({ 'r.course': course, 'r.kind': 'reply' })
      .whereNotNull('r.student');
    if (slice !== null) void query.whereIn('r.student', slice);
    replies.push(...(await rowsOf<Reply>(em, query.select('r.student', 'r.at', 'n.rule'))));
  }
  return replies;
}
