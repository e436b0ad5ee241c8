/** Taking a file: all that fits in one transaction, kept as one change that can be undone. */
import { inCourse } from '../../course/lock.ts';
import { stat } from 'node:fs/promises';
import type { CourseChanges } from '@zest-bell/core/course';
import { retryWaitingStatements } from '../statements/store.ts';
import { ChangeRow } from '../changes/entity.ts';
import type { ImportRow } from '../changes/importRow.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em } from '../../platform/database/orm.ts';
import type { IntakeServices } from '../services.ts';
import { retractedKeys } from './read.ts';
import { sizeOf } from './readerThread.ts';
import { openRowOf, standingNow, takeIn, type ImportToTake } from './takeIn.ts';
import type { FileToRead, FileReading } from './readMessages.ts';
import type { HowToRead } from './reading.ts';

/** The file of a row that is open. Throws `UnreadableFile` where it is gone. */
export async function fileOf({ brought }: IntakeServices, { name, file }: ImportRow): Promise<FileToRead> {
  const path = brought.pathOf(file ?? '');
  const size = await stat(path).then(
    (found) => found.size,
    () => 0,
  );
  return { name, path, size };
}

async function howToRead({ clock }: IntakeServices, em: Em, { course, decisions, at }: ImportRow): Promise<HowToRead> {
  return { decisions, at, now: clock.now(), retracted: await retractedKeys(em, course) };
}

/** A file as it would be read now. Throws `importSettled`, `notFound`, `UnreadableFile`. */
export async function readRow(services: IntakeServices, em: Em, course: number, row: ImportRow): Promise<FileReading> {
  if (row.state !== 'open') throw new AppError('importSettled');
  const live = await services.live.get(em, course);
  return services.files.read(live, await fileOf(services, row), await howToRead(services, em, row));
}

/**
 * Takes a file whole. It is read before the lock is asked for, so that nobody waits in the meantime; where the course has changed since, once
 * more, and under the lock only where that goes on. Throws `importSettled`, `UnreadableFile`.
 */
export async function takeImport(services: IntakeServices, order: ImportToTake): Promise<ChangeRow | null> {
  for (let tries = 1; ; tries++) {
    const row = await openRowOf(services.reading.em.fork(), order);
    const file = await fileOf(services, row);
    const isLast = tries === MOST_TRIES;
    const isLarge = !isLast && sizeOf(file) >= services.staging.from;
    const taken = await (isLarge ? takeStaged(services, order, row, file) : takeRead(services, order, row, isLast));
    if (taken === 'stale') continue;
    await services.brought.forget([row.file]);
    if (taken.change && namesMore(taken.change.changes)) await retryWaitingStatements(services, order.course);
    return taken.change;
  }
}

/** Whether a change may have brought whom or what statements wait for. */
export const namesMore = ({ people, items }: Pick<CourseChanges, 'people' | 'items'>): boolean =>
  people.length + items.length > 0;

/** How often a file is read beside a course that goes on changing. */
const MOST_TRIES = 3;

type Taken = { readonly change: ChangeRow | null } | 'stale';

async function takeRead(
  services: IntakeServices,
  order: ImportToTake,
  row: ImportRow,
  mayReadUnderLock: boolean,
): Promise<Taken> {
  const em = services.reading.em.fork();
  const against = await standingNow(em, row);
  const found = await readRow(services, em, order.course, row);
  return inCourse(services.orm, order.course, async (tx) => {
    const { course: before } = await services.live.get(tx, order.course);
    const readAgain = (now: ImportRow) => readRow(services, tx, order.course, now);
    const about = { seal: services.seal, now: services.clock.now(), before };
    return takeIn(tx, about, order, { found, against }, mayReadUnderLock ? readAgain : null);
  });
}

/** A large file: a thread puts its events into a table while another one reads on, and takes it then. */
async function takeStaged(
  services: IntakeServices,
  order: ImportToTake,
  row: ImportRow,
  file: FileToRead,
): Promise<Taken> {
  const { reading, live, clock, files, staging } = services;
  const em = reading.em.fork();
  const against = await standingNow(em, row);
  const taken = await staging.run(async (to) => {
    const course = await live.get(em, order.course);
    await files.readTo(to, course, file, await howToRead(services, em, row));
    return { order, against, now: clock.now() };
  });
  if (taken === 'stale') return 'stale';
  if (taken.change === null) return { change: null };
  const change = await reading.em.fork().findOneOrFail(ChangeRow, { id: taken.change });
  const { firstEvent, lastEvent } = change;
  const { events } = taken;
  // What was stored is in memory here: it need not be read from the rows.
  if (firstEvent != null && lastEvent != null && change.events === events.times.length)
    await live.take(reading.em.fork(), order.course, { events, after: against.lastEvent, firstEvent, lastEvent });
  return { change };
}
