/** What each column of a sheet of people means ([F1]): the first that fits, of what was told, a field, an item, or what the kind says. */
import type { LastSeenKind } from '../../activity/event.ts';
import { DAY } from '../../time/instant.ts';
import type { DraftItem, ImportDraft } from './draft.ts';
import { readDate, type DateReading, type DayOrder } from '../read/dates.ts';
import { REASON_HEADER } from '../read/csv.ts';
import { personField, type FieldName, type TableKind } from '../read/headers.ts';
import type { Survey } from './survey.ts';
import type { TextTable } from '../read/table.ts';
import {
  doneTitle,
  isGradingDate,
  isRemark,
  isTotal,
  lastSeenKind,
  soundsLikeItem,
  titleParts,
} from '../read/titles.ts';

export type ReasonLeftOut =
  | 'told'
  | 'total'
  | 'empty'
  | 'noHeader'
  | 'grading'
  | 'remark'
  | 'second'
  | 'beside'
  | 'reason'
  | 'reserved'
  | 'sendLog'
  | 'unread';

/** The item that a column is about. */
export interface Target {
  /** As its header says, without points. */
  readonly title: string;
  readonly points: number | null;
  /** Undefined: the course has none yet; null: somebody said that it is to be left out. */
  readonly item: DraftItem | null | undefined;
  /** Somebody said that it is to be made. */
  readonly isWanted: boolean;
  /** What a new one would have. */
  readonly fresh: { readonly group: string; readonly due: number | null };
}

export type ColumnMeaning =
  | { readonly as: 'field'; readonly field: FieldName }
  | { readonly as: 'lastSeen'; readonly kind: LastSeenKind }
  | { readonly as: 'attendance'; readonly target: Target }
  | { readonly as: 'doneOn'; readonly target: Target }
  | { readonly as: 'grade'; readonly target: Target }
  | { readonly as: 'own' }
  | { readonly as: 'leftOut'; readonly why: ReasonLeftOut };

/** What somebody can tell of a column, beside the fields: the texts that stand for it. */
export const TOLD_MEANINGS = ['grade', 'attendance', 'doneOn', 'lastSeen', 'own', 'leftOut'] as const;
export type ChosenMeaning = (typeof TOLD_MEANINGS)[number];

export interface SheetMeanings {
  readonly kind: TableKind;
  readonly columns: readonly ColumnMeaning[];
  /** Columns behind this one are another table; null if absent. */
  readonly cut: number | null;
}

export interface ColumnsToRead {
  readonly table: TextTable;
  readonly survey: Survey;
  readonly draft: ImportDraft;
  /** The kind that was told. */
  readonly kind: TableKind | undefined;
  readonly told: Readonly<Record<string, string>>;
  /** Points possible that somebody typed, by header ([F24]). */
  readonly outOf: Readonly<Record<string, number>>;
  /** How the headers write dates, as they prove together. */
  readonly headerOrder: DayOrder;
  readonly asOf: number;
}

export function meaningsOf(order: ColumnsToRead): SheetMeanings {
  const { table, survey, draft } = order;
  const cut = secondTable(table, survey);
  const fields = fieldsOfPeople(order, cut);
  const certain = table.headers.map((header, place) => certainMeaning(order, header, place, fields, cut));
  const kind = order.kind ?? kindBy(order, certain, fields);
  const groups = groupNames(draft, table);
  const columns = certain.map((meaning, place) => {
    const header = table.headers[place]!;
    // No program can keep something under such a name.
    if (header in Object.prototype && meaning?.as !== 'field') return leftOut('reserved');
    if (meaning) return meaning;
    if (isRemark(header) && !soundsLikeItem(titleParts(header).title))
      return kind === 'roster' ? OWN : leftOut('remark');
    if (kind === 'roster' && /^grade$/i.test(header)) return OWN;
    if (isTotal(header, groups)) return leftOut('total');
    return newMeaning(order, header, place) ?? byKind(order, kind, header, place);
  });
  return { kind, columns, cut };
}

const OWN: ColumnMeaning = { as: 'own' };
const leftOut = (why: ReasonLeftOut): ColumnMeaning => ({ as: 'leftOut', why });

/** A second column of names after an empty column begins another table. */
function secondTable({ headers }: TextTable, { columns }: Survey): number | null {
  const isName = (header: string) => ['name', 'lastName', 'firstName'].includes(personField(header) ?? '');
  const first = headers.findIndex(isName);
  if (first < 0) return null;
  const empty = headers.findIndex((header, i) => i > first && header === '' && columns[i]!.filled === 0);
  return empty >= 0 && headers.some((header, i) => i > empty && isName(header)) ? empty : null;
}

