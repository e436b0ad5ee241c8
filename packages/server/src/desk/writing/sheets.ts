/** Sheets to write from: brought, listed with what was sent, read row by row, given back, removed. */
import { inCourse } from '../../course/lock.ts';
import { raw } from 'express';
import { isAddress, nameIn, type Course } from '@zest-bell/core/course';
import { readersOf, UnreadableFile, type SheetAnswer, type SheetCard, type SheetLine } from '@zest-bell/core/imports';
import { MOST_SHEET_ROWS, SENT, contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { idOf } from '../../access/pathIds.ts';
import { SheetRow, sheetHolds } from '../../mail/byHand/entity.ts';
import { NudgeRow } from '../../mail/nudges/entity.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em } from '../../platform/database/orm.ts';
import { inSlices, rowsOf } from '../../platform/database/query.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { actorNames } from '../../access/audit.ts';
import type { Actor } from '@zest-bell/core/access';
import { sheetBack } from './sheetBack.ts';
import { insertRow, removeRows } from '../../platform/database/writing.ts';

const LARGEST = 16 << 20;
const MOST_COLUMNS = 200;
/** That one course keeps, and that are listed: those too that were kept before there was a bound can be removed. */
const MOST_SHEETS = 20;
const MOST_LISTED = 500;
const TOO_MANY = {
  path: 'file',
  code: 'tooMany',
  message: `A course keeps ${MOST_SHEETS} sheets. Remove one, then bring this one in`,
};

export function sheetRoutes(door: Door, services: IntakeServices): void {
  const { orm, reading, live, clock } = services;

  door.on(
    contract.mail.bringSheet,
    async ({ course: id, actor: by, req, query: { name } }) => {
      const bytes = Buffer.isBuffer(req.body) ? req.body : Buffer.alloc(0);
      const { headers, rows } = await tableIn(services, name, bytes);
      const made = await inCourse(orm, id, async (em) => {
        if ((await em.count(SheetRow, { course: id })) >= MOST_SHEETS) throw new AppError('fileUnreadable', [TOO_MANY]);
        const row = await insertRow(em, sheetHolds, {
          course: id,
          name: name.split(/[\\/]/).pop()!,
          at: clock.now(),
          by,
          headers,
          rows,
        });
        return row.id;
      });
      return { id: made };
    },
    { reader: raw({ type: '*/*', limit: LARGEST }) },
  );

  door.on(contract.mail.sheets, async ({ course: id }) => {
    const em = reading.em.fork();
    const knex = em.getKnex();
    // Counted where they lie: a sheet is up to 16 MB.
    const query = knex('sheet')
      .where({ course: id })
      .select('id', 'name', 'at', 'by')
      .select({ rows: knex.raw('json_array_length(rows)') })
      .select({ written: knex.raw('(select count(*) from json_each(sheet.nudges))') })
      .orderBy('id', 'desc')
      .limit(MOST_LISTED);
    const rows = await rowsOf<Omit<SheetCard, 'by'> & { readonly by: Actor }>(em, query);
    const nameOf = await actorNames(
      em,
      rows.map((r) => r.by),
    );
    return rows.map((row) => ({ ...row, by: nameOf(row.by) }));
  });

  door.on(contract.mail.sheet, async ({ course: id, path }) => {
    const em = reading.em.fork();
    const sheet = await sheetOf(em, id, idOf(path.sheet));
    const { course } = await live.get(em, id);
    return {
      id: sheet.id,
      name: sheet.name,
      headers: sheet.headers,
      addresses: addressColumns(sheet),
      lines: await linesOf(em, sheet, course),
    } satisfies SheetAnswer;
  });

  /** The sheet back, with what was sent when, and for each address of a row whether a message went there. */
  door.on(contract.mail.sheetFile, async ({ course: id, path, res }) => {
    const em = reading.em.fork();
    const sheet = await sheetOf(em, id, idOf(path.sheet));
    const { course } = await live.get(em, id);
    const lines = await linesOf(em, sheet, course);
    const file = await sheetBack(em, sheet.headers, lines, course.timeZone);
    res.attachment(`${sheet.name.replace(/\.[^.]*$/, '')} - what was sent.csv`);
    res.type('text/csv; charset=utf-8').send(file);
    return SENT;
  });

  door.on(contract.mail.removeSheet, async ({ course: id, path }) => {
    await inCourse(orm, id, (em) => removeRows(em, sheetHolds, { course: id, id: idOf(path.sheet) }));
  });
}

async function tableIn({ files }: IntakeServices, name: string, bytes: Buffer) {
  try {
    const { headers, rows } = await files.table({ name, bytes }, MOST_SHEET_ROWS);
    if (headers.length > MOST_COLUMNS)
      throw new UnreadableFile(`A sheet to write from has at most ${MOST_COLUMNS} columns.`);
    return { headers: [...headers], rows: rows.map((cells) => [...cells]) };
  } catch (error) {
    if (!(error instanceof UnreadableFile)) throw error;
    throw new AppError('fileUnreadable', [{ path: 'file', code: 'unreadable', message: error.message }]);
  }
}

export async function sheetOf(em: Em, course: number, id: number): Promise<SheetRow> {
  const sheet = await em.findOne(SheetRow, { course, id });
  if (!sheet) throw new AppError('notFound');
  return sheet;
}

function addressColumns(sheet: SheetRow): string[] {
  return sheet.headers.filter((_, i) => sheet.rows.some((cells) => isAddress(cells[i] ?? '')));
}

async function linesOf(em: Em, sheet: SheetRow, course: Course): Promise<SheetLine[]> {
  const readers = readersOf(sheet.headers, sheet.rows, course);
  const nudges = new Map<number, NudgeRow>();
  for (const slice of inSlices(Object.values(sheet.nudges)))
    for (const n of await em.find(NudgeRow, { id: { $in: slice } })) nudges.set(n.id, n);
  return sheet.rows.map((cells, i): SheetLine => {
    const reader = readers[i]!;
    const person = reader.kind === 'person' ? course.people[course.personIndex.get(reader.id)!]! : null;
    const guest = reader.kind === 'guest' ? reader.guest : null;
    const nudge = nudges.get(sheet.nudges[String(i)] ?? -1);
    return {
      cells,
      who: reader.kind,
      name: person ? nameIn(course, person.id) : guest ? `${guest.firstName} ${guest.lastName}`.trim() : '',
      address: person ? person.email : (guest?.email ?? null),
      why: reader.kind === 'nobody' ? reader.why : null,
      written: nudge ? { nudge: nudge.id, state: nudge.state, at: nudge.lastAt ?? nudge.roundAt } : null,
    };
  });
}
