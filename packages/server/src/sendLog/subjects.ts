/** Under which subject a nudge was sent: the student's message has it before a third party's. */
import type { Em } from '../platform/orm.ts';
import { rowsOf } from '../platform/query.ts';

export async function subjectsOf(em: Em, nudges: readonly number[]): Promise<ReadonlyMap<number, string>> {
  const knex = em.getKnex();
  const query = knex('attempt as a')
    .join('message as m', 'm.id', 'a.message')
    .whereIn('a.nudge', [...nudges])
    .orderByRaw("case when m.kind = 'student' then 1 else 0 end, a.id")
    .select('a.nudge', 'a.subject');
  const rows = await rowsOf<{ nudge: number; subject: string }>(em, query);
  return new Map(rows.map((r) => [r.nudge, r.subject]));
}
