/** Courses with stopped mail, and sources that have been silent for longer than their course allows. */
import { DAY, dayNumberOf, HOUR, zoneOf, type Instant } from '@zest-bell/core/time';
import type { SourceName } from '@zest-bell/core/course';
import type { Em } from '../platform/database/orm.ts';
import { CourseRow } from './entity.ts';

/** A roster changes when somebody joins or leaves; nothing waits for it. */
const WATCHED = ['activity', 'grades', 'attendance'] as const satisfies readonly SourceName[];

/**
 * Sources that have been silent for longer than the course allows. The platform tells of all of them at once; a file of its
 * own alone. Before the first word, silence counts from the first day.
 */
export function staleSources(
  row: Pick<CourseRow, 'heardAt' | 'sources' | 'guards' | 'timeZone' | 'start'>,
  now: Instant,
): ReadonlySet<SourceName> {
  const { staleHours } = row.guards;
  if (staleHours === null) return NONE;
  const firstDay = zoneOf(row.timeZone).toInstant(dayNumberOf(row.start) * DAY);
  const since = (source: SourceName) => Math.max(lastHeardFrom(row, source) ?? 0, firstDay);
  return new Set(WATCHED.filter((source) => now - since(source) > staleHours * HOUR));
}

/** Whether any source that rules wait for has ever told anything. */
export const hasHeard = (row: Pick<CourseRow, 'heardAt' | 'sources'>): boolean =>
  WATCHED.some((source) => lastHeardFrom(row, source) !== null);

/** When a source last told anything: the platform tells of all but the roster. */
export function lastHeardFrom(row: Pick<CourseRow, 'heardAt' | 'sources'>, source: SourceName): Instant | null {
  const told = source === 'roster' ? null : (row.heardAt ?? null);
  const own = row.sources[source] ?? null;
  return told === null ? own : own === null ? told : Math.max(told, own);
}

const NONE: ReadonlySet<SourceName> = new Set();

/** The courses that have their mail stopped. */
export async function stoppedCourses(em: Em): Promise<number[]> {
  const rows = await em.find(CourseRow, { stoppedAt: { $ne: null } }, { fields: ['id'], disableIdentityMap: true });
  return rows.map((row) => row.id);
}
