/** Files merged into a course or a scenario, with a report of what each brought (format `zest-bell/import@1`). */
import type { WorkInParts } from '../../time/inParts.ts';
import { SCENARIO_FORMAT } from '../../scenario/format.ts';
import { importCalendar } from './calendarFile.ts';
import { csvRow, REASON_HEADER } from '../read/csv.ts';
import { ImportDraft, type ScenarioJson } from './draft.ts';
import { RefusedRow, type Question } from '../read/refused.ts';
import type { Outcome } from './facts.ts';
import { parseJson } from '../read/json.ts';
import { isTableKind, type ImportKind, type TableKind } from '../read/headers.ts';
import { oneRosterKind, importOneRoster, importOneRosterArchive } from './oneRoster.ts';
import type { ImportedFile, ImportOptions, ReadFile, RefusedLine } from './report.ts';
import type { RowPlace } from './row.ts';
import { importScenario } from './scenarioFile.ts';
import { sourceOf, type FileInput, type SourceText } from '../read/source.ts';
import { EMPTY_READING, longShapeOf, mendedTable, importTable, type TableReading } from './importTable.ts';
import type { TextTable } from '../read/table.ts';
import { UnreadableFile } from '../read/text.ts';
import { statementsOf, importStatement } from './xapi.ts';

export const draftOf = (scenario: ScenarioJson): ImportDraft => new ImportDraft(structuredClone(scenario));

/** Merges one file into the draft, which is changed. Throws `UnreadableFile` where the file as a whole cannot be trusted. */
export function* importFileInParts(file: FileInput, draft: ImportDraft, options: ImportOptions): WorkInParts<ReadFile> {
  const source = sourceOf(file, options.sheet, options.header);
  const table = source.form === 'table' ? mendedTable(source.table, options.mended) : null;
  const counts = { new: 0, changed: 0, same: 0 };
  const refused: (RefusedLine & { said: string | null })[] = [];
  // Cells as lines of their own: parts of a text would hold on to the piece of the file that they were cut from.
  const refusedRows = new Map<number, string>();
  const questions = new Map<string, Question>();
  const count = (outcome: Outcome) => void counts[outcome]++;
  const refuse = (at: RowPlace | number, why: RefusedRow, part?: string) => {
    const { row, line, cells = [] } = typeof at === 'number' ? { row: at, line: at } : at;
    const place = why.column === null ? -1 : (table?.headers.indexOf(why.column) ?? -1);
    const { column, code, message } = why;
    refused.push({ row, line, column, code, message, ...(part ? { part } : {}), said: cells[place] ?? null });
    if (cells.length > 0 && !refusedRows.has(row)) refusedRows.set(row, csvRow(withoutReason(cells, table!.headers)));
    if (why.question && questions.size < MOST_QUESTIONS) questions.set(JSON.stringify(why.question), why.question);
  };
  draft.choices = options.choices ?? {};
  draft.named.clear();
  const shape = kindOfSource(source, draft, options);
  let kind = shape;
  let read = 0;
  let found: TableReading = EMPTY_READING;
  if (table && isTableKind(shape)) {
    found = yield* importTable(table, shape, draft, options, refuse, count);
    kind = found.kind!;
    read = found.read;
  } else if (table) {
    read = importOneRoster([{ file: file.name, table }], draft, options.asOf, refuse, count);
  } else if (source.form === 'archive') {
    read = importOneRosterArchive(source.parts, draft, options.asOf, refuse, count);
  } else if (source.form === 'calendar') {
    read = importCalendar(source.text, draft, refuse, count);
  } else if (kind === 'scenario') {
    read = importScenario(parseJson(source.form === 'json' ? source.text : ''), draft, count);
  } else if (source.form === 'json') {
    for (const { row, json } of statementsOf(source.text)) {
      if (read++ % 500 === 0) yield;
      try {
        if (json === undefined) throw new RefusedRow(null, 'json', 'This line is no JSON');
        for (const outcome of importStatement(json, draft, { verbs: options.verbs, asOf: options.asOf }))
          count(outcome);
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
    refusedRows,
    sheets: source.form === 'table' ? source.sheets : [],
    headers: table?.headers ?? [],
    titles: table?.titles ?? [],
    headerLine: table?.headerLine ?? null,
    groupsLine: table?.groupsLine ?? null,
    firstRows: table ? truncatedRows(table.firstRows) : [],
    doubts: found.doubts,
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

/** The preview shows this much of the first rows. */
const MOST_CELLS = 60;
const LONGEST_SHOWN = 120;
export const truncatedRows = (rows: TextTable['firstRows']): TextTable['firstRows'] =>
  rows.map(({ line, cells }) => ({ line, cells: cells.slice(0, MOST_CELLS).map((c) => c.slice(0, LONGEST_SHOWN)) }));

/** The cells of a row, or the headers, but for what an earlier reading said of it. */
export const withoutReason = (cells: readonly string[], headers: readonly string[]): readonly string[] =>
  cells.filter((_, place) => headers[place] !== REASON_HEADER);

/** As the command prints it: nothing that only a screen needs. */
export function importFile(file: FileInput, draft: ImportDraft, options: ImportOptions): ImportedFile {
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
      doubts,
    } = value;
    return {
      file: name,
      kind,
      encoding,
      delimiter,
      sheet,
      columns,
      read,
      new: value.new,
      changed,
      same,
      ...(leftOut === undefined ? {} : { leftOut }),
      ...(added === undefined ? {} : { added }),
      refused: refused.map(({ said: _said, ...line }) => line),
      doubts,
    };
  }
}

/** A roster without any people is not treated as a roster. */
function missingFrom(draft: ImportDraft, kind: ImportKind): string[] {
  if ((kind !== 'roster' && kind !== 'oneroster') || draft.named.size === 0) return [];
  return draft.json.people
    .filter((p) => p.role === 'student' && (p.active ?? true) && !draft.named.has(p.id))
    .map((p) => p.id);
}

/** What a source is; what was told must fit its form. Of a sheet of people, its columns say more later. */
function kindOfSource(source: SourceText, draft: ImportDraft, { kind: told }: ImportOptions): ImportKind {
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

function foundKind(source: SourceText, draft: ImportDraft): ImportKind {
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
      parseJson(source.text);
    } catch (error) {
      if (error instanceof UnreadableFile) throw error;
      throw new UnreadableFile('This scenario file is no JSON that can be read.');
    }
    return 'scenario';
  }
  return oneRosterKind(source.table.headers) ? 'oneroster' : (longShapeOf(source.table, draft) ?? 'columns');
}

export type { TableKind };
