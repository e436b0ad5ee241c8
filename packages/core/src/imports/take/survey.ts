/** What the cells of each column are, seen in one walk through a table before a row of it is taken. */
import { runWhole, type WorkInParts } from '../../time/inParts.ts';
import { MINUTE } from '../../time/instant.ts';
import { readAge } from '../read/ages.ts';
import { DayOrders, readDate, type DayOrder } from '../read/dates.ts';
import { letterPercent } from '../read/letters.ts';
import { namesOf, nameOf } from '../read/names.ts';
import { nobodyOf } from '../read/nobody.ts';
import { decimalOfFile, DecimalProof, plainScore, readNumber, type DecimalSign } from '../read/numbers.ts';
import { isError, markOf, plainCell, saysExcused, saysNothingYet } from '../read/said.ts';
import { BelowTable } from './belowTable.ts';
import type { ImportDraft } from './draft.ts';
import type { TextTable, TableRow } from '../read/table.ts';

/** What the filled cells of a column are, each counted under all that it could be. */
export interface ColumnSurvey {
  readonly filled: number;
  /** Cells with an @. */
  readonly addresses: number;
  readonly dates: number;
  readonly ages: number;
  /** Dates, ages, and words for never. */
  readonly seen: number;
  /** Kinds of marks of attendance, and how many cells are one. */
  readonly marks: number;
  readonly markKinds: number;
  /** Cells that can be read as a grade ([F8] to [F11]). */
  readonly grades: number;
  /** Those of them that are a number, a percent, a fraction or a letter. */
  readonly scores: number;
  /** Every cell that is filled is a letter, a word beside letters, or nothing; and one is a letter. */
  readonly isLetters: boolean;
  /** Every cell that is filled is a percent, or says nothing. */
  readonly isPercent: boolean;
  /** The one number that all fractions are of; null for none, or several. */
  readonly denominator: number | null;
  readonly order: DayOrder;
  /** As its own cells prove it, else as the file does. */
  readonly decimal: DecimalSign | null;
  /** The points possible that a row of theirs has; null for none. */
  readonly possible: string | null;
}

export interface Survey {
  readonly columns: readonly ColumnSurvey[];
  /** Rows below the header that are about somebody. */
  readonly count: number;
  /** Rows that name nobody, by their numbers. */
  readonly leftOut: ReadonlySet<number>;
  /** Names that several rows have without an id or an address. */
  readonly namesakes: ReadonlySet<string>;
  /** The first column, which has no header, holds the names. */
  readonly firstIsName: boolean;
}

/** Where the cells that name a person stand. */
export interface PersonPlaces {
  readonly name: number;
  readonly lastName: number;
  readonly firstName: number;
  readonly ids: readonly number[];
  readonly email: number;
}

class SurveyedColumn {
  filled = 0;
  addresses = 0;
  dates = 0;
  ages = 0;
  seen = 0;
  marks = 0;
  grades = 0;
  scores = 0;
  letters = 0;
  beside = 0;
  percents = 0;
  nothings = 0;
  possible: string | null = null;
  readonly kinds = new Set<string>();
  readonly denominators = new Set<number>();
  readonly orders = new DayOrders();
  readonly decimals = new DecimalProof();

  see(cell: string, isNumber: boolean, draft: ImportDraft, letters: Readonly<Record<string, number>> | null): void {
    if (cell === '') return;
    this.filled++;
    if (cell.includes('@')) this.addresses++;
    if (!isNumber) this.decimals.see(cell);
    if (cell.length > 64) return;
    const mark = markOf(cell);
    if (mark) {
      this.marks++;
      this.kinds.add(mark);
    }
    const nothing = saysNothingYet(cell);
    if (nothing) this.nothings++;
    this.seeDate(cell, isNumber, nothing, draft);
    const letter = letterPercent(cell, letters);
    if (typeof letter === 'number') this.letters++;
    else if (letter === null) this.beside++;
    const score = plainScore(cell);
    if (isPercent(score)) this.percents++;
    const denominator = denominatorOf(score);
    if (denominator !== null && this.denominators.size < 2) this.denominators.add(denominator);
    const isScore = typeof letter === 'number' || denominator !== null || isNumberLike(score);
    if (isScore) this.scores++;
    if (isScore || nothing || saysExcused(cell)) this.grades++;
  }

