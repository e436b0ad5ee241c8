/** Files merged into a course or a scenario, with a report of what each brought (format `zest-bell/import@1`). */
import type { InParts } from '../rounds/replay.ts';
import { SCENARIO_FORMAT } from '../scenario/format.ts';
import type { Instant } from '../time/instant.ts';
import { takeCalendar } from './calendarFile.ts';
import { readDate, type DayOrder } from './dates.ts';
import { Draft, type Choices, type ScenarioJson } from './draft.ts';
import { RefusedRow, type Question } from './refused.ts';
import type { Outcome } from './facts.ts';
import { fieldsOf, isTableKind, kindOf, type FieldName, type ImportKind, type TableKind } from './headers.ts';
import { oneRosterKind, takeOneRoster, takeOneRosterArchive } from './oneRoster.ts';
import { takeScenario } from './scenarioFile.ts';
import { sourceOf, type FileInput, type Source } from './source.ts';
import type { Table } from './table.ts';
import { takeRows } from './take.ts';
import { UnreadableFile, type Encoding } from './text.ts';
import { statementsOf, takeStatement, type VerbMeaning } from './xapi.ts';

export const IMPORT_FORMAT = 'zest-bell/import@1';

export interface RefusedLine {
  /** Counts records, the header being 1; lines of JSON lines. */
  readonly row: number;
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
  readonly refused: readonly RefusedLine[];
}

/** What a screen shows besides. */
export interface ReadFile extends ImportedFile {
  readonly sheets: readonly string[];
  readonly headers: readonly string[];
  /** The first rows, as they stand in the file. */
  readonly sample: readonly (readonly string[])[];
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
  /** What the file says is wrong and is taken back; for activity, gradebooks and attendance. */
  readonly isCorrection?: boolean | undefined;
}

export const draftOf = (scenario: ScenarioJson): Draft => new Draft(structuredClone(scenario));

const SAMPLE = 5;

/** Merges one file into the draft, which is changed. Throws `UnreadableFile` where the file as a whole cannot be trusted. */
export function* importFileInParts(file: FileInput, draft: Draft, options: ImportOptions): InParts<ReadFile> {
  const source = sourceOf(file, options.sheet);
  const counts = { new: 0, changed: 0, same: 0 };
  const refused: RefusedLine[] = [];
  const questions = new Map<string, Question>();
  const count = (outcome: Outcome) => void counts[outcome]++;
  const refuse = (row: number, why: RefusedRow, part?: string) => {
    refused.push({ row, column: why.column, code: why.code, message: why.message, ...(part ? { part } : {}) });
    if (why.question && questions.size < MOST_QUESTIONS) questions.set(JSON.stringify(why.question), why.question);
  };
  draft.choices = options.choices ?? {};
  draft.named.clear();
  const kind = kindOfSource(source, draft, options.kind);
  let read = 0;
  let fields: (FieldName | null)[] = [];
  const table = source.form === 'table' ? source.table : null;
  if (table && isTableKind(kind)) {
    fields = fieldsOf(table.headers, kind, options.told);
    if (options.isCorrection && !CORRECTABLE.has(kind))
      throw new UnreadableFile('Only activity, gradebooks and attendance can be taken back.');
    const taking = {
      draft,
      table,
      fields,
      asOf: options.asOf,
      isCorrection: options.isCorrection ?? false,
      dayOrders: options.dayOrders,
    };
    yield* takeRows(kind, taking, refuse, count);
    read = table.count;
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
    columns: Object.fromEntries(fields.flatMap((field, i) => (field ? [[table!.headers[i]!, field]] : []))),
    read,
    ...counts,
    refused,
    sheets: source.form === 'table' ? source.sheets : [],
    headers: table?.headers ?? [],
    sample: table ? sampleOf(table) : [],
    dayOrders: table ? Object.fromEntries(table.headers.map((h, i) => [h, table.orders[i]!])) : {},
    questions: [...questions.values()],
    missing: missingFrom(draft, kind),
  };
}

const MOST_QUESTIONS = 100;
const CORRECTABLE: ReadonlySet<ImportKind> = new Set<ImportKind>(['activity', 'gradebook', 'attendance']);

/** As the command prints it: nothing that only a screen needs. */
export function importFile(file: FileInput, draft: Draft, options: ImportOptions): ImportedFile {
  const parts = importFileInParts(file, draft, options);
  for (;;) {
    const part = parts.next();
    if (!part.done) continue;
    const { file: name, kind, encoding, delimiter, sheet, columns, read, changed, same, refused } = part.value;
    return { file: name, kind, encoding, delimiter, sheet, columns, read, new: part.value.new, changed, same, refused };
  }
}

function sampleOf(table: Table): string[][] {
  const sample: string[][] = [];
  for (const { cells } of table.rows) {
    if (sample.push([...cells]) === SAMPLE) break;
  }
  return sample;
}

/** A roster that names nobody is none. */
function missingFrom(draft: Draft, kind: ImportKind): string[] {
  if ((kind !== 'roster' && kind !== 'oneroster') || draft.named.size === 0) return [];
  return draft.json.people
    .filter((p) => p.role === 'student' && (p.active ?? true) && !draft.named.has(p.id))
    .map((p) => p.id);
}

/** What a source is; `told` must fit its form. */
function kindOfSource(source: Source, draft: Draft, told: ImportKind | undefined): ImportKind {
  const found = foundKind(source, draft);
  if (told === undefined || told === found) return found;
  // The columns of a table may be read in several ways; anything else is what it is.
  if (source.form === 'table' && isTableKind(told)) return told;
  throw new UnreadableFile(`This file is ${KIND_WORDS[found]} and cannot be read as ${KIND_WORDS[told]}.`);
}

const KIND_WORDS: Readonly<Record<ImportKind, string>> = {
  roster: 'a roster',
  items: 'a list of items',
  gradebook: 'a gradebook',
  activity: 'a list of activity',
  attendance: 'an attendance list',
  columns: 'a list of columns',
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
  const { headers } = source.table;
  return oneRosterKind(headers) ? 'oneroster' : kindOf(headers, (header) => itemKindOf(draft, header));
}

function itemKindOf(draft: Draft, header: string): 'session' | 'item' | null {
  const date = readDate(header, draft.zone, 'unknown');
  const item =
    draft.item(header) ??
    draft.item(header.replace(/\s*[([].*$/, '')) ??
    (date.ok ? draft.sessionOn(date.at) : undefined);
  return item ? (item.kind === 'session' ? 'session' : 'item') : null;
}

export type { TableKind };
