/** Which file is made of what. */
import { setImmediate as nextTurn } from 'node:timers/promises';
import {
  csvPieces,
  disguised,
  fileNameOf,
  scenarioPieces,
  type ExportCell,
  type WholeCourse,
} from '@zest-bell/core/exports';
import type { ActivityEvent, Grade } from '@zest-bell/core/activity';
import type { ExportFormat, ExportSubject, LogLine, WithheldLine } from '@zest-bell/core/exchange';
import type { BodyRead } from '@zest-bell/core/contract';
import { contract } from '@zest-bell/core/contract';
import type { LiveCourse } from '../../course/activity/live.ts';
import { allLines, countLines, countWithheld, withheldLines, type LogOf } from '../../mail/log/query.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Instant } from '@zest-bell/core/time';
import type { Em } from '../../platform/database/orm.ts';
import { countOf, rowsOf } from '../../platform/database/query.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRules } from '../../rules/repository.ts';
import type { Progress } from './jobs.ts';
import { detailsOf, LOG_COLUMNS, logRow, WITHHELD_COLUMNS, withheldRow } from './logTables.ts';
import { writeJsonLines, writeMailFiles, writeMbox } from './messages.ts';
import { writeWorkbook } from './workbook.ts';
import { writeFile } from './writing.ts';

export type ExportRequest = BodyRead<typeof contract.exports.start>;

const NAMES: Readonly<Record<ExportSubject, string>> = { log: 'send log', withheld: 'held back', course: 'course' };
const ENDINGS: Readonly<Record<ExportFormat, string>> = {
  csv: '.csv',
  csvBom: '.csv',
  xlsx: '.xlsx',
  jsonl: '.jsonl',
  mbox: '.mbox',
  eml: ' messages.zip',
  scenario: '.json',
  madeUp: ' with made-up names.json',
};

/** What its file is called. Throws `invalidInput` for a file that nobody makes of it. */
export function nameOf({ what, as }: Pick<ExportRequest, 'what' | 'as'>, code: string): string {
  if (WRITERS[what][as] === undefined)
    throw new AppError('invalidInput', [{ path: 'as', code: 'format', message: 'There is no such file of this' }]);
  return `${fileNameOf(`${code} ${NAMES[what]}`)}${ENDINGS[as]}`;
}

/** The course that a file is about, and the time at which it is made. */
export interface ExportContext {
  readonly live: LiveCourse;
  readonly log: LogOf;
  readonly now: Instant;
}

/** Writes one kind of file. */
type ExportWriter = (em: Em, context: ExportContext, order: ExportRequest, to: Progress) => Promise<void>;

/** How each file is made. A format that is not here for a subject is refused. */
const WRITERS: Readonly<Record<ExportSubject, Readonly<Partial<Record<ExportFormat, ExportWriter>>>>> = {
  log: {
    csv: writeLogTable,
    csvBom: writeLogTable,
    xlsx: writeLogTable,
    jsonl: async (em, { live, log, now }, order, to) =>
      writeJsonLines(em, to, { live, now }, await countedLines(em, log, order, to)),
    mbox: async (em, { log }, order, to) => writeMbox(em, to, log.id, await countedLines(em, log, order, to)),
    eml: async (em, { log }, order, to) => writeMailFiles(em, to, log.id, await countedLines(em, log, order, to)),
  },
  withheld: { csv: writeWithheld, csvBom: writeWithheld, xlsx: writeWithheld },
  course: {
    scenario: (em, { live }, _order, to) => writeCourse(em, live, false, to),
    madeUp: (em, { live }, _order, to) => writeCourse(em, live, true, to),
  },
};

export const makeFile = (em: Em, context: ExportContext, order: ExportRequest, to: Progress): Promise<void> =>
  WRITERS[order.what][order.as]!(em, context, order, to);

/** The lines of the log, after saying how many there are. */
async function countedLines(em: Em, log: LogOf, order: ExportRequest, to: Progress) {
  to.total(await countLines(em, log, order));
  return allLines(em, log, order);
}

async function writeLogTable(em: Em, context: ExportContext, order: ExportRequest, to: Progress): Promise<void> {
  const rows = logRows(em, context, await countedLines(em, context.log, order, to));
  return writeTable(to, { ...of(context.log, 'send log'), columns: LOG_COLUMNS }, order.as, rows);
}

