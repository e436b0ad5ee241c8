/** What the server and its thread for files say to each other. */
import type { CourseChanges, CourseMeanings, CourseParts, FactBook, HistoryColumns, ReadFile } from '@zest-bell/core';
import type { ReadOrder } from './reading.ts';

interface OfFile {
  readonly name: string;
  readonly bytes: Uint8Array;
}

export type ReadWork =
  /** Its column names, by which one knows how such a file was read. */
  | (OfFile & { readonly as: 'headers' })
  /** Its rows as they stand, so many at most. */
  | (OfFile & { readonly as: 'table'; readonly most: number })
  /** What it would bring into a course. `columns`: null where nothing has happened in it yet. */
  | (OfFile & {
      readonly as: 'import';
      readonly parts: CourseParts;
      readonly columns: HistoryColumns | null;
      readonly meanings: CourseMeanings;
      readonly order: ReadOrder;
    });

/** A file read against a course, as plain data. */
export interface Reading {
  readonly report: ReadFile;
  readonly facts: Pick<FactBook, 'events' | 'grades' | 'retractedEvents' | 'retractedGrades' | 'gradeChanges'>;
  readonly after: CourseParts;
  readonly changes: CourseChanges;
  /** What is refused, as a file to be mended and brought again; null where nothing is. */
  readonly refused: string | null;
}

export interface SheetTable {
  readonly as: 'table';
  readonly headers: readonly string[];
  readonly rows: readonly (readonly string[])[];
}

export type ReadResult =
  | { readonly as: 'headers'; readonly headers: readonly string[] | null }
  | SheetTable
  | (Reading & { readonly as: 'import' });

export interface ToReader {
  readonly id: number;
  readonly work: ReadWork;
}
export type FromReader =
  | { readonly id: number; readonly result: ReadResult }
  | { readonly id: number; readonly unreadable: string }
  /** A fault of the program. */
  | { readonly id: number; readonly fault: string };
