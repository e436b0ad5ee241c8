/** The thread in which files are read: it knows nothing of the database, the clock or mail, and can be ended at any moment. */
import { parentPort } from 'node:worker_threads';
import {
  fromColumns,
  knownFrom,
  knownOf,
  makeCourse,
  mustDiffer,
  sourceOf,
  UnreadableFile,
  type FileInput,
} from '@zest-bell/core';
import { inTurns } from '../platform/inTurns.ts';
import { openFile } from './archive.ts';
import { readImport } from './reading.ts';
import { refusedFile } from './refusedFile.ts';
import type { FromReader, ReadResult, ReadWork, SheetTable, ToReader } from './readMessages.ts';

const say = (message: FromReader): void => parentPort!.postMessage(message);

parentPort!.on('message', ({ id, work }: ToReader) => void read(id, work));

async function read(id: number, work: ReadWork): Promise<void> {
  try {
    say({ id, result: await resultOf(work) });
  } catch (error) {
    if (error instanceof UnreadableFile) say({ id, unreadable: error.message });
    else say({ id, fault: error instanceof Error ? (error.stack ?? error.message) : String(error) });
  }
}

async function resultOf(work: ReadWork): Promise<ReadResult> {
  const file = await openFile(work.name, Buffer.from(work.bytes));
  if (work.as === 'headers') {
    const source = sourceOf(file);
    return { as: 'headers', headers: source.form === 'table' ? source.table.headers : null };
  }
  if (work.as === 'table') return tableOf(file, work.most);
  const { parts, columns, meanings, order } = work;
  const known = columns === null ? knownFrom([], []) : knownOf(fromColumns(columns));
  const { report, draft, after, changes } = await inTurns(() =>
    readImport({ course: makeCourse(parts), known, meanings }, file, order),
  );
  const { events, grades, retractedEvents, retractedGrades, gradeChanges } = draft.facts;
  const { calendar: _c, personIndex: _p, itemIndex: _i, ...plain } = after as typeof after & Record<string, unknown>;
  return {
    ...{ as: 'import', report, after: plain, changes },
    facts: { events, grades, retractedEvents, retractedGrades, gradeChanges },
    refused: refusedFile(report, file),
  };
}

function tableOf(file: FileInput, most: number): SheetTable {
  const source = sourceOf(file);
  if (source.form !== 'table') throw new UnreadableFile('This file is no table. Choose a CSV file or a workbook.');
  const { headers } = source.table;
  mustDiffer(headers);
  const rows: (readonly string[])[] = [];
  for (const { cells } of source.table.rows)
    if (rows.push(cells) > most) throw new UnreadableFile(`A sheet to write from has at most ${most} rows.`);
  return { as: 'table', headers, rows };
}
