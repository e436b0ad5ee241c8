/** Takes the rows of a table of one row a fact, or an item: each is new, changed, the same, or refused with its column and reason. */
import type { DayOrder } from '../read/dates.ts';
import type { ImportDraft } from './draft.ts';
import type { Outcome } from './facts.ts';
import type { FieldName, LongKind } from '../read/headers.ts';
import type { Instant } from '../../time/instant.ts';
import { RefusedRow } from '../read/refused.ts';
import { Additions, callsOut, FieldRow, type Refuse, type RowImporter } from './row.ts';
import { SurveyOnTheWay, type Survey } from './survey.ts';
import type { TextTable } from '../read/table.ts';
import { importActivity } from './importActivity.ts';
import { importAttendance } from './importAttendance.ts';
import { importGrades } from './importGrades.ts';
import { importItems } from './importItems.ts';
import type { ReadCell, SheetReport } from './importSheet.ts';

const TAKE: Readonly<Record<LongKind, RowImporter>> = {
  items: importItems,
  activity: importActivity,
  gradebook: importGrades,
  attendance: importAttendance,
};

/** Rows that are taken before others get their turn, and that a screen shows. */
const PART = 500;
const SAMPLE = 8;

export interface TableImport {
  readonly table: TextTable;
  readonly survey: Survey | SurveyOnTheWay;
  readonly fields: readonly (FieldName | null)[];
  readonly draft: ImportDraft;
  readonly asOf: Instant;
  readonly isCorrection: boolean;
  readonly dayOrders: Readonly<Record<string, DayOrder>>;
  readonly add: { readonly people: boolean; readonly items: boolean };
}

/** `refuse` is told of each row that is not taken, `count` of each outcome. */
export function* importRows(
  kind: LongKind,
  order: TableImport,
  refuse: Refuse,
  count: (outcome: Outcome) => void,
): Generator<void, Pick<SheetReport, 'added' | 'offered' | 'sample'>> {
  const { table, survey, fields, draft, dayOrders, asOf, isCorrection } = order;
  const [onTheWay, whole] = survey instanceof SurveyOnTheWay ? [survey, null] : [null, survey];
  const places = new Map<FieldName, number>();
  fields.forEach((field, place) => field !== null && places.set(field, place));
  const layout = {
    places,
    headers: table.headers,
    orderOf: (place: number): DayOrder => {
      const header = table.headers[place]!;
      if (Object.hasOwn(dayOrders, header)) return dayOrders[header]!;
      return onTheWay ? onTheWay.orderOf(place) : whole.columns[place]!.order;
    },
    decimals: whole?.columns.map((c) => c.decimal) ?? [],
  };
  const additions = new Additions(draft, order.add);
  const take = TAKE[kind]({
    draft,
    table,
    survey: whole,
    fields,
    asOf,
    isCorrection,
    person: (row) => additions.person(row),
    item: (row, field = 'item') => additions.item(row, field),
  });
  const sample: { line: number; cells: ReadCell[] }[] = [];
  for (const at of table.rows) {
    if (at.row % PART === 0) yield;
    onTheWay?.see(at.cells);
    const isShown = sample.length < SAMPLE;
    const row = new FieldRow(at, layout, isShown);
    let why: RefusedRow | null = null;
    try {
      const formula = at.cells.findIndex(callsOut);
      if (formula >= 0) {
        const message = 'This cell holds a formula that runs something. Replace it by its value';
        throw new RefusedRow(table.headers[formula]!, 'formula', message);
      }
      for (const outcome of take(row)) count(outcome);
    } catch (error) {
      if (!(error instanceof RefusedRow)) throw error;
      why = error;
      refuse(at, error);
    }
    if (isShown) sample.push({ line: at.line, cells: shown(row, why) });
  }
  return { added: additions.added, offered: additions.offered, sample };
}

/** The cells of a row as they were read. */
const shown = (row: FieldRow, why: RefusedRow | null): ReadCell[] =>
  row.at.cells.map((said, place) =>
    why !== null && why.column === row.layout.headers[place]
      ? { said, read: why.message, refused: true }
      : { said, read: row.read.get(place) ?? said },
  );
