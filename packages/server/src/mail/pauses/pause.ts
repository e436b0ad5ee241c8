/** A student's own pause: begun and ended by them, or over by itself at its date. */
import type { Instant } from '@zest-bell/core/time';
import { PersonRow } from '../../course/entity.ts';
import { changed } from '../../course/versions.ts';
import type { Tx } from '../../platform/database/orm.ts';
import type { Services } from '../../course/services.ts';
import { inCourse, lockCourse } from '../../course/lock.ts';

/** `until`: when it ends by itself; null ends it now. */
export async function setPause(em: Tx, course: number, student: string, until: Instant | null): Promise<void> {
  await lockCourse(em, course);
  const person = await em.findOneOrFail(PersonRow, { course, key: student });
  Object.assign(person, { paused: until !== null, pausedUntil: until });
  await em.flush();
  await changed(em, course);
}

/** Ends every pause whose date has come. What is decided or sent after it knows. */
export async function endPauses({ orm, clock }: Services): Promise<void> {
  const over = { paused: true, pausedUntil: { $ne: null, $lte: clock.now() } };
  const rows = await orm.em.fork().find(PersonRow, over, { fields: ['course'], disableIdentityMap: true });
  for (const course of new Set(rows.map((p) => p.course)))
    await inCourse(orm, course, async (em) => {
      // A pause that was set meanwhile is not over.
      const ended = await em.nativeUpdate(PersonRow, { course, ...over }, { paused: false, pausedUntil: null });
      if (ended > 0) await changed(em, course);
    });
}
