/** A new course from one sheet: read against a course that is yet to be made, then made with what the sheet brings. */
import { raw, type Request } from 'express';
import { z } from 'zod';
import { isZone } from '@zest-bell/core/time';
import { courseDetailsSchema, makeCourse, type CourseParts } from '@zest-bell/core/course';
import { proposedCourse, UnreadableFile, type FromFileAnswer } from '@zest-bell/core/imports';
import { decisionsSchema, contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { importHolds } from '../changes/importRow.ts';
import { lowered } from '../imports/read.ts';
import { applyReading } from '../imports/takeIn.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { parseInput } from '../../platform/http/http.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import type { IntakeServices } from '../services.ts';
import { previewOf, unreadPreview } from '../imports/routes.ts';
import { begin, NEW_COURSE, withInstructor } from './setUp.ts';
import { insertRow } from '../../platform/database/writing.ts';

/** A larger one is brought into a course that is there already. */
const LARGEST = 20 << 20;

const name = z.string().trim().min(1).max(300);
const lookSchema = z.strictObject({
  name,
  /** As typed so far. */
  details: z.strictObject({ timeZone: z.string(), start: z.string(), end: z.string() }).partial(),
  decisions: decisionsSchema,
});
const makeSchema = z.strictObject({ name, details: courseDetailsSchema, decisions: decisionsSchema });

const DATE = /^\d{4}-\d{2}-\d{2}$/;

export function fromFileRoutes(door: Door, services: IntakeServices): void {
  const { orm, reading, clock } = services;
  const reader = raw({ type: 'application/octet-stream', limit: LARGEST });

  /** How the sheet would be read; nothing is made. */
  door.on(
    contract.intake.lookAtSheet,
    async ({ req }) => {
      const { order, bytes } = orderIn(req, lookSchema);
      const parts = partsOf(order.details, clock.now());
      const course = makeCourse(parts);
      const decisions = lowered(order.decisions);
      const now = clock.now();
      const file = { name: order.name, bytes };
      const row = { id: 0, name: order.name, state: 'open' as const, decisions, at: now };
      try {
        const read = { decisions, at: now, now, retracted: new Set<string>() };
        const found = await services.files.readForNew(parts, file, read);
        const preview = previewOf(row, found, { course, rules: [], remembered: false });
        return { preview, proposed: proposedCourse(found.report.titles, order.name) } satisfies FromFileAnswer;
      } catch (error) {
        if (!(error instanceof UnreadableFile)) throw error;
        const preview = await unreadPreview(services, row, file, error);
        // What has no rows to choose from is no table at all.
        if (preview.firstRows.length === 0) throw asProblem(error);
        return { preview, proposed: proposedCourse([], order.name) } satisfies FromFileAnswer;
      }
    },
    { reader },
  );

  door.on(
    contract.intake.beginFromSheet,
    async ({ account, actor: by, req }) => {
      const { order, bytes } = orderIn(req, makeSchema);
      try {
        const now = clock.now();
        const parts = await withInstructor(reading.em.fork(), account, { ...NEW_COURSE, ...order.details });
        const decisions = lowered(order.decisions);
        const read = { decisions, at: now, now, retracted: new Set<string>() };
        const found = await services.files.readForNew(parts, { name: order.name, bytes }, read);
        const id = await inTransaction(orm, (tx) =>
          begin(tx, services.fixed, account, parts, async (em, course) => {
            const row = await insertRow(em, importHolds, {
              course,
              by,
              name: order.name,
              at: now,
              state: 'open',
              way: 'hand',
              decisions,
            });
            await applyReading(em, now, makeCourse(parts), { course, row, by }, found);
            return course;
          }),
        );
        return { id };
      } catch (error) {
        throw asProblem(error);
      }
    },
    { reader },
  );
}

/** In bytes, as of any other JSON that is sent. */
const LONGEST_ORDER = 1 << 20;

/** A line of JSON, and behind it the file as it is. */
function orderIn<T>(req: Request, schema: z.ZodType<T>): { readonly order: T; readonly bytes: Buffer } {
  const sent = Buffer.isBuffer(req.body) ? req.body : Buffer.alloc(0);
  const end = sent.indexOf(10);
  let json: unknown;
  try {
    if (end > LONGEST_ORDER) throw new RangeError('order');
    json = JSON.parse(sent.subarray(0, Math.max(0, end)).toString('utf8'));
  } catch {
    throw new AppError('invalidInput', [{ path: 'file', code: 'json', message: 'This request cannot be read' }]);
  }
  return { order: parseInput(schema, json), bytes: sent.subarray(end + 1) };
}

const asProblem = (error: unknown): unknown =>
  error instanceof UnreadableFile
    ? new AppError('fileUnreadable', [{ path: 'file', code: 'unreadable', message: error.message }])
    : error;

/** What is not typed yet is taken for a term around now, so that the sheet can be looked at. */
function partsOf(details: z.infer<typeof lookSchema>['details'], now: number): CourseParts {
  const dayAfter = (days: number) => new Date(now + days * 86_400_000).toISOString().slice(0, 10);
  const typed = (text: string | undefined) => (text !== undefined && DATE.test(text) ? text : null);
  const [start, end] = [typed(details.start) ?? dayAfter(-120), typed(details.end) ?? dayAfter(120)];
  const timeZone = details.timeZone !== undefined && isZone(details.timeZone) ? details.timeZone : 'UTC';
  const days = start <= end ? { start, end } : { start: end, end: start };
  return { ...NEW_COURSE, code: '', title: '', timeZone, ...days };
}
