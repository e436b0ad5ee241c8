/** Reads due dates from a calendar for the page of due dates, without importing it. */
import { raw } from 'express';
import { UnreadableFile, type CalendarDueAnswer } from '@zest-bell/core/imports';
import { contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { IntakeServices } from '../services.ts';

/** In bytes. */
const LARGEST = 20 << 20;

export function dueDateRoutes(door: Door, { reading, live, clock, files }: IntakeServices): void {
  door.on(
    contract.intake.calendarDue,
    async ({ course: id, query: { name }, req }) => {
      const course = await live.get(reading.em.fork(), id);
      const bytes = Buffer.isBuffer(req.body) ? req.body : Buffer.alloc(0);
      const now = clock.now();
      try {
        const found = await files.read(course, { name, bytes }, { decisions: {}, at: now, now, retracted: new Set() });
        if (found.report.kind !== 'calendar')
          throw new UnreadableFile('This file is not a calendar. Choose one that ends in .ics');
        const had = new Map(course.course.items.map((i) => [i.id, i.dueAt]));
        const dates = found.after.items.flatMap(({ id: item, dueAt: due }) =>
          had.get(item) === null && due !== null ? [{ item, due }] : [],
        );
        return { dates, others: found.report.refusedCount } satisfies CalendarDueAnswer;
      } catch (error) {
        if (!(error instanceof UnreadableFile)) throw error;
        throw new AppError('fileUnreadable', [{ path: 'file', code: 'unreadable', message: error.message }]);
      }
    },
    { reader: raw({ type: 'application/octet-stream', limit: LARGEST }) },
  );
}
