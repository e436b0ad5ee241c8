/** A table taken into a draft: two walks, one for what its columns are, one for what its rows say. */
import { dayOrderOf, type DayOrder } from '../read/dates.ts';
import type { ImportDraft } from './draft.ts';
import { EARLIER_LOG_TITLES, LOG_TITLES } from '../../nudges/logTitles.ts';
import { doubtsOf, type Doubt } from './doubts.ts';
import type { Outcome } from './facts.ts';
import {
  fieldsOf,
  isLong,
  longKindOf,
  namesPerson,
  personField,
  withoutZone,
  type FieldName,
  type ImportKind,
  type TableKind,
} from '../read/headers.ts';
import { meaningsOf, type ColumnMeaning } from './meanings.ts';
import type { RefusedRow } from '../read/refused.ts';
import type { ImportOptions, ReadColumn, ReadFile } from './report.ts';
import type { RowPlace } from './row.ts';
import { surveyOf, SurveyOnTheWay, type PersonPlaces } from './survey.ts';
import { mustDiffer, type TextTable, type TableRow } from '../read/table.ts';
import { importRows } from './importRows.ts';
import { SAMPLE, importSheet, type ReadCell, type SheetTally } from './importSheet.ts';
import { UnreadableFile } from '../read/text.ts';
import { kindByWords, titleParts } from '../read/titles.ts';

const CORRECTABLE: ReadonlySet<ImportKind> = new Set<ImportKind>(['activity', 'gradebook', 'attendance', 'lastSeen']);

/** A table with the cells that somebody mended. */
export function mendedTable(table: TextTable, mended: ImportOptions['mended']): TextTable {
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
export interface TableReading {
  readonly kind: TableKind | null;
  readonly read: number;
  readonly fields: readonly (FieldName | null)[];
  readonly leftOut: number;
  readonly added: { readonly people: number; readonly items: number };
  readonly offered: { readonly people: number; readonly items: number };
  readonly differs: number;
  readonly doubts: readonly Doubt[];
  readonly tally: SheetTally | null;
  readonly meanings: readonly ReadColumn[];
  readonly sample: ReadFile['sample'];
  readonly hasLetters: boolean;
  readonly hasAges: boolean;
  readonly cut: number | null;
  readonly dayOrders: Readonly<Record<string, DayOrder>>;
}

const NOBODY = { people: 0, items: 0 } as const;
export const EMPTY_READING: TableReading = {
  kind: null,
  read: 0,
  fields: [],
  leftOut: 0,
  added: NOBODY,
  offered: NOBODY,
  differs: 0,
  tally: null,
  doubts: [],
  meanings: [],
  sample: [],
  hasLetters: false,
  hasAges: false,
  cut: null,
  dayOrders: {},
};

/** Two walks: what its columns are, then what its rows say. */
export function* importTable(
  table: TextTable,
  shape: TableKind,
  draft: ImportDraft,
  options: ImportOptions,
  refuse: (at: RowPlace, why: RefusedRow) => void,
  count: (outcome: Outcome) => void,
): Generator<void, TableReading> {
  const { told = {}, asOf, dayOrders = {}, isCorrection = false, outOf = {} } = options;
  if (options.kind === undefined && isSendLog(table.headers)) return readSendLog(table);
  const add = { people: options.add?.people ?? false, items: options.add?.items ?? false };
  const longFields = fieldsOf(table.headers, shape, told);
  const mayNot = 'Only activity, gradebooks, attendance and lists of last visits can be taken back.';
  if (isLong(shape, longFields) && (options.kind !== undefined || longShapeOf(table, draft) !== null)) {
    mustDiffer(table.headers);
    if (isCorrection && !CORRECTABLE.has(shape)) throw new UnreadableFile(mayNot);
    const scores = longFields.indexOf('points');
    const given =
      shape === 'activity'
        ? new SurveyOnTheWay(table, draft)
        : yield* surveyOf(table, null, draft, draft.json.course.letters ?? null, scores);
    const order = { table, survey: given, fields: longFields, draft, asOf, isCorrection, dayOrders, add };
    const taken = yield* importRows(shape, order, refuse, count);
    const survey = given instanceof SurveyOnTheWay ? given.survey : given;
    return {
      ...EMPTY_READING,
      ...taken,
      kind: shape,
      read: survey.count,
      fields: longFields,
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
    outOf,
    headerOrder,
    asOf,
  });
  mustDiffer(table.headers.slice(0, sheet.cut ?? undefined), (place) => sheet.columns[place]!.as !== 'leftOut');
  if (isCorrection && !CORRECTABLE.has(sheet.kind)) throw new UnreadableFile(mayNot);
  const order = { table, survey, meanings: sheet, draft, asOf, isCorrection, dayOrders, add };
  const taken = yield* importSheet(order, refuse, count);
  const isRoster = sheet.kind === 'roster';
  return {
    ...taken,
    kind: sheet.kind,
    read: survey.count + survey.leftOut.size,
    cut: sheet.cut,
    // The scenario format calls who a fact is about its person.
    fields: sheet.columns.map((m) => (m.as !== 'field' ? null : m.field === 'id' && !isRoster ? 'person' : m.field)),
    meanings: sheet.columns.map((meaning, i) => ({
      ...readColumn(meaning, survey.columns[i]!.filled),
      asksPoints: taken.withoutPoints.includes(i),
    })),
    doubts: doubtsOf(table, survey, sheet.columns),
    hasLetters: sheet.columns.some((m, i) => m.as === 'grade' && survey.columns[i]!.isLetters),
    hasAges: sheet.columns.some((m, i) => m.as === 'lastSeen' && survey.columns[i]!.ages > 0),
    dayOrders: ordersOf(table, survey.columns),
  };
}

const FACT = {
  as: 'fact',
  item: null,
  isNew: false,
  itemKind: null,
  points: null,
  leftOut: null,
  group: null,
  asksPoints: false,
} as const;

const ordersOf = ({ headers }: TextTable, columns: readonly { readonly order: DayOrder }[]) =>
  Object.fromEntries(headers.map((h, i) => [h, columns[i]!.order]));

function readColumn(meaning: ColumnMeaning, filled: number): Omit<ReadColumn, 'asksPoints'> {
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
    group: isNew ? target.fresh.group || null : null,
  };
}

