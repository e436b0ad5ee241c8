/** Students who are set aside until a day, each with a note. Nothing is sent or left out because of it: it is about the screen. */
import type { Instant } from '@zest-bell/core/time';
import type { Em, Tx } from '../platform/database/orm.ts';
import { AsideRow, asideHolds } from './entity.ts';
import { removeRows, upsertRow } from '../platform/database/writing.ts';

/** Sets a student aside; a second time replaces the first. */
export async function setAside(em: Tx<'course'>, aside: Omit<AsideRow, 'id'>): Promise<void> {
  await upsertRow(em, asideHolds, aside, { onConflictFields: ['course', 'student'] });
}

export async function endAside(em: Tx<'course'>, course: number, student: string): Promise<void> {
  await removeRows(em, asideHolds, { course, student });
}

/** Courses that have a day yet to come, soonest first. */
export const asideIn = (em: Em, course: number, now: Instant): Promise<AsideRow[]> =>
  em.find(AsideRow, { course, until: { $gt: now } }, { orderBy: { until: 'asc' }, disableIdentityMap: true });
