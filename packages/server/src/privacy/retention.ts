/** What is known of students is kept for so long after a course's end, and then removed: counts without persons stay. */
import { DAY } from '@zest-bell/core/time';
import { installationOf } from '../access/installation.ts';
import { actHolds } from '../access/entity.ts';
import { EventRow, GradeRow } from '../course/activity/entity.ts';
import { CourseRow } from '../course/entity.ts';
import { inCourse } from '../course/lock.ts';
import { keepWhatCame } from '../mail/replies/sentTexts.ts';
import { ReplyRow } from '../mail/replies/entity.ts';
import type { Em } from '../platform/database/orm.ts';
import { dropHistory } from '../course/versions.ts';
import type { IntakeServices } from '../intake/services.ts';
import { leavingNoTrace } from '../platform/database/freePages.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { forgetRows } from './engine.ts';
import { STORES, type StoreServices } from './stores.ts';
import { wallClock } from '../platform/process/clock.ts';
import { removeRows } from '../platform/database/writing.ts';

/** The log of acts, by the real clock. */
const ACTS_KEPT = 730 * DAY;
/** A month of the setting, as days. */
const MONTH = 365.25 / 12;

/** The day after which what is known of students of a course that ends then is removed. */
export const keptUntil = (end: string, months: number): string =>
  new Date(Date.parse(`${end}T00:00:00Z`) + months * MONTH * DAY).toISOString().slice(0, 10);

type RetentionServices = StoreServices & Pick<IntakeServices, 'live' | 'clock' | 'logger'>;

/** Courses that are over and have data left to remove. */
export async function forgetOld(services: RetentionServices): Promise<void> {
  const { orm, clock, logger } = services;
  const em = orm.em.fork();
  const { keepMonths } = await installationOf(em);
  const lastOf = (months: number) => new Date(clock.now() - months * MONTH * DAY).toISOString().slice(0, 10);
  const sooner = { keepMonths: { $ne: null }, end: { $lt: lastOf(0) } };
  const ended = await em.find(
    CourseRow,
    { $or: [{ end: { $lt: lastOf(keepMonths) } }, sooner] },
    { fields: ['id', 'end', 'keepMonths'], disableIdentityMap: true },
  );
  // A course may keep it shorter, never longer.
  const over = ended.filter((c) => c.end < lastOf(Math.min(keepMonths, c.keepMonths ?? keepMonths)));
  for (const { id } of over) {
    const removed = await leavingNoTrace(orm, () => forgetCourse(services, id)).catch((error: unknown) => {
      logger.error({ err: error, course: id }, 'what is kept of a course could not be removed; it is tried again');
      return 0;
    });
    if (removed > 0)
      logger.warn({ course: id, rows: removed }, 'what was known of students is removed: the course ended long ago');
  }
  const acts = await inTransaction(orm, (tx) => removeRows(tx, actHolds, { at: { $lt: wallClock() - ACTS_KEPT } }));
  if (acts > 0) logger.info({ acts }, 'acts of two years ago are removed');
}

/** Whether there is anything that tells what came of nudges. */
async function isKnown(em: Em, course: number): Promise<boolean> {
  const one = { fields: ['id'] } as const;
  return (
    (await em.findOne(EventRow, { course }, one)) !== null ||
    (await em.findOne(GradeRow, { course }, one)) !== null ||
    (await em.findOne(ReplyRow, { course }, one)) !== null
  );
}

/** How many rows and files were removed or emptied; what is done is not done again. */
async function forgetCourse(services: RetentionServices, course: number): Promise<number> {
  const { orm, live, clock } = services;
  if (await isKnown(orm.em.fork(), course))
    await inCourse(orm, course, async (tx) => keepWhatCame(tx, await live.get(tx, course), clock.now()));
  let removed = 0;
  for (const store of STORES) removed += await store.forget(services, course);
  removed += await forgetRows(orm, course);
  if (removed > 0) await inCourse(orm, course, (tx) => dropHistory(tx, course));
  return removed;
}