  /** Of a column that is no score: how its dates are written. */
  seeFact(cell: string): void {
    if (cell === '') return;
    this.filled++;
    this.orders.see(cell);
  }

  private seeDate(cell: string, isNumber: boolean, nothing: boolean, draft: ImportDraft): void {
    this.orders.see(cell);
    const isDate = !isNumber && looksLikeDate(cell, draft);
    if (isDate) this.dates++;
    const isAge = !isDate && !isNumber && readAge(cell, 0, draft.zone) !== null;
    if (isAge) this.ages++;
    if (isDate || isAge || nothing || saysNever(cell)) this.seen++;
  }

  survey(decimal: DecimalSign | null): ColumnSurvey {
    const [denominator] = this.denominators.size === 1 ? this.denominators : [null];
    return {
      filled: this.filled,
      addresses: this.addresses,
      dates: this.dates,
      ages: this.ages,
      seen: this.seen,
      marks: this.marks,
      markKinds: this.kinds.size,
      grades: this.grades,
      scores: this.scores,
      isLetters: this.letters > 0 && this.letters + this.beside + this.nothings >= this.filled,
      isPercent: this.percents > 0 && this.percents + this.nothings === this.filled,
      denominator: denominator!,
      order: this.orders.order,
      decimal: this.decimals.sign ?? decimal,
      possible: this.possible,
    };
  }
}

/** “never” and “not yet”: somebody was not seen. */
export const saysNever = (cell: string): boolean => ['never', 'not yet'].includes(plainCell(cell));

const isPercent = (cell: string): boolean => cell.endsWith('%') && isNumberLike(cell.slice(0, -1).trimEnd());
const isNumberLike = (cell: string): boolean =>
  readNumber(cell, 'point') !== null ||
  (cell.endsWith('%') && readNumber(cell.slice(0, -1).trimEnd(), 'point') !== null);

/** The b of “a/b”, blanks allowed. */
function denominatorOf(cell: string): number | null {
  const slash = cell.indexOf('/');
  if (slash <= 0 || cell.indexOf('/', slash + 1) >= 0) return null;
  const [a, b] = [cell.slice(0, slash).trim(), cell.slice(slash + 1).trim()].map((t) =>
    readNumber(t, t.includes(',') && !t.includes('.') ? 'comma' : 'point'),
  );
  return typeof a === 'number' && typeof b === 'number' && b > 0 ? b : null;
}

/** Whether a cell is a date in some order of day and month; “today” and “yesterday” are dates too. */
function looksLikeDate(cell: string, draft: ImportDraft): boolean {
  if (/^(?:today|yesterday)\b/i.test(cell)) return true;
  if (cell.length < 4 || !/\d/.test(cell)) return false;
  const read = readDate(cell, {
    zone: draft.zone,
    order: 'unknown',
    frame: { start: 0, end: 365 * 1440 * MINUTE, asOf: 0 },
  });
  return read.ok || read.code !== 'date';
}

/** Whether a first column without a header holds names: over half of its cells are known people, or “Last, First”. */
const isName = (cell: string, draft: ImportDraft): boolean =>
  /^[^,\d]{1,80},\s*[^,\d]{1,80}$/.test(cell) || (cell !== '' && draft.peopleCalled(cell).length > 0);

/** Who a row says it is about, where that is nobody. */
function nobodyIn(cells: readonly string[], places: PersonPlaces): 'statistic' | 'possible' | null {
  const said = (place: number) => (place < 0 ? '' : (cells[place] ?? ''));
  const name = [places.name, places.lastName, places.firstName].map(said).find((text) => text !== '');
  if (name !== undefined) return nobodyOf(name);
  for (const place of [...places.ids, places.email]) {
    const found = nobodyOf(said(place));
    if (found) return found;
  }
  return null;
}