/** The field of each column; of two for one the first counts, and every id. */
function fieldsOfPeople({ table, told, survey }: ColumnsToRead, cut: number | null): (FieldName | null)[] {
  const taken = new Set<FieldName>();
  const isTold = (text: string | undefined) =>
    text !== undefined && text !== '' && !(TOLD_MEANINGS as readonly string[]).includes(text);
  const given = table.headers.map((header) => {
    const text = Object.hasOwn(told, header) ? told[header] : undefined;
    return isTold(text) ? (text === 'person' ? 'id' : text!) : null;
  });
  for (const field of given) if (field) taken.add(field);
  return table.headers.map((header, place) => {
    if (given[place]) return given[place];
    if (Object.hasOwn(told, header) || (cut !== null && place >= cut)) return null;
    if (place === 0 && survey.firstIsName) return 'name';
    const field = personField(header);
    if (field === null || (field !== 'id' && taken.has(field))) return null;
    taken.add(field);
    return field;
  });
}

/** What does not depend on the kind of the sheet; null where the kind decides. */
function certainMeaning(
  order: ColumnsToRead,
  header: string,
  place: number,
  fields: readonly (FieldName | null)[],
  cut: number | null,
): ColumnMeaning | null {
  const { table, survey, draft, told } = order;
  const column = survey.columns[place]!;
  if (cut !== null && place >= cut) return leftOut('beside');
  if (header === REASON_HEADER) return leftOut('reason');
  if (fields[place]) return { as: 'field', field: fields[place] };
  if (Object.hasOwn(told, header)) return toldMeaning(order, told[header]!, header, place);
  if (header === '') return leftOut(column.filled === 0 ? 'empty' : 'noHeader');
  if (personField(header) !== null) return null;
  const seen = lastSeenKind(header);
  if (seen) return { as: 'lastSeen', kind: seen };
  const target = targetOf(order, header, place);
  if (target.item !== undefined) {
    if (target.item?.kind === 'session') return { as: 'attendance', target };
    return column.dates * 2 > column.filled ? { as: 'doneOn', target } : { as: 'grade', target };
  }
  const done = doneTitle(header);
  const doneItem = done === null ? undefined : draft.knownItem(done);
  if (doneItem !== undefined) return { as: 'doneOn', target: { ...target, title: done!, item: doneItem } };
  if (draft.json.people.some((p) => p.fields && Object.hasOwn(p.fields, header))) return OWN;
  if (column.filled === 0) return leftOut('empty');
  if (isGradingDate(header)) return leftOut('grading');
  // An item of this very sheet that is yet to be made is done on dates of a column of its own.
  const ofSheet =
    done === null ? -1 : table.headers.findIndex((h) => titleParts(h).title.toLowerCase() === done.toLowerCase());
  if (ofSheet >= 0 && column.dates * 2 > column.filled)
    return { as: 'doneOn', target: { ...targetOf(order, table.headers[ofSheet]!, ofSheet), title: done! } };
  // Nor is one that is named here alone: dates are no marks and no grades.
  if (done !== null && soundsLikeItem(done) && column.dates * 2 > column.filled)
    return { as: 'doneOn', target: { ...target, title: done } };
  return null;
}

function toldMeaning(order: ColumnsToRead, text: string, header: string, place: number): ColumnMeaning {
  const target = targetOf(order, header, place);
  switch (text as ChosenMeaning) {
    case 'leftOut':
      return leftOut('told');
    case 'grade':
      return { as: 'grade', target };
    case 'attendance':
      return { as: 'attendance', target };
    case 'doneOn': {
      const done = doneTitle(header) ?? target.title;
      return { as: 'doneOn', target: { ...target, title: done, item: order.draft.knownItem(done) ?? target.item } };
    }
    case 'lastSeen':
      return { as: 'lastSeen', kind: lastSeenKind(header) ?? 'lastVisit' };
    default:
      return OWN;
  }
}

