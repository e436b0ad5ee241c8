/** Which courses neither ring nor send right now: their mail is stopped, or their data is older than it may be. */
import { DAY, dayNumberOf, HOUR, zoneOf, type Instant } from '@zest-bell/core';
import type { Em } from '../platform/orm.ts';
import { CourseRow } from './entity.ts';

const FIELDS = ['stoppedAt', 'heardAt', 'guards', 'timeZone', 'start'] as const;
type Watched = Pick<CourseRow, (typeof FIELDS)[number]>;

/** Whether the platform has been silent for longer than the course allows. Before its first word, since the first day. */
export function isStale(row: Omit<Watched, 'stoppedAt'>, now: Instant): boolean {
  const { staleHours } = row.guards;
  if (staleHours === null) return false;
  const firstDay = zoneOf(row.timeZone).toInstant(dayNumberOf(row.start) * DAY);
  return now - Math.max(row.heardAt ?? 0, firstDay) > staleHours * HOUR;
}

export async function waitingCourses(em: Em, now: Instant): Promise<ReadonlySet<number>> {
  const rows = await em.find(CourseRow, {}, { fields: FIELDS, disableIdentityMap: true });
  return new Set(rows.filter((row) => row.stoppedAt != null || isStale(row, now)).map((row) => row.id));
}

/** The courses whose mail somebody has stopped. */
export async function stoppedCourses(em: Em): Promise<number[]> {
  const rows = await em.find(CourseRow, { stoppedAt: { $ne: null } }, { fields: ['id'], disableIdentityMap: true });
  return rows.map((row) => row.id);
}
