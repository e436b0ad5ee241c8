/** Erasing a student on request: at once nothing more is sent to them and nobody sees them, and the rest goes in the background. */
import { readdir } from 'node:fs/promises';
import { dirname } from 'node:path';
import type { Actor } from '@zest-bell/core/access';
import { erasedId } from '@zest-bell/core/course';
import { dateOf, DAY, zoneOf, type Instant } from '@zest-bell/core/time';
import { CourseRow, PersonRow, personHolds } from '../course/entity.ts';
import { ErasedRow, marksOf, erasedHolds } from '../course/erased.ts';
import { inCourse } from '../course/lock.ts';
import { personOf } from '../course/repository.ts';
import { dropHistory } from '../course/versions.ts';
import { endLaunchesOf } from '../connections/lti/ended.ts';
import { linksTo } from '../connections/sources.ts';
import type { IntakeServices } from '../intake/services.ts';
import { MessageRow, NudgeRow } from '../mail/nudges/entity.ts';
import { keepWhatCame } from '../mail/replies/sentTexts.ts';
import { move } from '../mail/nudges/transitions.ts';
import { PlainMailRow } from '../mail/plainMail/entity.ts';
import { LeaseLost } from '../platform/turns/holding.ts';
import { AppError } from '../platform/errors/errors.ts';
import type { Em, Orm, Tx } from '../platform/database/orm.ts';
import { countOf } from '../platform/database/query.ts';
import { leavingNoTrace } from '../platform/database/freePages.ts';
import { eraseRows } from './engine.ts';
import { erasedStudent, type PersonIdentifiers } from './named.ts';
import { STORES, type StoreServices } from './stores.ts';
import pLimit, { type LimitFunction } from 'p-limit';
import { insertRow, removeRows, updateRows, updateRow } from '../platform/database/writing.ts';

type ErasureServices = StoreServices & Pick<IntakeServices, 'live' | 'clock' | 'seal' | 'logger' | 'forgetMail'>;

interface ErasureSubject {
  readonly person: PersonIdentifiers;
}

/** Takes the person out of the course and says so for good; what is left is erased by `goOn`. Throws `notFound`. */
export async function beginErasing(
  services: ErasureServices,
  order: { course: number; student: string; by: Actor },
): Promise<ErasedRow> {
  const { orm, clock, seal, folder, live } = services;
  const backups = await backupsIn(dirname(folder));
  const begin = () =>
    inCourse(orm, order.course, async (tx, { timeZone }) => {
      const known = await live.get(tx, order.course);
      const row = await tx.findOne(PersonRow, { course: order.course, key: order.student, role: 'student' });
      if (!row) throw new AppError('notFound');
      const { id, email, firstName, lastName, contacts } = personOf(row);
      const who: ErasureSubject = { person: { id, email, firstName, lastName, contacts } };
      // As the sources of the course call them: none of those brings them back either.
      const elsewhere = (await linksTo(tx, order.course, id)).map((link) =>
        seal.mark(link.external.trim().toLowerCase()),
      );
      const now = clock.now();
      const kept = await insertRow(tx, erasedHolds, {
        course: order.course,
        at: now,
        by: order.by,
        backups,
        standsAs: '',
        marks: [...marksOf(seal, who.person), ...elsewhere],
        who: seal.close(JSON.stringify(who)),
      });
      const standsAs = erasedId(kept.id, dateOf(Math.floor(zoneOf(timeZone).toWall(now) / DAY)));
      await updateRow(tx, erasedHolds, kept, { standsAs });
      await keepWhatCame(tx, known, now, order.student);
      await withdraw(tx, order.course, order.student, now);
      await endLaunchesOf(tx, order.course, order.student);
      await removeRows(tx, personHolds, { id: row.id });
      await dropHistory(tx, order.course);
      return kept;
    });
  return leavingNoTrace(orm, begin);
}

/**
 * Withdraws every message about them that the mail server does not have yet, answers to their replies included. A message with a text
 * on its way at this moment arrives.
 */
async function withdraw(tx: Tx<'course'>, course: number, student: string, now: Instant): Promise<void> {
  const nudges = (await tx.find(NudgeRow, { course, student }, { fields: ['id'] })).map((n) => n.id);
  const answers = await tx.find(PlainMailRow, { course, nudge: { $in: nudges } }, { fields: ['id'] });
  const messages = await tx.find(
    MessageRow,
    { $or: [{ nudge: { $in: nudges } }, { plainMail: { $in: answers.map((a) => a.id) } }] },
    { fields: ['id'] },
  );
  await move(
    tx,
    messages.map((m) => m.id),
    { to: 'withdrawn', reason: 'inactive', now, notBegun: true },
  );
}

/** One at a time on a database: a second caller finds it done. */
const lines = new WeakMap<Orm, LimitFunction>();

/** Goes on with what is not erased yet, one after another. One that fails is logged, and tried again the next time. */
export function goOn(services: ErasureServices): Promise<void> {
  const line = lines.get(services.orm) ?? pLimit(1);
  lines.set(services.orm, line);
  return line(() => eraseOpen(services));
}

async function eraseOpen(services: ErasureServices): Promise<void> {
  const { orm, logger } = services;
  const open = await orm.em.fork().find(ErasedRow, { who: { $ne: null } }, { orderBy: { id: 'asc' } });
  for (const row of open) {
    try {
      await leavingNoTrace(orm, () => eraseOne(services, row));
    } catch (error) {
      if (error instanceof LeaseLost) throw error;
      logger.error({ err: error, erased: row.id }, 'a student could not be erased; it is tried again');
    }
  }
}

async function eraseOne(services: ErasureServices, { id, course, who, standsAs }: ErasedRow): Promise<void> {
  const { orm, seal, forgetMail } = services;
  const { person } = JSON.parse(seal.open(who!)) as ErasureSubject;
  const gone = erasedStudent(person, standsAs, await calledElsewhere(orm.em.fork(), course, person.id));
  for (const store of STORES) await store.erase(services, course, gone);
  await eraseRows(orm, course, gone);
  forgetMail(person.email, gone.isNamed);
  // It has not ended: the answer is written beside the message, and goes with the next turn.
  if ((await inHandOf(orm.em.fork(), course, [person.id, standsAs])) > 0) return;
  await inCourse(orm, course, async (tx) => {
    await updateRows(tx, erasedHolds, { id, course }, { who: null });
    await dropHistory(tx, course);
  });
}

/** How many messages about a student the mail server has and has not answered for. */
export async function inHandOf(em: Em, course: number, ids: readonly string[]): Promise<number> {
  const nudges = em.getKnex()('nudge').select('id').where({ course }).whereIn('student', ids);
  return countOf(em, em.getKnex()('message').where({ state: 'handing' }).whereIn('nudge', nudges));
}

/** What sources call them, and what somebody chose for them, which is kept in small letters. */
export async function calledElsewhere(em: Em, course: number, person: string): Promise<ReadonlySet<string>> {
  const { meanings } = await em.findOneOrFail(CourseRow, { id: course }, { fields: ['meanings'] });
  const chosen = Object.entries(meanings.people ?? {}).flatMap(([said, id]) => (id === person ? [said] : []));
  return new Set([...(await linksTo(em, course, person)).map((link) => link.external), ...chosen]);
}

/** Files beside the database that look like copies of it. */
async function backupsIn(folder: string): Promise<string[]> {
  const names = await readdir(folder).catch(() => []);
  return names.filter((name) => /\.(db|bak|backup|sqlite)$/i.test(name) && name !== 'zest-bell.db').slice(0, 50);
}
