/** What platforms send to a course by themselves: how lately, how much, and how much of it waits. */
import type { Arrivals } from '@zest-bell/core/connections';
import { DAY, type Instant } from '@zest-bell/core/time';
import type { Em } from '../../platform/database/orm.ts';
import { StatementRow } from './entity.ts';

const LATELY = 7 * DAY;

export async function arrivalsAt(em: Em, course: number, now: Instant): Promise<Arrivals[]> {
  const found: Arrivals[] = [];
  for (const standard of ['caliper', 'xapi'] as const) {
    const own = { course, standard };
    const last = await em.findOne(StatementRow, own, { fields: ['storedAt'], orderBy: { storedAt: 'desc' } });
    const lately = await em.count(StatementRow, { ...own, storedAt: { $gt: now - LATELY } });
    const waiting = last ? await em.count(StatementRow, { ...own, state: 'waiting', voided: false }) : 0;
    found.push({ standard, lastAt: last?.storedAt ?? null, lately, waiting });
  }
  return found;
}
