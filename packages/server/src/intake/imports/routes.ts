/** The door for files: brought, looked at, decided about, taken; nothing changes before. */
import { inCourse } from '../../course/lock.ts';
import { stat } from 'node:fs/promises';
import { type Request } from 'express';
import { z } from 'zod';
import { fullName, type Course } from '@zest-bell/core/course';
import {
  LETTERS,
  truncatedRows,
  UnreadableFile,
  type ChangedAnswer,
  type ImportPreview,
} from '@zest-bell/core/imports';
import { SENT, contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { idOf } from '../../access/pathIds.ts';
import { rulesTouched } from '../changes/apply.ts';
import { ImportBytesRow, ImportRow, importHolds, importBytesHolds } from '../changes/importRow.ts';
import { decisionsBefore, lowered, memoryOf } from './read.ts';
import { additionsOf, MOST_LINES } from './reading.ts';
import type { FileToRead, FileReading } from './readMessages.ts';
import { fileOf, readRow, takeImport } from './takeImport.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { parseInput } from '../../platform/http/http.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import type { IntakeServices } from '../services.ts';
import type { Actor } from '@zest-bell/core/access';
import { insertRow, removeRows, updateRow } from '../../platform/database/writing.ts';

/** Files that one course has lying open. */
const MOST_OPEN = 40;

export function importRoutes(door: Door, services: IntakeServices): void {
  const { orm, reading, live, clock, brought } = services;

  const openRow = async (em: Em, req: Request, course: number): Promise<ImportRow> => {
    const row = await em.findOne(ImportRow, { id: idOf(String(req.params['import'])), course });
    if (!row) throw new AppError('notFound');
    return row;
  };

  door.on(contract.intake.bring, async ({ course: id, req, actor }) => {
    const called = parseInput(z.string().trim().min(1, 'A file needs a name').max(300), req.query['name']);
    // A bare name, no matter what path came along.
    const name = called
      .split(/[\\/]/)
      .pop()!
      .replace(/\p{Cc}/gu, '');
    const file = await brought.receive(req);
    const { row, old } = await open(id, name, file, actor).catch(async (error: unknown) => {
      await brought.forget([file]);
      throw error;
    });
    await brought.forget(old);
    return { id: row };
  });

  /** The row of a file that was received, and the files of those that are forgotten for it. */
  async function open(id: number, name: string, file: string, by: Actor) {
    const { size } = await stat(brought.pathOf(file));
    const onDisk = { name, path: brought.pathOf(file), size };
    const decisions = await decisionsBefore(services.files, reading.em.fork(), id, onDisk);
    return inCourse(orm, id, async (em) => {
      const order = { orderBy: { id: 'desc' }, offset: MOST_OPEN } as const;
      const old = await em.find(ImportRow, { course: id, state: 'open', way: 'hand' }, order);
      await forget(em, old);
      const made = await insertRow(em, importHolds, {
        course: id,
        by,
        name,
        file,
        at: clock.now(),
        state: 'open',
        way: 'hand',
        decisions,
      });
      return { row: made.id, old: old.map((r) => r.file) };
    });
  }

  door.on(contract.intake.preview, async ({ course: id, req }) => {
    const em = reading.em.fork();
    const row = await openRow(em, req, id);
    if (row.state !== 'open') return settled(row);
    try {
      const found = await readRow(services, em, id, row);
      const { course } = await live.get(em, id);
      const { rules } = await rulesTouched(em, id, found.changes, found.after);
      const isKnown = (await memoryOf(em, id, found.report)) !== null;
      return previewOf(row, found, { course, rules, remembered: isKnown }) satisfies ImportPreview;
    } catch (error) {
      if (!(error instanceof UnreadableFile)) throw error;
      return await unreadPreview(services, row, await fileOf(services, row), error);
    }
  });

  door.on(contract.intake.decide, async ({ course: id, body: decisions, req }) => {
    await inCourse(orm, id, async (em) => {
      const row = await openRow(em, req, id);
      if (row.state !== 'open') throw new AppError('importSettled');
      await updateRow(em, importHolds, row, { decisions: lowered(decisions) });
    });
  });

  door.on(contract.intake.leave, async ({ course: id, req }) => {
    const file = await inCourse(orm, id, async (em) => {
      const row = await openRow(em, req, id);
      if (row.state === 'taken') throw new AppError('importSettled');
      await forget(em, [row]);
      return row.file;
    });
    await brought.forget([file]);
  });

  door.on(contract.intake.take, async ({ course: id, path, actor: by }) => {
    const order = { course: id, import: idOf(path.import), by };
    try {
      const change = await takeImport(services, order);
      const em = reading.em.fork();
      const { course } = await live.get(em, id);
      const touched = change ? await rulesTouched(em, id, change.changes, course) : { rules: [], broken: [] };
      return { change: change?.id ?? null, summary: change?.title ?? '', ...touched } satisfies ChangedAnswer;
    } catch (error) {
      if (!(error instanceof UnreadableFile)) throw error;
      throw new AppError('fileUnreadable', [{ path: 'file', code: 'unreadable', message: error.message }]);
    }
  });

  door.on(contract.intake.refused, async ({ course: id, req, res }) => {
    const row = await openRow(reading.em.fork(), req, id);
    const kept = await reading.em.fork().findOne(ImportBytesRow, { import: row.id });
    if (row.state !== 'taken' || !kept) throw new AppError('notFound');
    res.attachment(`${row.name.replace(/\.[^.]*$/, '')} - refused rows.csv`);
    res.type('text/csv; charset=utf-8').send(Buffer.from(kept.bytes));
    return SENT;
  });
}

async function forget(em: Tx<'course'>, rows: readonly ImportRow[]): Promise<void> {
  const ids = rows.map((r) => r.id);
  await removeRows(em, importBytesHolds, { import: { $in: ids } });
  await removeRows(em, importHolds, { id: { $in: ids } });
}

const NONE = { people: 0, items: 0 };
const NO_COUNTS = { read: 0, new: 0, changed: 0, same: 0, refused: 0 };

function settled(row: RowOfPreview): ImportPreview {
  return {
    id: row.id,
    name: row.name,
    state: row.state,
    decisions: row.decisions,
    trouble: row.trouble ?? null,
    kind: row.report?.kind ?? null,
    encoding: null,
    delimiter: null,
    sheet: null,
    sheets: [],
    columns: [],
    sample: [],
    titles: [],
    headerLine: null,
    groupsLine: null,
    firstRows: [],
    doubts: [],
    leftOut: row.report?.leftOut ?? 0,
    added: row.report?.added ?? NONE,
    offered: NONE,
    add: { people: false, items: false },
    differs: 0,
    tally: null,
    letters: null,
    agesFrom: null,
    cut: null,
    counts: row.report?.counts ?? NO_COUNTS,
    lines: [],
    allLines: 0,
    events: 0,
    grades: [],
    allGrades: 0,
    retracted: 0,
    refused: (row.report?.refused ?? []).slice(0, MOST_LINES).map((line) => ({ ...line, said: null })),
    questions: [],
    missing: [],
    rules: [],
    remembered: false,
  };
}

/**
 * The preview of a file that cannot be read yet. For a table it has the first rows and the columns, so that the user can choose another
 * header or say what the columns are.
 */
export async function unreadPreview(
  { files }: Pick<IntakeServices, 'files'>,
  row: RowOfPreview,
  file: FileToRead,
  { message }: UnreadableFile,
): Promise<ImportPreview> {
  const head = await files.head(file, row.decisions);
  const unread = { ...settled(row), trouble: message };
  if (!head) return unread;
  const { headers, headerLine } = head;
  const firstRows = truncatedRows(head.firstRows);
  const below = firstRows.filter(({ line }) => headerLine !== null && line > headerLine).slice(0, ROWS_OF_UNREAD);
  const sample = below.map(({ line, cells }) => ({
    line,
    cells: headers.map((_, i) => ({ said: cells[i] ?? '', read: '' })),
  }));
  const columns = headers.map((header) => ({ ...UNREAD_COLUMN, header }));
  return { ...unread, headerLine, firstRows, columns, sample };
}

/** Sample rows of a table that cannot be read yet. */
const ROWS_OF_UNREAD = 4;
const UNREAD_COLUMN: Omit<ImportPreview['columns'][number], 'header'> = {
  as: 'leftOut',
  field: null,
  item: null,
  isNew: false,
  itemKind: null,
  points: null,
  leftOut: 'unread',
  filled: 0,
  group: null,
  asksPoints: false,
  dayOrder: 'unknown',
};

type RowOfPreview = Pick<ImportRow, 'id' | 'name' | 'state' | 'decisions'> &
  Partial<Pick<ImportRow, 'report' | 'trouble'>>;

export function previewOf(
  row: Pick<ImportRow, 'id' | 'name' | 'state' | 'decisions' | 'at'>,
  { report, facts, after, lines }: FileReading,
  more: {
    readonly course: Pick<Course, 'people' | 'items' | 'letters'>;
    readonly rules: readonly string[];
    readonly remembered: boolean;
  },
): ImportPreview {
  const columns = report.meanings.map((column, i) => {
    const header = report.headers[i]!;
    return { ...column, header, dayOrder: row.decisions.dayOrders?.[header] ?? report.dayOrders[header] ?? 'unknown' };
  });
  const names = new Map(after.people.map((p) => [p.id, fullName(p)]));
  const titles = new Map(after.items.map((i) => [i.id, i.title]));
  return {
    id: row.id,
    name: row.name,
    state: row.state,
    decisions: row.decisions,
    trouble: null,
    kind: report.kind,
    encoding: report.encoding,
    delimiter: report.delimiter,
    sheet: report.sheet,
    sheets: report.sheets,
    columns,
    sample: report.sample,
    titles: report.titles,
    headerLine: report.headerLine,
    groupsLine: report.groupsLine,
    firstRows: report.firstRows,
    doubts: row.decisions.header !== undefined || row.decisions.isSure ? [] : report.doubts,
    leftOut: report.leftOut ?? 0,
    added: report.added ?? NONE,
    offered: report.offered,
    add: additionsOf(row.decisions, more.course),
    differs: report.differs,
    tally: report.tally,
    letters: report.hasLetters ? (more.course.letters ?? LETTERS) : null,
    agesFrom: report.hasAges ? (row.decisions.asOf ?? row.at) : null,
    cut: report.cut,
    counts: {
      read: report.read,
      new: report.new,
      changed: report.changed,
      same: report.same,
      refused: report.refusedCount,
    },
    lines: lines.first,
    allLines: lines.count,
    events: facts.events.length,
    grades: facts.gradeChanges
      .slice(0, MOST_LINES)
      .map(({ grade, from }) => ({
        student: names.get(grade.person) ?? grade.person,
        item: titles.get(grade.item) ?? grade.item,
        from,
        to: grade.points,
      })),
    allGrades: facts.gradeChanges.length,
    retracted: facts.retractedEvents.length + facts.retractedGrades.length,
    refused: report.refused.slice(0, MOST_LINES),
    questions: report.questions,
    missing: report.missing.map((id) => names.get(id) ?? id),
    rules: more.rules,
    remembered: more.remembered,
  };
}
