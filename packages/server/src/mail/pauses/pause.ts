/** A student's own pause: begun and ended by them, or over by itself at its date. */
import type { Instant } from '@zest-bell/core/time';
import { PersonRow } from '../../course/entity.ts';
import { changed } from '../../course/versions.ts';
import type { Tx } from '../../platform/database/orm.ts';
import type { Services } from '../../course/services.ts';
import { inTransaction } from '../../platform/database/transaction.ts';

/** `until`: when it ends by itself; null ends it now. */
export async function setPause(em: Tx, course: number, student: string, until: Instant | null): Promise<void> {
  const person = await em.findOneOrFail(PersonRow, { course, key: student });
  Object.assign(person, { paused: until !== null, pausedUntil: until });
  await em.flush();
  await changed(em, course);
}

/** Ends every pause whose date has come. What is decided or sent after it knows. */
export async function endPauses({ orm, clock }: Services): Promise<void> {
  const over = { paused: true, pausedUntil: { $ne: null, $lte: clock.now() } };
  if ((await orm.em.fork().count(PersonRow, over)) === 0) return;
  await inTransaction(orm, async (em) => {
    const people = await em.find(PersonRow, over);
    for (const person of people) Object.assign(person, { paused: false, pausedUntil: null });
    await em.flush();
    for (const course of new Set(people.map((p) => p.course))) await changed(em, course);
  });
}
