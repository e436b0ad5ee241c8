/** Files merged into a course or a scenario, with a report of what each brought (format `zest-bell/import@1`). */
import type { InParts } from '../rounds/replay.ts';
import { SCENARIO_FORMAT } from '../scenario/format.ts';
import type { Instant } from '../time/instant.ts';
import { takeCalendar } from './calendarFile.ts';
import { dayOrderOf, type DayOrder } from './dates.ts';
import { Draft, type Choices, type ScenarioJson } from './draft.ts';
import { RefusedRow, type Question } from './refused.ts';
import type { Outcome } from './facts.ts';
import {
  fieldsOf,
  isLong,
  isTableKind,
  longKindOf,
  namesPerson,
  personField,
  type FieldName,
  type ImportKind,
  type TableKind,
} from './headers.ts';
import { meaningsOf, type ColumnMeaning, type LeftOutWhy } from './meanings.ts';
import { oneRosterKind, takeOneRoster, takeOneRosterArchive } from './oneRoster.ts';
import { takeScenario } from './scenarioFile.ts';
import { sourceOf, type FileInput, type Source } from './source.ts';
import { surveyOf, type PersonPlaces } from './survey.ts';
import { mustDiffer, type Table, type TableRow } from './table.ts';
import { takeRows } from './take.ts';
import { takeSheet, type ReadCell, type SheetTally } from './takeSheet.ts';
import { kindByWords, titleParts } from './titles.ts';
import type { ItemKind } from '../course/item.ts';
import type { RowPlace } from './row.ts';
import { UnreadableFile, type Encoding } from './text.ts';
import { statementsOf, takeStatement, type VerbMeaning } from './xapi.ts';

export const IMPORT_FORMAT = 'zest-bell/import@1';

export interface RefusedLine {
  /** Counts records, the header being 1; lines of JSON lines. */
  readonly row: number;
  /** The row of the sheet, or the line of the text at which the record begins; from 1, titles included. */
  readonly line: number;
  readonly column: string | null;
  readonly code: string;
  readonly message: string;
  /** Which file of an archive. */
  readonly part?: string;
}

export interface ImportedFile {
  readonly file: string;
  readonly kind: ImportKind;
  /** Null for workbooks and archives. */
  readonly encoding: Encoding | null;
  readonly delimiter: string | null;
  readonly sheet: string | null;
  /** Which field each column was read as; columns that are kept under their own names are not in it. */
  readonly columns: Readonly<Record<string, FieldName>>;
  /** Records below the header. */
  readonly read: number;
  readonly new: number;
  readonly changed: number;
  readonly same: number;
  /** Rows that name nobody; only where there are some. */
  readonly leftOut?: number;
  /** Of what was offered; only where there is some. */
  readonly added?: { readonly people: number; readonly items: number };
  readonly refused: readonly RefusedLine[];
}

/** What a column of a table is, for a screen. */
export interface ReadColumn {
  readonly as: ColumnMeaning['as'] | 'fact';
  readonly field: FieldName | null;
  /** The title of the item that it is about. */
  readonly item: string | null;
  /** The course has no such item yet. */
  readonly isNew: boolean;
  /** What a new item would be; null for a known one, and where the column is about none. */
  readonly itemKind: ItemKind | null;
  readonly points: number | null;
  readonly leftOut: LeftOutWhy | null;
  /** How many of its cells are filled. */
  readonly filled: number;
}

/** What a screen shows besides. */
export interface ReadFile extends Omit<ImportedFile, 'refused'> {
  readonly sheets: readonly string[];
  readonly headers: readonly string[];
  readonly meanings: readonly ReadColumn[];
  /** With what the cell says, where it is one cell. */
  readonly refused: readonly (RefusedLine & { readonly said: string | null })[];
  /** The first rows, as they stand in the file and as they are read. */
  readonly sample: readonly { readonly line: number; readonly cells: readonly ReadCell[] }[];
  readonly titles: readonly string[];
  /** What the course lacks, and could be added. */
  readonly offered: { readonly people: number; readonly items: number };
  /** Fields of people that differ from what is known, and stay as they are known. */
  readonly differs: number;
  readonly tally: SheetTally | null;
  /** A column holds letters for grades. */
  readonly hasLetters: boolean;
  /** A list of ages counts back from the file's own instant. */
  readonly hasAges: boolean;
  /** Columns behind this one are another table, which is not read; null where there is none. */
  readonly cut: number | null;
  /** In which order each column writes day and month, where it has such dates. */
  readonly dayOrders: Readonly<Record<string, DayOrder>>;
  /** What could be asked so that more of it can be taken, each once. */
  readonly questions: readonly Question[];
  /** Active students whom a roster does not name. */
  readonly missing: readonly string[];
}

