/** A row of a table of one row a fact, by its fields, and how its cells are read; a cell that does not fit refuses the row. */
import type { Instant } from '../../time/instant.ts';
import { instantWords } from '../../time/words.ts';
import { readDate, readExact, type DayOrder } from '../read/dates.ts';
import { slugOf, type ImportDraft, type DraftItem, type DraftPerson } from './draft.ts';
import { RefusedRow } from '../read/refused.ts';
import type { Outcome } from './facts.ts';
import { zoneIn, type FieldName } from '../read/headers.ts';
import { bracketsOf, looksLikeId, nameOf } from '../read/names.ts';
import { numberOf, type DecimalSign, type NumberStyle } from '../read/numbers.ts';
import { isError } from '../read/said.ts';
import type { Survey } from './survey.ts';
import type { TextTable, TableRow } from '../read/table.ts';
import { kindByWords } from '../read/titles.ts';

/** Where each field is in the rows of a file. */
export interface Layout {
  readonly places: ReadonlyMap<FieldName, number>;
  readonly headers: readonly string[];
  /** How the dates of a column are written; asked only where a date can be read in two ways. */
  readonly orderOf: (place: number) => DayOrder;
  readonly decimals: readonly (DecimalSign | null)[];
}

const NOTHING_READ: ReadonlyMap<number, string> = new Map();

/** One row by its fields. */
export class FieldRow {
  readonly at: TableRow;
  readonly layout: Layout;
  /** How cells were read, by their place, for a screen. */
  get read(): ReadonlyMap<number, string> {
    return this.notes ?? NOTHING_READ;
  }

  /** Null where nobody looks at how it is read. */
  private readonly notes: Map<number, string> | null;

  constructor(at: TableRow, layout: Layout, isShown: boolean) {
    this.at = at;
    this.layout = layout;
    this.notes = isShown ? new Map() : null;
  }

  get(field: FieldName): string {
    const place = this.layout.places.get(field);
    const cell = place === undefined ? '' : this.at.cells[place]!;
    if (isError(cell))
      this.refuse(field, 'error', `“${cell}” is an error of the spreadsheet. Mend it there, or type a value`);
    return cell;
  }

  column(field: FieldName): string | null {
    const place = this.layout.places.get(field);
    return place === undefined ? null : this.layout.headers[place]!;
  }

  /** Says how the cell of a field was read, where somebody looks. */
  note(field: FieldName, words: () => string): void {
    if (this.notes === null) return;
    const place = this.layout.places.get(field);
    if (place !== undefined) this.notes.set(place, words());
  }

  /** The cells by which a person is found. */
  get who() {
    const [id, email, name] = [this.get('person') || this.get('id'), this.get('email'), this.get('name')];
    return { id, email, name, firstName: this.get('firstName'), lastName: this.get('lastName') };
  }

  refuse(field: FieldName, code: string, message: string): never {
    throw new RefusedRow(this.column(field), code, message);
  }

  /** The instant of a field, or null where it is blank. */
  instant(field: FieldName, draft: ImportDraft, asOf: Instant, endOfDay = false): Instant | null {
    const text = this.get(field);
    if (text === '') return null;
    const exact = readExact(text);
    if (exact?.ok) {
      this.note(field, () => instantWords(exact.at, draft.json.course.timeZone));
      return exact.at;
    }
    const order = this.layout.orderOf(this.layout.places.get(field)!);
    const column = this.column(field);
    const zone = (column === null ? null : zoneIn(column)) ?? draft.zone;
    const read = readDate(text, { zone, order, endOfDay, frame: draft.frame(asOf) });
    if (read.ok) {
      this.note(field, () => instantWords(read.at, draft.json.course.timeZone));
      return read.at;
    }
    const question =
      read.code === 'ambiguousDate' && column ? ({ about: 'dayOrder', column, example: text } as const) : null;
    throw new RefusedRow(column, read.code, DATE_SENTENCES[read.code](text), question);
  }

  number(field: FieldName): number | null {
    const text = this.get(field);
    if (text === '' || text === '-') return null;
    return numberOf(text, this.column(field), this.decimal(field));
  }

  isNumber(field: FieldName): boolean {
    const place = this.layout.places.get(field);
    return place !== undefined && (this.at.numbers?.has(place) ?? false);
  }

  decimal(field: FieldName): NumberStyle {
    return this.isNumber(field) ? 'workbook' : (this.layout.decimals[this.layout.places.get(field)!] ?? null);
  }
}

export const DATE_SENTENCES = {
  date: (text: string) => `“${text}” is no date. Write it as 2026-10-26 or Oct 26, 2026 9:30 AM`,
  ambiguousDate: (text: string) => `“${text}” could be two dates. Write the month as a word or the year first`,
  dateRange: (text: string) => `“${text}” is not between 1970 and 2100`,
};

