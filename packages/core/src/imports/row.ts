/** A row of a file by its fields, and how its cells are read; a cell that does not fit refuses the row with its column and reason. */
import type { Instant } from '../time/instant.ts';
import { readDate, type DayOrder } from './dates.ts';
import { type Draft, type DraftItem, type DraftPerson } from './draft.ts';
import { RefusedRow } from './refused.ts';
import type { Outcome } from './facts.ts';
import type { FieldName } from './headers.ts';
import type { Table } from './table.ts';

/** Where each field stands in the rows of a file; own columns and the columns of items under their headers. */
export interface Layout {
  readonly places: ReadonlyMap<FieldName, number>;
  readonly headerOf: ReadonlyMap<FieldName, string>;
  readonly orders: ReadonlyMap<string, DayOrder>;
}

/** One row by its fields. */
export class Row {
  readonly cells: readonly string[];
  readonly layout: Layout;

  constructor(cells: readonly string[], layout: Layout) {
    this.cells = cells;
    this.layout = layout;
  }

  get(field: FieldName): string {
    const place = this.layout.places.get(field);
    return place === undefined ? '' : this.cells[place]!;
  }

  readonly column = (field: FieldName): string | null => this.layout.headerOf.get(field) ?? null;

  /** The cells by which a person is found. */
  get who() {
    const [id, email, name] = [this.get('person') || this.get('id'), this.get('email'), this.get('name')];
    return { id, email, name, firstName: this.get('firstName'), lastName: this.get('lastName') };
  }

  refuse(field: FieldName, code: string, message: string): never {
    throw new RefusedRow(this.column(field), code, message);
  }

  /** The instant of a field, or null where it is blank. */
  instant(field: FieldName, draft: Draft, endOfDay = false): Instant | null {
    const text = this.get(field);
    if (text === '') return null;
    const read = readDate(text, draft.zone, this.layout.orders.get(this.column(field) ?? '') ?? 'unknown', endOfDay);
    if (read.ok) return read.at;
    const column = this.column(field);
    const question =
      read.code === 'ambiguousDate' && column ? ({ about: 'dayOrder', column, example: text } as const) : null;
    throw new RefusedRow(column, read.code, DATE_SENTENCES[read.code](text), question);
  }

  number(field: FieldName): number | null {
    const text = this.get(field);
    return text === '' || text === '-' ? null : numberOf(text, this.column(field));
  }
}

const DATE_SENTENCES = {
  date: (text: string) => `“${text}” is no date. Write it as 2026-10-26 or Oct 26, 2026 9:30 AM`,
  ambiguousDate: (text: string) => `“${text}” could be two dates. Write the month as a word or the year first`,
  dateRange: (text: string) => `“${text}” is not between 1970 and 2100`,
};

const MOST_POINTS = 1e9;

export function numberOf(text: string, column: string | null): number {
  const plain = text.replace(/^\+/, '').replace(/^(-?\d{1,3}(?:,\d{3})+)(\.\d+)?$/, (all) => all.replaceAll(',', ''));
  const n = /^-?(\d+\.?\d*|\.\d+)$/.test(plain) ? Number(plain) : NaN;
  if (!Number.isFinite(n)) throw new RefusedRow(column, 'number', `“${text}” is no number`);
  if (Math.abs(n) > MOST_POINTS) throw new RefusedRow(column, 'tooLarge', `“${text}” is more than a billion`);
  return n;
}

/** What all rows of a file share. */
export interface Taking {
  readonly draft: Draft;
  readonly table: Table;
  readonly fields: readonly (FieldName | null)[];
  /** When what has no instant is taken to have happened. */
  readonly asOf: Instant;
  /** The rows are wrong: what they say is taken back, as far as it is known. */
  readonly isCorrection: boolean;
  /** In which order a column writes day and month, where somebody said so. */
  readonly dayOrders?: Readonly<Record<string, DayOrder>> | undefined;
}

/** Told of each row or cell that is not taken. */
export type Refuse = (row: number, why: RefusedRow) => void;

/** What takes the rows of a file: made once for the file, with the headers that mean no field. */
export type Take = (
  given: Taking,
  others: readonly string[],
  refuse: Refuse,
) => (row: Row, number: number) => Outcome[];

/** Cells that say nothing. */
export const BLANKS = new Set(['', '-', '–', 'n/a', 'na']);
/** Cells that excuse a student from an item. */
export const EXCUSED = new Set(['ex', 'excused', 'exempt', 'e']);

export function excuse(item: DraftItem, person: DraftPerson): Outcome {
  if (item.excused?.includes(person.id)) return 'same';
  item.excused = [...(item.excused ?? []), person.id];
  return 'changed';
}