export interface ImportOptions {
  /** What the file is; found from its content unless given. */
  readonly kind?: ImportKind | undefined;
  /** Fields by header, before what is found; an empty one keeps a column as it is. */
  readonly told?: Readonly<Record<string, FieldName>> | undefined;
  readonly asOf: Instant;
  /** Of a workbook. */
  readonly sheet?: string | undefined;
  readonly dayOrders?: Readonly<Record<string, DayOrder>> | undefined;
  readonly choices?: Choices | undefined;
  /** Meanings of xAPI verbs of the course’s own. */
  readonly verbs?: Readonly<Record<string, VerbMeaning>> | undefined;
  /** Cells that somebody mended before the file is taken: by the number of their row and their header. */
  readonly mended?: Readonly<Record<string, Readonly<Record<string, string>>>> | undefined;
  /** What the course lacks and the file brings: added where it is so. */
  readonly add?: { readonly people?: boolean | undefined; readonly items?: boolean | undefined } | undefined;
  /** What the file says is wrong and is taken back; for activity, gradebooks, attendance and lists of last visits. */
  readonly isCorrection?: boolean | undefined;
}

export const draftOf = (scenario: ScenarioJson): Draft => new Draft(structuredClone(scenario));

/** Merges one file into the draft, which is changed. Throws `UnreadableFile` where the file as a whole cannot be trusted. */
export function* importFileInParts(file: FileInput, draft: Draft, options: ImportOptions): InParts<ReadFile> {
  const source = sourceOf(file, options.sheet);
  const table = source.form === 'table' ? mendedTable(source.table, options.mended) : null;
  const counts = { new: 0, changed: 0, same: 0 };
  const refused: (RefusedLine & { said: string | null })[] = [];
  const questions = new Map<string, Question>();
  const count = (outcome: Outcome) => void counts[outcome]++;
  const refuse = (at: RowPlace | number, why: RefusedRow, part?: string) => {
    const { row, line, cells = [] } = typeof at === 'number' ? { row: at, line: at } : at;
    const place = why.column === null ? -1 : (table?.headers.indexOf(why.column) ?? -1);
    const { column, code, message } = why;
    refused.push({ row, line, column, code, message, ...(part ? { part } : {}), said: cells[place] ?? null });
    if (why.question && questions.size < MOST_QUESTIONS) questions.set(JSON.stringify(why.question), why.question);
  };
  draft.choices = options.choices ?? {};
  draft.named.clear();
  const shape = kindOfSource(source, draft, options);
  let kind = shape;
  let read = 0;
  let found: TableReading = EMPTY_READING;
  if (table && isTableKind(shape)) {
    found = yield* takeTable(table, shape, draft, options, refuse, count);
    kind = found.kind!;
    read = found.read;
  } else if (table) {
    read = takeOneRoster([{ file: file.name, table }], draft, options.asOf, refuse, count);
  } else if (source.form === 'archive') {
    read = takeOneRosterArchive(source.parts, draft, options.asOf, refuse, count);
  } else if (source.form === 'calendar') {
    read = takeCalendar(source.text, draft, refuse, count);
  } else if (kind === 'scenario') {
    read = takeScenario(JSON.parse(source.form === 'json' ? source.text : '') as unknown, draft, count);
  } else if (source.form === 'json') {
    for (const { row, json } of statementsOf(source.text)) {
      if (read++ % 500 === 0) yield;
      try {
        if (json === undefined) throw new RefusedRow(null, 'json', 'This line is no JSON');
        for (const outcome of takeStatement(json, draft, { verbs: options.verbs, asOf: options.asOf })) count(outcome);
      } catch (error) {
        if (!(error instanceof RefusedRow)) throw error;
        refuse(row, error);
      }
    }
  }
  return {
    file: file.name,
    kind,
    encoding: source.form === 'archive' ? null : source.encoding,
    delimiter: table?.delimiter ?? null,
    sheet: source.form === 'table' ? source.sheet : null,
    columns: Object.fromEntries(found.fields.flatMap((field, i) => (field ? [[table!.headers[i]!, field]] : []))),
    read,
    ...counts,
    ...(found.leftOut > 0 ? { leftOut: found.leftOut } : {}),
    ...(found.added.people + found.added.items > 0 ? { added: found.added } : {}),
    refused,
    sheets: source.form === 'table' ? source.sheets : [],
    headers: table?.headers ?? [],
    titles: table?.titles ?? [],
    meanings: found.meanings,
    sample: found.sample,
    offered: found.offered,
    differs: found.differs,
    tally: found.tally,
    hasLetters: found.hasLetters,
    hasAges: found.hasAges,
    cut: found.cut,
    dayOrders: found.dayOrders,
    questions: [...questions.values()],
    missing: missingFrom(draft, kind),
  };
}

