/** What is known of students is kept for so long after a course's end, and then removed: counts without persons stay. */
import { DAY } from '@zest-bell/core/time';
import type { Knex } from 'knex';
import { installationOf } from '../../access/installation.ts';
import { ActRow } from '../../access/entity.ts';
import { CourseRow } from '../../course/entity.ts';
import { forgetHistory } from '../../course/versions.ts';
import type { Services } from '../../intake/services.ts';
import type { Orm, Tx } from '../../platform/database/orm.ts';
import { rowsOf, run } from '../../platform/database/query.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { wallClock } from '../../platform/process/clock.ts';

const SLICE = 5000;
/** The log of acts, by the real clock. */
const ACTS_KEPT = 730 * DAY;
/** A month of the setting, as days. */
const MONTH = 365.25 / 12;

const LEFT = { evidence: '[]' };
const NO_TEXT = {
  recipient_name: '',
  address: '',
  subject: '',
  body: '',
  html: '',
  response: '',
  files: '[]',
  sent_with: null,
};

/** Table by table: removed, or emptied of what says something of a person. */
const REMOVED = [
  'activity_event',
  'grade',
  'retracted',
  'statement',
  'reply',
  'note',
  'pin',
  'aside',
  'sheet',
  'mailing',
] as const;
const EMPTIED: readonly (readonly [string, Readonly<Record<string, unknown>>])[] = [
  ['attempt', { ...LEFT, ...NO_TEXT }],
  ['nudge', { ...LEFT, subject: null, edited: null, dismissed_for: null }],
  ['refusal', LEFT],
  ['message', { name: '', address: '', trouble: null }],
  ['plain_mail', { subject: '', text: '' }],
];

/** The day after which what is known of students of a course that ends then is removed. */
export const keptUntil = (end: string, months: number): string =>
  new Date(Date.parse(`${end}T00:00:00Z`) + months * MONTH * DAY).toISOString().slice(0, 10);

/** Courses whose time is over and of which something is still kept. */
export async function forgetOld(services: Pick<Services, 'orm' | 'clock' | 'logger'>): Promise<void> {
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
    const removed = await forgetCourse(orm, id).catch((error: unknown) => {
      logger.error({ err: error, course: id }, 'what is kept of a course could not be removed; it is tried again');
      return 0;
    });
    if (removed > 0)
      logger.warn({ course: id, rows: removed }, 'what was known of students is removed: the course ended long ago');
  }
  const acts = await inTransaction(orm, (tx) => tx.nativeDelete(ActRow, { at: { $lt: wallClock() - ACTS_KEPT } }));
  if (acts > 0) logger.info({ acts }, 'acts of two years ago are removed');
}

/** How many rows were removed or emptied; each slice is a transaction, and what is done is not done again. */
export async function forgetCourse(orm: Orm, course: number): Promise<number> {
  let rows = 0;
  for (const table of REMOVED)
    rows += await inSlicesOf(orm, table, course, (tx, ids) => run(tx, tx.getKnex()(table).whereIn('id', ids).delete()));
  for (const [table, left] of EMPTIED) rows += await emptied(orm, table, course, left);
  if (rows > 0) await inTransaction(orm, (tx) => forgetHistory(tx, course));
  return rows;
}

async function inSlicesOf(
  orm: Orm,
  table: string,
  course: number,
  work: (tx: Tx, ids: number[]) => Promise<void>,
): Promise<number> {
  for (let done = 0; ;) {
    const found = await inTransaction(orm, async (tx) => {
      const query = tx.getKnex()(table).select('id').where({ course }).limit(SLICE);
      const ids = (await rowsOf<{ id: number }>(tx, query)).map((r) => r.id);
      if (ids.length > 0) await work(tx, ids);
      return ids.length;
    });
    done += found;
    if (found < SLICE) return done;
  }
}

/** Those that are not empty yet, told by one of their fields. */
async function emptied(
  orm: Orm,
  table: string,
  course: number,
  left: Readonly<Record<string, unknown>>,
): Promise<number> {
  for (let done = 0, after = 0; ;) {
    const ids = await inTransaction(orm, async (tx) => {
      const knex = tx.getKnex();
      const isLeft = (q: Knex.QueryBuilder) => {
        for (const [column, value] of Object.entries(left))
          void (value === null ? q.orWhereNotNull(column) : q.orWhereNot(column, value as string));
      };
      const query = knex(table)
        .select('id')
        .where({ course })
        .where('id', '>', after)
        .where(isLeft)
        .orderBy('id')
        .limit(SLICE);
      const found = (await rowsOf<{ id: number }>(tx, query)).map((r) => r.id);
      if (found.length > 0) await run(tx, knex(table).whereIn('id', found).update(left));
      return found;
    });
    done += ids.length;
    if (ids.length < SLICE) return done;
    after = ids.at(-1)!;
  }
}