/** What all rows of a file share. */
export interface RowImport {
  readonly draft: ImportDraft;
  readonly table: TextTable;
  /** Null for a table that is surveyed while it is taken. */
  readonly survey: Survey | null;
  readonly fields: readonly (FieldName | null)[];
  /** When what has no instant is taken to have happened. */
  readonly asOf: Instant;
  /** The rows are wrong: what they say is taken back, as far as it is known. */
  readonly isCorrection: boolean;
  /** Finds the person of a row, or adds one. Throws `RefusedRow`. */
  readonly person: (row: FieldRow) => DraftPerson;
  /** Finds the item of a row, or adds one; null: it is to be left out. Throws `RefusedRow`. */
  readonly item: (row: FieldRow, field?: FieldName) => DraftItem | null;
}

/** The place of a row or a cell that is not taken. */
export interface RowPlace {
  readonly row: number;
  readonly line: number;
  /** What its cells say. */
  readonly cells?: readonly string[];
}

/** Told of each row or cell that is not taken. */
export type Refuse = (at: RowPlace, why: RefusedRow) => void;

/** What takes the rows of a file, made once for the file. */
export type RowImporter = (given: RowImport) => (row: FieldRow) => Outcome[];

export function excuse(item: DraftItem, person: DraftPerson): Outcome {
  if (item.excused?.includes(person.id)) return 'same';
  item.excused = [...(item.excused ?? []), person.id];
  return 'changed';
}

/** =, +, - and @. */
const RUNS: ReadonlySet<number> = new Set([61, 43, 45, 64]);

/** Whether a spreadsheet would run a cell when it is opened in it again: a formula with a call or a channel. */
export function callsOut(cell: string): boolean {
  if (cell.length < 4) return false;
  const text = cell.trimStart();
  if (!RUNS.has(text.charCodeAt(0))) return false;
  const [call, channel] = [text.indexOf('('), text.indexOf('|')];
  const at = call < 0 ? channel : channel < 0 ? call : Math.min(call, channel);
  return at >= 0 && (text.indexOf('!', at) >= 0 || text.indexOf(')', at) >= 0);
}

/** What the course lacks and a file of facts brings: added, or counted as what could be. */
export class Additions {
  readonly added = { people: 0, items: 0 };
  private readonly peopleOffered = new Set<string>();
  private readonly itemsOffered = new Set<string>();
  /** Those who were found by an id, as rows name the same people again and again. */
  private readonly known = new Map<string, DraftPerson>();
  private readonly draft: ImportDraft;
  private readonly may: { readonly people: boolean; readonly items: boolean };

  constructor(draft: ImportDraft, may: { readonly people: boolean; readonly items: boolean }) {
    this.draft = draft;
    this.may = may;
  }

  get offered() {
    return { people: this.peopleOffered.size, items: this.itemsOffered.size };
  }

  person(row: FieldRow): DraftPerson {
    const id = row.get('person') || row.get('id');
    const known = this.known.get(id) ?? this.draft.personById(id);
    if (known) {
      this.known.set(id, known);
      return known;
    }
    const { who } = row;
    try {
      return this.draft.person(who, (field) => row.column(field));
    } catch (error) {
      if (!(error instanceof RefusedRow) || error.code !== 'unknownPerson') throw error;
      const name = nameOf(who);
      if (!name) throw error;
      const { draft } = this;
      const wanted =
        who.id ||
        bracketsOf(who.name).within.find(looksLikeId) ||
        who.email ||
        slugOf(`${name.firstName} ${name.lastName}`);
      if (!this.may.people) {
        this.peopleOffered.add(wanted);
        throw error;
      }
      const person: DraftPerson = {
        id: draft.freePersonId(wanted),
        ...name,
        role: 'student',
        enrolledAt: draft.write(draft.frame(0).start),
        ...(who.email === '' ? {} : { email: who.email }),
      };
      draft.addPerson(person, (field) => row.column(field));
      this.added.people++;
      return person;
    }
  }

  item(row: FieldRow, field: FieldName): DraftItem | null {
    const said = row.get(field);
    const known = this.draft.item(said);
    if (known !== undefined) return known;
    if (!this.may.items || said === '') {
      this.itemsOffered.add(said);
      throw this.draft.unknownItem(said, row.column(field));
    }
    const item: DraftItem = {
      id: this.draft.freeId(slugOf(said)),
      title: said,
      kind: kindByWords(said) ?? 'assignment',
    };
    this.draft.addItem(item, () => row.column(field));
    this.added.items++;
    return item;
  }
}