const MOST_QUESTIONS = 100;
const CORRECTABLE: ReadonlySet<ImportKind> = new Set<ImportKind>(['activity', 'gradebook', 'attendance', 'lastSeen']);

/** As the command prints it: nothing that only a screen needs. */
export function importFile(file: FileInput, draft: Draft, options: ImportOptions): ImportedFile {
  const parts = importFileInParts(file, draft, options);
  for (;;) {
    const part = parts.next();
    if (!part.done) continue;
    const { value } = part;
    const {
      file: name,
      kind,
      encoding,
      delimiter,
      sheet,
      columns,
      read,
      changed,
      same,
      leftOut,
      added,
      refused,
    } = value;
    return {
      ...{ file: name, kind, encoding, delimiter, sheet, columns, read, new: value.new, changed, same },
      ...(leftOut === undefined ? {} : { leftOut }),
      ...(added === undefined ? {} : { added }),
      refused: refused.map(({ said: _said, ...line }) => line),
    };
  }
}

/** A table with the cells that somebody mended. */
function mendedTable(table: Table, mended: ImportOptions['mended']): Table {
  if (mended === undefined || Object.keys(mended).length === 0) return table;
  function* rows(): Generator<TableRow> {
    for (const row of table.rows) {
      const own = Object.hasOwn(mended!, String(row.row)) ? mended![String(row.row)]! : null;
      if (own === null) {
        yield row;
        continue;
      }
      const isMended = (place: number) => Object.hasOwn(own, table.headers[place]!);
      const cells = row.cells.map((cell, place) => (isMended(place) ? own[table.headers[place]!]!.trim() : cell));
      yield { ...row, cells, numbers: new Set([...(row.numbers ?? [])].filter((place) => !isMended(place))) };
    }
  }
  return { ...table, rows: { [Symbol.iterator]: rows } };
}

/** What the reading of a table came to. */
interface TableReading {
  readonly kind: TableKind | null;
  readonly read: number;
  readonly fields: readonly (FieldName | null)[];
  readonly leftOut: number;
  readonly added: { readonly people: number; readonly items: number };
  readonly offered: { readonly people: number; readonly items: number };
  readonly differs: number;
  readonly tally: SheetTally | null;
  readonly meanings: readonly ReadColumn[];
  readonly sample: ReadFile['sample'];
  readonly hasLetters: boolean;
  readonly hasAges: boolean;
  readonly cut: number | null;
  readonly dayOrders: Readonly<Record<string, DayOrder>>;
}

const NOBODY = { people: 0, items: 0 } as const;
const EMPTY_READING: TableReading = {
  ...{ kind: null, read: 0, fields: [], leftOut: 0, added: NOBODY, offered: NOBODY, differs: 0, tally: null },
  ...{ meanings: [], sample: [], hasLetters: false, hasAges: false, cut: null, dayOrders: {} },
};

