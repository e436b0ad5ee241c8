/** What the server and its thread for files say to each other. */
import type { MessagePort } from 'node:worker_threads';
import type { Problem } from '@zest-bell/core/problem';
import type { CourseChanges, CourseParts } from '@zest-bell/core/course';
import type { Grade, HistoryColumns } from '@zest-bell/core/activity';
import type { Rule } from '@zest-bell/core/rules';
import type {
  CourseMeanings,
  EventColumns,
  EventList,
  FactBook,
  ReadFile,
  RepeatedFacts,
} from '@zest-bell/core/imports';
import type { HowToRead, LinesOfChanges } from './reading.ts';

/** A file on disk, or one with its bytes in memory. */
export type FileToRead =
  | { readonly name: string; readonly path: string; readonly size: number }
  | { readonly name: string; readonly bytes: Uint8Array };

interface FileWork {
  readonly file: FileToRead;
}

export interface HeadWork extends FileWork {
  readonly as: 'headers';
  readonly how: { readonly sheet?: string | undefined; readonly header?: number | undefined };
}

export type ReadWork =
  /** Its column names and first rows, by which one knows how such a file was read. */
  | HeadWork
  /** Its rows as they stand, so many at most. */
  | (FileWork & { readonly as: 'table'; readonly most: number })
  /** A whole course as a scenario file. */
  | (FileWork & { readonly as: 'scenario' })
  /** What it would bring into a course. `columns`: null where nothing has happened in it yet. */
  | (FileWork & {
      readonly as: 'import';
      readonly parts: CourseParts;
      readonly columns: HistoryColumns | null;
      readonly meanings: CourseMeanings;
      readonly order: HowToRead;
      /** Where what is read goes (`staging/messages.ts`); null to get it with the answer. */
      readonly to: MessagePort | null;
    });

type ReadFacts = Pick<FactBook, 'grades' | 'retractedEvents' | 'retractedGrades' | 'gradeChanges'>;

export type ReadReport = Omit<ReadFile, 'refusedRows'> & { readonly refusedCount: number };

/** A file read against a course. */
export interface FileReading {
  /** With the first of what is refused. */
  readonly report: ReadReport;
  readonly facts: ReadFacts & { readonly events: EventList };
  readonly again: RepeatedFacts;
  readonly after: CourseParts;
  readonly changes: CourseChanges;
  readonly lines: LinesOfChanges;
  /** What is refused, as a file to be mended and brought again; null where nothing is. */
  readonly refused: string | null;
}

/** The column names of a table, and its first rows, of which another may be the header. */
export interface TableHead {
  readonly headers: readonly string[];
  readonly headerLine: number | null;
  readonly firstRows: ReadFile['firstRows'];
}

export interface SheetTable {
  readonly as: 'table';
  readonly headers: readonly string[];
  readonly rows: readonly (readonly string[])[];
}

/** A course that a scenario file makes; or what in it does not fit, the first of it. */
export type ReadScenario =
  | { readonly ok: false; readonly problems: readonly Problem[] }
  | {
      readonly ok: true;
      readonly parts: CourseParts;
      readonly events: EventColumns;
      readonly grades: readonly Grade[];
      readonly rules: readonly Rule[];
    };

export type ReadResult =
  | { readonly as: 'scenario'; readonly scenario: ReadScenario }
  | { readonly as: 'headers'; readonly head: TableHead | null }
  | SheetTable
  /** All of it went to the one who takes it. */
  | { readonly as: 'staged' }
  | (Omit<FileReading, 'facts'> & {
      readonly as: 'import';
      readonly facts: ReadFacts & { readonly events: EventColumns };
    });

export interface ReaderRequest {
  readonly id: number;
  readonly work: ReadWork;
}
export type ReaderAnswer =
  | { readonly id: number; readonly result: ReadResult }
  | { readonly id: number; readonly unreadable: string }
  /** A fault of the program. */
  | { readonly id: number; readonly fault: string };
