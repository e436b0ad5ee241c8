/** Erasing a student, and the file with a student’s own data. */
import { contract, SENT } from '@zest-bell/core/contract';
import type { ErasedAnswer } from '@zest-bell/core/exchange';
import { fileNameOf } from '@zest-bell/core/exports';
import { actorNames, type ActorName } from '../access/audit.ts';
import { idOf } from '../access/pathIds.ts';
import type { Door } from '../access/door.ts';
import { mustBeFresh } from '../access/signIn.ts';
import { ErasedRow, erasedHolds } from '../course/erased.ts';
import { installationOf } from '../access/installation.ts';
import { CourseRow, courseHolds } from '../course/entity.ts';
import { inCourse } from '../course/lock.ts';
import { keptUntil } from './retention.ts';
import type { IntakeServices } from '../intake/services.ts';
import { AppError } from '../platform/errors/errors.ts';
import { dataOf } from './data.ts';
import { beginErasing, goOn, inHandOf } from './erase.ts';
import { updateRows, updateRow } from '../platform/database/writing.ts';

export function erasureRoutes(door: Door, services: IntakeServices): void {
  const { orm, reading, live, clock, logger } = services;

  door.on(contract.erasure.data, async ({ course, path, res }) => {
    const em = reading.em.fork();
    const opened = await live.get(em, course);
    const data = await dataOf(em, opened, path.student, clock.now());
    res.attachment(`${fileNameOf(`${opened.course.code} student data`)}.json`);
    res.json(data);
    return SENT;
  });

  door.on(contract.erasure.erase, async ({ course, path, body: { student }, actor, req }) => {
    mustBeFresh(req);
    if (student !== path.student)
      throw new AppError('invalidInput', [
        { path: 'student', code: 'other', message: 'Type the student’s id to erase them' },
      ]);
    const row = await beginErasing(services, { course, student, by: actor });
    void goOn(services).catch((error: unknown) => logger.error({ err: error }, 'erasing goes on at the next turn'));
    return answerOf(row, await actorNames(reading.em.fork(), [actor]), 0);
  });

  door.on(contract.erasure.kept, async ({ course }) => {
    const em = reading.em.fork();
    const { keepMonths: months } = await installationOf(em);
    const { end, keepMonths } = await em.findOneOrFail(CourseRow, { id: course }, { fields: ['end', 'keepMonths'] });
    const own = keepMonths ?? null;
    return { months, own, until: keptUntil(end, Math.min(months, own ?? months)) };
  });

  door.on(contract.erasure.keep, async ({ course, body: { months } }) => {
    const all = (await installationOf(reading.em.fork())).keepMonths;
    if (months !== null && months > all)
      throw new AppError('invalidInput', [
        {
          path: 'months',
          code: 'tooLong',
          message: `This installation keeps it for ${all} months. Type ${all} or less`,
        },
      ]);
    await inCourse(orm, course, async (tx, row) => {
      await updateRow(tx, courseHolds, row, { keepMonths: months });
    });
  });

  door.on(contract.erasure.erased, async ({ course }) => {
    const em = reading.em.fork();
    const rows = await em.find(ErasedRow, { course }, { orderBy: { id: 'desc' }, limit: 500 });
    const name = await actorNames(
      em,
      rows.map((r) => r.by),
    );
    // Of those that are not done alone: the others have nothing on its way.
    const inHand = new Map<number, number>();
    for (const row of rows) if (row.who != null) inHand.set(row.id, await inHandOf(em, course, [row.standsAs]));
    return rows.map((row) => answerOf(row, name, inHand.get(row.id) ?? 0));
  });

  door.on(contract.erasure.allow, async ({ course, path }) => {
    const row = { course, id: idOf(path.erased), allowedAt: null };
    const done = await inCourse(orm, course, (tx) => updateRows(tx, erasedHolds, row, { allowedAt: clock.now() }));
    if (done === 0) throw new AppError('notFound');
  });
}

const answerOf = (
  { id, at, by, who, allowedAt, backups }: ErasedRow,
  name: ActorName,
  inHand: number,
): ErasedAnswer => ({ id, at, by: name(by), done: who == null, inHand, allowed: allowedAt != null, backups });