/** The item of a header: by its id or title, with or without points; for a date, the session on that day. */
function targetOf(order: ColumnsToRead, header: string, place: number): Target {
  const { draft, table, survey, outOf } = order;
  const date = readDate(header, headerDate(order));
  // “9/14” is a day, whichever its number of the month, and no item “9” of 14 points ([F23]).
  const isDate = date.ok || date.code === 'ambiguousDate';
  const { title, points } = isDate ? { title: header, points: null } : titleParts(header);
  const choice = draft.itemChoice(header) ?? draft.itemChoice(title);
  const known = () =>
    draft.knownItem(header) ?? draft.knownItem(title) ?? (date.ok ? draft.sessionOn(date.at) : undefined);
  const item =
    choice === 'nothing' ? null : choice === undefined || choice === 'new' ? known() : draft.knownItem(choice.item);
  const possible = survey.columns[place]!.possible;
  const due = date.ok ? draft.zone.toInstant(Math.floor(draft.zone.toWall(date.at) / DAY) * DAY) : null;
  const row = possible === null ? null : titleParts(`x (${possible})`).points;
  return {
    title,
    points: row ?? points ?? (Object.hasOwn(outOf, header) ? outOf[header]! : null),
    item,
    isWanted: choice === 'new',
    fresh: { group: table.groups[place]!, due },
  };
}

const headerDate = ({ draft, headerOrder, asOf }: ColumnsToRead): DateReading => ({
  zone: draft.zone,
  order: headerOrder,
  frame: draft.frame(asOf),
  inHeader: true,
});

/** A new item, by its points or its words and what its cells are; or a new session, by its date or its marks. */
function newMeaning(order: ColumnsToRead, header: string, place: number): ColumnMeaning | null {
  const column = order.survey.columns[place]!;
  if (personField(header) !== null) return null;
  const target = targetOf(order, header, place);
  const isItem = target.points !== null || (soundsLikeItem(target.title) && column.grades * 2 >= column.filled);
  if (isItem && target.fresh.due === null && !isAttendanceOnly(column)) return { as: 'grade', target };
  if (target.fresh.due !== null || (column.marks === column.filled && column.markKinds > 1))
    return { as: 'attendance', target };
  return isItem ? { as: 'grade', target } : null;
}

/** Marks of attendance that are nothing else: a “P” is no grade. */
const isAttendanceOnly = (column: Survey['columns'][number]): boolean =>
  column.marks === column.filled && column.markKinds > 1 && column.grades < column.filled;

function byKind(order: ColumnsToRead, kind: TableKind, header: string, place: number): ColumnMeaning {
  const column = order.survey.columns[place]!;
  if (personField(header) !== null) return kind === 'gradebook' || kind === 'attendance' ? leftOut('second') : OWN;
  const target = targetOf(order, header, place);
  if (kind === 'gradebook') return { as: 'grade', target };
  if (kind === 'attendance') return { as: 'attendance', target };
  if (kind === 'lastSeen' && column.filled > 0 && column.seen === column.filled && column.dates + column.ages > 0)
    return { as: 'lastSeen', kind: 'lastVisit' };
  return OWN;
}

const ROSTER_FIELDS: ReadonlySet<FieldName> = new Set(['firstName', 'role', 'section', 'active', 'enrolledAt']);

function kindBy(
  order: ColumnsToRead,
  certain: readonly (ColumnMeaning | null)[],
  fields: readonly (FieldName | null)[],
): TableKind {
  const { table, draft } = order;
  const groups = groupNames(draft, table);
  const found = certain.map((meaning, place) => {
    const header = table.headers[place]!;
    if (meaning || isTotal(header, groups) || (isRemark(header) && !soundsLikeItem(titleParts(header).title)))
      return meaning;
    return newMeaning(order, header, place);
  });
  const has = (as: ColumnMeaning['as']) => found.some((m) => m?.as === as);
  if (has('grade') || has('doneOn')) return 'gradebook';
  if (has('attendance')) return 'attendance';
  if (has('lastSeen')) return 'lastSeen';
  const hasField = (...names: readonly FieldName[]) => names.some((f) => fields.includes(f));
  const isRoster =
    fields.some((f) => f !== null && (ROSTER_FIELDS.has(f) || f.startsWith('contact '))) ||
    (hasField('name', 'lastName') && hasField('email')) ||
    (fields.some((f) => f !== null) && found.every((m) => m?.as === 'field' || m?.as === 'leftOut'));
  return isRoster ? 'roster' : 'columns';
}

/** The names of groups of items, those above the header too. */
const groupNames = (draft: ImportDraft, table: TextTable): string[] => [
  ...new Set([...draft.json.items!.flatMap((i) => i.group ?? []), ...table.groups.filter((g) => g !== '')]),
];
