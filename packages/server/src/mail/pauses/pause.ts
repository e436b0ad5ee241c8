/** A student's own pause: begun and ended by them, or over on its own at its date. */
import type { Instant } from '@zest-bell/core/time';
import { PersonRow, personHolds } from '../../course/entity.ts';
import { bumpVersions } from '../../course/versions.ts';
import type { Tx } from '../../platform/database/orm.ts';
import type { CourseServices } from '../../course/services.ts';
import { inCourse } from '../../course/lock.ts';
import { updateRows, updateRow } from '../../platform/database/writing.ts';

/** `until`: when it ends on its own; null ends it now. */
export async function setPause(
  em: Tx<'course'>,
  course: number,
  student: string,
  until: Instant | null,
): Promise<void> {
  const person = await em.findOneOrFail(PersonRow, { course, key: student });
  await updateRow(em, personHolds, person, { paused: until !== null, pausedUntil: until });
  await bumpVersions(em, course);
}

/** Ends every pause that has reached its date. Later decisions and messages see the new state. */
export async function endPauses({ orm, clock }: CourseServices): Promise<void> {
  const over = { paused: true, pausedUntil: { $ne: null, $lte: clock.now() } };
  const rows = await orm.em.fork().find(PersonRow, over, { fields: ['course'], disableIdentityMap: true });
  for (const course of new Set(rows.map((p) => p.course)))
    await inCourse(orm, course, async (em) => {
      // A pause that was set in the meantime is not over.
      const ended = await updateRows(em, personHolds, { course, ...over }, { paused: false, pausedUntil: null });
      if (ended > 0) await bumpVersions(em, course);
    });
}