async function writeWithheld(em: Em, { log }: ExportContext, order: ExportRequest, to: Progress): Promise<void> {
  to.total(await countWithheld(em, log, order));
  return writeTable(to, { ...of(log, 'held back'), columns: WITHHELD_COLUMNS }, order.as, held(em, log, order));
}

const of = ({ course }: LogOf, name: string) => ({ name: `${course.code} ${name}`, zone: course.timeZone });

async function* logRows(em: Em, { live, now }: ExportContext, batches: AsyncIterable<readonly LogLine[]>) {
  for await (const lines of batches) {
    const details = await detailsOf(em, live, now, lines);
    yield lines.map((line): ExportCell[] => logRow(line, details.get(line.nudge)!));
  }
}

const PAGE = 200;

async function* held(em: Em, log: LogOf, order: ExportRequest): AsyncGenerator<ExportCell[][]> {
  for (let skip = 0; ; skip += PAGE) {
    const lines: WithheldLine[] = await withheldLines(em, log, { ...order, skip, take: PAGE });
    if (lines.length > 0) yield lines.map(withheldRow);
    if (lines.length < PAGE) return;
  }
}

type WorkbookHead = Parameters<typeof writeWorkbook>[1];

function writeTable(
  to: Progress,
  head: WorkbookHead,
  as: ExportFormat,
  batches: AsyncIterable<ExportCell[][]>,
): Promise<void> {
  if (as === 'xlsx') return writeWorkbook(to, head, batches);
  return writeFile(to, async (out) => {
    for (const piece of csvPieces({ ...head, rows: [] }, { bom: as === 'csvBom' })) await out.write(piece);
    for await (const rows of batches) {
      const [, ...lines] = csvPieces({ ...head, rows });
      await out.write(lines.join(''));
      to.done(rows.length);
    }
  });
}

/** Facts as they were told, some thousands at a time. */
const FACTS = 5000;

async function* facts<Row extends { readonly id: number }>(
  em: Em,
  course: number,
  table: 'activity_event' | 'grade',
  columns: readonly string[],
  to: Progress,
): AsyncGenerator<Row> {
  for (let after = 0; ;) {
    const query = em
      .getKnex()(table)
      .select(['id', ...columns])
      .where({ course })
      .andWhere('id', '>', after);
    const rows = await rowsOf<Row>(em, query.orderBy('id').limit(FACTS));
    yield* rows;
    to.done(rows.length);
    await nextTurn();
    if (rows.length < FACTS) return;
    after = rows.at(-1)!.id;
  }
}

async function writeCourse(em: Em, { id, course }: LiveCourse, madeUp: boolean, to: Progress): Promise<void> {
  const knex = em.getKnex();
  const count = async (table: string) => countOf(em, knex(table).where({ course: id }));
  to.total((await count('activity_event')) + (await count('grade')));
  const rows = await em.find(RuleRow, { course: id, archivedAt: null }, { orderBy: { position: 'asc' } });
  const known = ({ person, item = null }: { person: string; item?: string | null }) =>
    course.personIndex.has(person) && (item === null || course.itemIndex.has(item));
  // What is about somebody or something that is gone decides nothing, and a file cannot name it.
  async function* sound<T extends { readonly id: number; readonly person: string; readonly item: string | null }>(
    all: AsyncIterable<T>,
  ) {
    for await (const { id: _id, ...fact } of all) if (known(fact)) yield fact;
  }
  const whole: WholeCourse = {
    course,
    rules: readableRules(rows),
    events: sound(
      facts<ActivityEvent & { id: number }>(em, id, 'activity_event', ['person', 'kind', 'item', 'at'], to),
    ),
    grades: sound(facts<Grade & { id: number }>(em, id, 'grade', ['person', 'item', 'criterion', 'points', 'at'], to)),
  };
  await writeFile(to, async (out) => {
    let pieces: string[] = [];
    let size = 0;
    for await (const piece of scenarioPieces(madeUp ? disguised(whole) : whole)) {
      pieces.push(piece);
      if ((size += piece.length) < 1 << 16) continue;
      await out.write(pieces.join(''));
      pieces = [];
      size = 0;
    }
    await out.write(pieces.join(''));
  });
}
