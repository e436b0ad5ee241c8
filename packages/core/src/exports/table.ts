/** A table that goes out, whatever it is about and in whichever file: named columns of one kind each, and rows. */
import { Temporal } from 'temporal-polyfill';
import type { Instant } from '../time/instant.ts';

export const CELL_KINDS = ['text', 'number', 'date', 'dateTime'] as const;
export type CellKind = (typeof CELL_KINDS)[number];

export interface ExportColumn {
  readonly name: string;
  readonly kind: CellKind;
}

/** A text, a number, an instant in a column of `dateTime`, a local date as text in one of `date`; null is empty. */
export type ExportCell = string | number | null;

export interface ExportTable {
  /** For the file and the sheet. */
  readonly name: string;
  /** The zone of its times, which is in their headings. */
  readonly zone: string;
  readonly columns: readonly ExportColumn[];
  readonly rows: Iterable<readonly ExportCell[]>;
}

export const text = (name: string): ExportColumn => ({ name, kind: 'text' });
export const number = (name: string): ExportColumn => ({ name, kind: 'number' });
export const dateTime = (name: string): ExportColumn => ({ name, kind: 'dateTime' });

/** Names of the columns; those of times say in which zone they are. */
export const headingsOf = ({ columns, zone }: Pick<ExportTable, 'columns' | 'zone'>): string[] =>
  columns.map(({ name, kind }) => (kind === 'dateTime' ? `${name} (${zone})` : name));

/** The wall clock of a zone as ISO text without an offset, to the second: `2026-09-21T09:30:00`. */
export const wallText = (t: Instant, zone: string): string =>
  Temporal.Instant.fromEpochMilliseconds(t)
    .toZonedDateTimeISO(zone)
    .toPlainDateTime()
    .toString({ smallestUnit: 'second' });

/** As a text says it: times by the wall clock of the table's zone. */
export const cellText = (cell: ExportCell, { kind }: ExportColumn, zone: string): string | number | null =>
  kind === 'dateTime' && typeof cell === 'number' ? wallText(cell, zone) : cell;

/** What a file may be called on every system; without its ending. */
export const fileNameOf = (name: string): string =>
  Array.from(name, (c) => (c < ' ' || '<>:"/\\|?*'.includes(c) ? '-' : c))
    .join('')
    .trim()
    .slice(0, 100) || 'table';