/** Reads an exported send log: nothing is imported and no row is refused ([F25]). */
function readSendLog(table: TextTable): TableReading {
  const filled = table.headers.map(() => 0);
  const sample: { line: number; cells: ReadCell[] }[] = [];
  let rows = 0;
  for (const { line, cells } of table.rows) {
    rows++;
    cells.forEach((cell, i) => (filled[i]! += cell === '' ? 0 : 1));
    if (sample.length < SAMPLE) sample.push({ line, cells: cells.map((said) => ({ said, read: '' })) });
  }
  const column = (n: number) => ({ ...readColumn({ as: 'leftOut', why: 'sendLog' }, n), asksPoints: false });
  return {
    ...EMPTY_READING,
    kind: 'columns',
    read: rows,
    leftOut: rows,
    fields: table.headers.map(() => null),
    sample,
    meanings: filled.map(column),
  };
}

/** Whether the first columns are those of an exported send log. Later versions may have added columns after them. */
function isSendLog(headers: readonly string[]): boolean {
  const titles = Object.values(LOG_TITLES);
  const names = headers.map((header) => EARLIER_LOG_TITLES[withoutZone(header)] ?? withoutZone(header));
  return titles.every((title, i) => names[i] === title);
}

/** Where a row says whom it is about, by its headers and what was told. */
function placesOf({ headers }: TextTable, told: Readonly<Record<string, string>>): PersonPlaces {
  const fields = headers.map((h) => (Object.hasOwn(told, h) && told[h] !== 'person' ? told[h]! : personField(h)));
  const first = (field: FieldName) => fields.indexOf(field);
  return {
    name: first('name'),
    lastName: first('lastName'),
    firstName: first('firstName'),
    email: first('email'),
    ids: fields.flatMap((f, i) => (f === 'id' || f === 'person' ? [i] : [])),
  };
}

/** A table that says neither who nor what its rows are about is not read as a table ([F15]). */
function mustBeAboutSomebody(
  { headers }: TextTable,
  firstIsName: boolean,
  told: Readonly<Record<string, string>>,
  draft: ImportDraft,
): void {
  const isTold = (header: string) => ['id', 'person', 'name', 'lastName', 'email'].includes(told[header] ?? '');
  if (firstIsName || headers.some((h) => namesPerson(h) || isTold(h) || isItem(draft, h))) return;
  throw new UnreadableFile('Nothing in this file says who or what its rows are about.');
}

const isItem = (draft: ImportDraft, header: string): boolean =>
  (draft.knownItem(header) ?? draft.knownItem(titleParts(header).title)) !== undefined;

export const longShapeOf = ({ headers }: TextTable, draft: ImportDraft) =>
  longKindOf(headers, (header) => isItem(draft, header));