/** Two walks: what its columns are, then what its rows say. */
function* takeTable(
  table: Table,
  shape: TableKind,
  draft: Draft,
  options: ImportOptions,
  refuse: (at: RowPlace, why: RefusedRow) => void,
  count: (outcome: Outcome) => void,
): Generator<void, TableReading> {
  const { told = {}, asOf, dayOrders = {}, isCorrection = false } = options;
  const add = { people: options.add?.people ?? false, items: options.add?.items ?? false };
  const longFields = fieldsOf(table.headers, shape, told);
  const mayNot = 'Only activity, gradebooks, attendance and lists of last visits can be taken back.';
  if (isLong(shape, longFields) && (options.kind !== undefined || longShapeOf(table, draft) !== null)) {
    mustDiffer(table.headers);
    if (isCorrection && !CORRECTABLE.has(shape)) throw new UnreadableFile(mayNot);
    const scores = longFields.indexOf('points');
    const survey = yield* surveyOf(table, null, draft, draft.json.course.letters ?? null, scores);
    const order = { table, survey, fields: longFields, draft, asOf, isCorrection, dayOrders, add };
    const taken = yield* takeRows(shape, order, refuse, count);
    return {
      ...EMPTY_READING,
      ...taken,
      ...{ kind: shape, read: survey.count, fields: longFields },
      meanings: table.headers.map((_, i) => ({ ...FACT, field: longFields[i]!, filled: survey.columns[i]!.filled })),
      dayOrders: ordersOf(table, survey.columns),
    };
  }
  const letters = draft.json.course.letters ?? null;
  const survey = yield* surveyOf(table, placesOf(table, told), draft, letters);
  mustBeAboutSomebody(table, survey.firstIsName, told, draft);
  const headerOrder = dayOrderOf(table.headers);
  const sheet = meaningsOf({
    table,
    survey,
    draft,
    kind: options.kind === undefined ? undefined : shape,
    told,
    headerOrder,
    asOf,
  });
  mustDiffer(table.headers.slice(0, sheet.cut ?? undefined), (place) => sheet.columns[place]!.as !== 'leftOut');
  if (isCorrection && !CORRECTABLE.has(sheet.kind)) throw new UnreadableFile(mayNot);
  const order = { table, survey, meanings: sheet, draft, asOf, isCorrection, dayOrders, add };
  const taken = yield* takeSheet(order, refuse, count);
  const isRoster = sheet.kind === 'roster';
  return {
    ...taken,
    ...{ kind: sheet.kind, read: survey.count + survey.leftOut.size, cut: sheet.cut },
    // The scenario format calls who a fact is about its person.
    fields: sheet.columns.map((m) => (m.as !== 'field' ? null : m.field === 'id' && !isRoster ? 'person' : m.field)),
    meanings: sheet.columns.map((meaning, i) => readColumn(meaning, survey.columns[i]!.filled)),
    hasLetters: sheet.columns.some((m, i) => m.as === 'grade' && survey.columns[i]!.isLetters),
    hasAges: sheet.columns.some((m, i) => m.as === 'lastSeen' && survey.columns[i]!.ages > 0),
    dayOrders: ordersOf(table, survey.columns),
  };
}

const FACT = { as: 'fact', item: null, isNew: false, itemKind: null, points: null, leftOut: null } as const;

const ordersOf = ({ headers }: Table, columns: readonly { readonly order: DayOrder }[]) =>
  Object.fromEntries(headers.map((h, i) => [h, columns[i]!.order]));

function readColumn(meaning: ColumnMeaning, filled: number): ReadColumn {
  const target = 'target' in meaning ? meaning.target : null;
  const isNew = target?.item === undefined && target !== null;
  return {
    as: meaning.as,
    field: meaning.as === 'field' ? meaning.field : null,
    item: target ? (target.item?.title ?? target.title) : null,
    isNew,
    itemKind:
      !isNew || target === null
        ? null
        : meaning.as === 'attendance'
          ? 'session'
          : (kindByWords(target.title) ?? 'assignment'),
    points: target ? (target.item?.points ?? target.points) : null,
    leftOut: meaning.as === 'leftOut' ? meaning.why : null,
    filled,
  };
}