/** Walks through the table once. `places`: null for tables of one row a fact. */
export function* surveyOf(
  table: TextTable,
  places: PersonPlaces | null,
  draft: ImportDraft,
  letters: Readonly<Record<string, number>> | null = null,
  /** The column of scores of a table of one row a fact; its others are read by their fields. */
  scores = -1,
): Generator<void, Survey> {
  const columns = table.headers.map(() => new SurveyedColumn());
  const leftOut = new Set<number>();
  const called = new Map<string, number>();
  const bare =
    places !== null && table.headers[0] === '' && places.name < 0 && places.lastName < 0 && places.firstName < 0;
  // A lone column has notes and names alike.
  const below = places === null || table.headers.length < 2 ? null : new BelowTable(places.email);
  let [count, names, rows] = [0, 0, 0];
  for (const row of table.rows) {
    if (++rows % 500 === 0) yield;
    const nobody = places === null ? null : nobodyIn(row.cells, bare ? { ...places, name: 0 } : places);
    if (nobody !== null || (places !== null && repeatsHeader(row, table))) {
      leftOut.add(row.row);
      if (nobody === 'possible') row.cells.forEach((cell, i) => (columns[i]!.possible ??= cell === '' ? null : cell));
      continue;
    }
    if (below?.has(row, () => isKnown(row.cells, places!, draft))) {
      leftOut.add(row.row);
      continue;
    }
    count++;
    if (bare && isName(row.cells[0]!, draft)) names++;
    row.cells.forEach((cell, i) => {
      if (places === null && i !== scores) columns[i]!.seeFact(cell);
      else columns[i]!.see(isError(cell) ? '' : cell, row.numbers?.has(i) ?? false, draft, letters);
    });
    if (places) countName(row.cells, places, called);
  }
  const decimal = decimalOfFile(columns.map((c) => c.decimals.sign));
  return {
    columns: columns.map((c) => c.survey(decimal)),
    count,
    leftOut,
    namesakes: new Set([...called].flatMap(([name, n]) => (n > 1 ? [name] : []))),
    firstIsName: bare && names * 2 > count,
  };
}

/**
 * A table of what people did is walked through once, and surveyed on the way. Only where a date depends on how the others of its column
 * are written, all of them are looked at first.
 */
export class SurveyOnTheWay {
  private readonly table: TextTable;
  private readonly draft: ImportDraft;
  private readonly seen: readonly SurveyedColumn[];
  private rows = 0;
  private whole: Survey | null = null;

  constructor(table: TextTable, draft: ImportDraft) {
    this.table = table;
    this.draft = draft;
    this.seen = table.headers.map(() => new SurveyedColumn());
  }

  see(cells: readonly string[]): void {
    this.rows++;
    for (let i = 0; i < cells.length; i++) this.seen[i]!.seeFact(cells[i]!);
  }

  /** How all dates of a column are written. */
  orderOf(place: number): DayOrder {
    this.whole ??= runWhole(surveyOf(this.table, null, this.draft) as WorkInParts<Survey>);
    return this.whole.columns[place]!.order;
  }

  /** Of the rows so far. */
  get survey(): Pick<Survey, 'count' | 'columns'> {
    return { count: this.rows, columns: this.seen.map((column) => column.survey(null)) };
  }
}

/** Whether a row names somebody of the course by its id or its name. */
function isKnown(
  cells: readonly string[],
  { name, lastName, firstName, ids }: PersonPlaces,
  draft: ImportDraft,
): boolean {
  const said = (place: number) => (place < 0 ? '' : cells[place]!);
  if (ids.some((place) => draft.personById(said(place)) !== undefined)) return true;
  const found = nameOf({ name: said(name), firstName: said(firstName), lastName: said(lastName) });
  return found !== null && draft.peopleCalled(found).length > 0;
}

const repeatsHeader = (row: TableRow, { headers }: TextTable): boolean =>
  row.cells.every((cell, i) => cell.toLowerCase() === headers[i]!.toLowerCase());

/** Rows that have nothing but a name are told apart by it alone. */
function countName(cells: readonly string[], places: PersonPlaces, called: Map<string, number>): void {
  if ([...places.ids, places.email].some((place) => place >= 0 && cells[place] !== '')) return;
  const said = (place: number) => (place < 0 ? '' : cells[place]!);
  const name = nameOf({ name: said(places.name), firstName: said(places.firstName), lastName: said(places.lastName) });
  if (!name) return;
  const [plain] = namesOf(name);
  called.set(plain, (called.get(plain) ?? 0) + 1);
}
