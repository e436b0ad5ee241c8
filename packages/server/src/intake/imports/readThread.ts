/** The thread in which files are read: it knows nothing of the database, the clock or mail, and can be ended at any moment. */
import { parentPort } from 'node:worker_threads';
import { makeCourse, type CourseParts } from '@zest-bell/core/course';
import { fromColumns } from '@zest-bell/core/activity';
import {
  bytesOf,
  decodeText,
  EventList,
  knownFrom,
  knownOf,
  mustDiffer,
  parseJson,
  sourceOf,
  UnreadableFile,
  type Bytes,
  type EventColumns,
  type FileInput,
} from '@zest-bell/core/imports';
import { parseScenario } from '@zest-bell/core/scenario';
import { inTurns } from '../../platform/turns/inTurns.ts';
import { openFile } from './archive.ts';
import { withFile } from './fileBytes.ts';
import { readImport } from './reading.ts';
import { refusedFile } from './refusedFile.ts';
import type { ToStage } from '../staging/messages.ts';
import type { ReaderAnswer, ReadResult, ReadScenario, ReadWork, SheetTable, ReaderRequest } from './readMessages.ts';

/** In bytes. */
const LARGEST_SCENARIO = 64 << 20;

/** Facts are handed over as they are, and no longer here. */
function say(message: ReaderAnswer): void {
  const result = 'result' in message && message.result.as === 'import' ? message.result : null;
  parentPort!.postMessage(message, result ? buffersOf(result.facts.events) : []);
}

const buffersOf = ({ who, codes, times }: EventColumns): ArrayBuffer[] => [who.buffer, codes.buffer, times.buffer];

parentPort!.on('message', ({ id, work }: ReaderRequest) => void read(id, work));

async function read(id: number, work: ReadWork): Promise<void> {
  try {
    say({ id, result: await resultOf(work) });
  } catch (error) {
    if (error instanceof UnreadableFile) say({ id, unreadable: error.message });
    else say({ id, fault: error instanceof Error ? (error.stack ?? error.message) : String(error) });
  }
}

function resultOf(work: ReadWork): Promise<ReadResult> {
  const read = async (bytes: Bytes): Promise<ReadResult> =>
    work.as === 'scenario'
      ? { as: 'scenario', scenario: scenarioOf(bytes) }
      : resultFrom(work, await openFile(work.file.name, bytes));
  return 'path' in work.file ? withFile(work.file.path, read) : read(bytesOf(work.file.bytes));
}

/** Problems that are said of a scenario file. */
const MOST_PROBLEMS = 50;

function scenarioOf(bytes: Bytes): ReadScenario {
  if (bytes.size > LARGEST_SCENARIO) throw new UnreadableFile('A scenario file has at most 64 MB.');
  let json: unknown;
  try {
    json = parseJson(decodeText(bytes.read(0, bytes.size)).text);
  } catch (error) {
    if (error instanceof UnreadableFile) throw error;
    const message = 'This file is not a scenario file. Choose a file that ends in .json';
    return { ok: false, problems: [{ path: 'file', code: 'json', message }] };
  }
  const parsed = parseScenario(json);
  if (!parsed.ok) return { ok: false, problems: parsed.problems.slice(0, MOST_PROBLEMS) };
  const { course, events, grades, rules } = parsed.value;
  const { calendar: _c, personIndex: _p, itemIndex: _i, ...parts } = course;
  const list = new EventList();
  for (const event of events) list.add(event);
  return { ok: true, parts, events: list.toColumns(), grades, rules };
}

async function resultFrom(work: Exclude<ReadWork, { as: 'scenario' }>, file: FileInput): Promise<ReadResult> {
  if (work.as === 'headers') {
    const source = sourceOf(file, work.how.sheet, work.how.header);
    if (source.form !== 'table') return { as: 'headers', head: null };
    const { headers, headerLine, firstRows } = source.table;
    return { as: 'headers', head: { headers, headerLine, firstRows } };
  }
  if (work.as === 'table') return tableOf(file, work.most);
  const { parts, columns, meanings, order, to } = work;
  const known = columns === null ? knownFrom([], []) : knownOf(fromColumns(columns));
  const found = await inTurns(() => readImport({ course: makeCourse(parts), known, meanings }, file, order));
  const { draft, after, changes, lines } = found;
  const { refusedRows: _rows, ...report } = found.report;
  const { events, grades, retractedEvents, retractedGrades, gradeChanges, gradesAgain } = draft.facts;
  const { calendar: _c, personIndex: _p, itemIndex: _i, ...plain } = after as typeof after & Record<string, unknown>;
  const result = {
    after: plain as unknown as CourseParts,
    changes,
    lines,
    report: { ...report, refused: report.refused.slice(0, MOST_KEPT), refusedCount: report.refused.length },
    again: { grades: gradesAgain, ...draft.again.all },
    refused: refusedFile(found.report),
  };
  const facts = { grades, retractedEvents, retractedGrades, gradeChanges };
  const all = events.toColumns();
  if (to === null) return { as: 'import', ...result, facts: { ...facts, events: all } };
  to.postMessage({ reading: { ...result, facts }, events: all } satisfies ToStage, buffersOf(all));
  to.close();
  return { as: 'staged' };
}

/** Refused rows that are kept with an import; all of them can be had as a file. */
const MOST_KEPT = 2000;

function tableOf(file: FileInput, most: number): SheetTable {
  const source = sourceOf(file);
  if (source.form !== 'table') throw new UnreadableFile('This file is not a table. Choose a CSV file or a workbook.');
  const { headers } = source.table;
  mustDiffer(headers);
  const rows: (readonly string[])[] = [];
  for (const { cells } of source.table.rows)
    if (rows.push(cells) > most) throw new UnreadableFile(`A sheet to write from has at most ${most} rows.`);
  return { as: 'table', headers, rows };
}