/** Where a row says whom it is about, by its headers and what was told. */
function placesOf({ headers }: Table, told: Readonly<Record<string, string>>): PersonPlaces {
  const fields = headers.map((h) => (Object.hasOwn(told, h) && told[h] !== 'person' ? told[h]! : personField(h)));
  const first = (field: FieldName) => fields.indexOf(field);
  return {
    ...{ name: first('name'), lastName: first('lastName'), firstName: first('firstName'), email: first('email') },
    ids: fields.flatMap((f, i) => (f === 'id' || f === 'person' ? [i] : [])),
  };
}

/** A table that says neither who nor what its rows are about is none ([F15]). */
function mustBeAboutSomebody(
  { headers }: Table,
  firstIsName: boolean,
  told: Readonly<Record<string, string>>,
  draft: Draft,
): void {
  const isTold = (header: string) => ['id', 'person', 'name', 'lastName', 'email'].includes(told[header] ?? '');
  if (firstIsName || headers.some((h) => namesPerson(h) || isTold(h) || isItem(draft, h))) return;
  throw new UnreadableFile('Nothing in this file says who or what its rows are about.');
}

const isItem = (draft: Draft, header: string): boolean =>
  (draft.knownItem(header) ?? draft.knownItem(titleParts(header).title)) !== undefined;

const longShapeOf = ({ headers }: Table, draft: Draft) => longKindOf(headers, (header) => isItem(draft, header));

/** A roster that names nobody is none. */
function missingFrom(draft: Draft, kind: ImportKind): string[] {
  if ((kind !== 'roster' && kind !== 'oneroster') || draft.named.size === 0) return [];
  return draft.json.people
    .filter((p) => p.role === 'student' && (p.active ?? true) && !draft.named.has(p.id))
    .map((p) => p.id);
}

/** What a source is; what was told must fit its form. Of a sheet of people, its columns say more later. */
function kindOfSource(source: Source, draft: Draft, { kind: told }: ImportOptions): ImportKind {
  const found = foundKind(source, draft);
  if (told === undefined || told === found) return found;
  // The columns of a table may be read in several ways; anything else is what it is.
  if (source.form === 'table' && isTableKind(told)) return told;
  const words = found === 'columns' ? 'a sheet of people' : KIND_WORDS[found];
  throw new UnreadableFile(`This file is ${words} and cannot be read as ${KIND_WORDS[told]}.`);
}

const KIND_WORDS: Readonly<Record<ImportKind, string>> = {
  roster: 'a roster',
  items: 'a list of items',
  gradebook: 'a gradebook',
  activity: 'a list of activity',
  attendance: 'an attendance list',
  columns: 'a list of columns',
  lastSeen: 'a list of last visits',
  oneroster: 'a OneRoster export',
  xapi: 'a list of xAPI statements',
  calendar: 'a calendar',
  scenario: 'a scenario file',
};

function foundKind(source: Source, draft: Draft): ImportKind {
  if (source.form === 'archive') {
    if (
      [...source.parts.keys()].some((name) => /(^|\/)(manifest|users|enrollments|lineItems|results)\.csv$/i.test(name))
    )
      return 'oneroster';
    throw new UnreadableFile('This archive is neither a workbook nor a OneRoster export.');
  }
  if (source.form === 'calendar') return 'calendar';
  if (source.form === 'json') {
    const isScenario = source.text.slice(0, 4096).includes(SCENARIO_FORMAT);
    if (!isScenario) return 'xapi';
    try {
      JSON.parse(source.text);
    } catch {
      throw new UnreadableFile('This scenario file is no JSON that can be read.');
    }
    return 'scenario';
  }
  return oneRosterKind(source.table.headers) ? 'oneroster' : (longShapeOf(source.table, draft) ?? 'columns');
}

export type { TableKind };
