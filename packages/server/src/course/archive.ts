/** Courses that are over: they are read, nothing in them changes, and no list of what waits holds them. Nothing is deleted. */
import { contract } from '@zest-bell/core/contract';
import type { Door } from '../access/door.ts';
import type { Em } from '../platform/database/orm.ts';
import { CourseRow, courseHolds } from './entity.ts';
import { inCourse } from './lock.ts';
import type { CourseServices } from './services.ts';
import { bumpVersions } from './versions.ts';
import { updateRow } from '../platform/database/writing.ts';

export const isArchived = async (em: Em, id: number): Promise<boolean> =>
  (await em.count(CourseRow, { id, archivedAt: { $ne: null } })) > 0;

export function archiveRoutes(door: Door, { orm, clock }: CourseServices): void {
  /** Its mail stops, so that no round runs and nothing leaves. */
  door.on(contract.course.archive, async ({ course: id, actor }) => {
    await inCourse(orm, id, async (em, row) => {
      const now = clock.now();
      await updateRow(em, courseHolds, row, {
        archivedAt: now,
        ...(row.stoppedAt == null ? { stoppedAt: now, stoppedBy: actor } : {}),
      });
      await bumpVersions(em, id, { settings: true });
    });
  });

  /** Its mail stays stopped: what waited is decided on when it is started. */
  door.on(contract.course.unarchive, async ({ course: id }) => {
    await inCourse(orm, id, async (em, row: CourseRow) => {
      await updateRow(em, courseHolds, row, { archivedAt: null });
      await bumpVersions(em, id, { settings: true });
    });
  });
}
