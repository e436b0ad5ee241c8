/** Takes a sheet of one row a person: whom each row is about, and what its cells say, column by column. */
import { BOUNDS } from '../../course/bounds.ts';
import { ownColumn } from '../../course/changes.ts';
import { LONGEST_CELL } from '../../course/entry.ts';
import type { ItemKind } from '../../course/item.ts';
import { DOING } from '../../measures/catalogue/done.ts';
import type { Instant } from '../../time/instant.ts';
import type { DayOrder } from '../read/dates.ts';
import { slugOf, type ImportDraft, type DraftItem, type DraftPerson } from './draft.ts';
import type { Outcome } from './facts.ts';
import type { ColumnMeaning, SheetMeanings, Target } from './meanings.ts';
import { RefusedRow } from '../read/refused.ts';
import { callsOut, excuse, type Refuse } from './row.ts';
import {
  doneCell,
  gradeCell,
  gradeWords,
  markCell,
  MARK_WORDS,
  mustBeNoError,
  seenCell,
  whenWords,
  type CellContext,
} from './sheetCells.ts';
import { SheetPeople } from './sheetPeople.ts';
import type { Survey } from './survey.ts';
import type { TextTable, TableRow } from '../read/table.ts';
import { mayExceed } from './importGrades.ts';
import { kindByWords } from '../read/titles.ts';

export interface SheetImport {
  readonly table: TextTable;
  readonly survey: Survey;
  readonly meanings: SheetMeanings;
  readonly draft: ImportDraft;
  readonly asOf: Instant;
  readonly isCorrection: boolean;
  readonly dayOrders: Readonly<Record<string, DayOrder>>;
  /** What the course lacks and is added. */
  readonly add: { readonly people: boolean; readonly items: boolean };
}

/** A cell as it is, and as it is read; `refused` where it is not taken. */
export interface ReadCell {
  readonly said: string;
  readonly read: string;
  readonly refused?: boolean;
}

/** What came of each sort of cell. */
export interface SheetTally {
  /** New ones. */
  people: number;
  grades: number;
  excused: number;
  marks: number;
  done: number;
  seen: number;
  own: number;
}

export interface SheetReport {
  readonly leftOut: number;
  readonly added: { readonly people: number; readonly items: number };
  /** What the course lacks, and could be added. */
  readonly offered: { readonly people: number; readonly items: number };
  readonly differs: number;
  /** Grade columns for items without points possible ([F24]). */
  readonly withoutPoints: readonly number[];
  readonly tally: SheetTally;
  readonly sample: readonly { readonly line: number; readonly cells: readonly ReadCell[] }[];
}

/** Rows that are taken before others get their turn, and that a screen shows. */
const PART = 500;
export const SAMPLE = 8;

/** What a cell came to. */
interface CellOutcome {
  readonly outcomes: readonly Outcome[];
  /** Asked for where somebody looks. */
  readonly words: () => string;
  readonly isExcuse?: boolean;
}
const NOTHING: CellOutcome = { outcomes: [], words: () => '' };

/** A column that says something of each person. */
interface CellColumn {
  readonly place: number;
  readonly sort: Exclude<keyof SheetTally, 'people'>;
  readonly take: (cell: string, row: TableRow, person: DraftPerson) => CellOutcome;
}

export function* importSheet(
  order: SheetImport,
  refuse: Refuse,
  count: (outcome: Outcome) => void,
): Generator<void, SheetReport> {
  const { table, survey, meanings, draft, isCorrection, add } = order;
  const { kind } = meanings;
  const isRoster = kind === 'roster';
  const people = new SheetPeople({
    draft,
    survey,
    isRoster,
    isCorrection,
    headers: table.headers,
    asOf: order.asOf,
    fields: meanings.columns.map((m) => (m.as === 'field' ? m.field : null)),
    orderOf: (place) => orderOf(order, place),
    mayAdd: isRoster || add.people,
  });
  const items = targetsOf(order, refuse, count);
  const columns = meanings.columns.flatMap(
    (meaning, place) => cellColumn(order, meaning, place, items.of(place)) ?? [],
  );
  // Columns of which nothing is taken.
  const idle = meanings.columns.flatMap(({ as }, place) =>
    as === 'field' || columns.some((c) => c.place === place) ? [] : [place],
  );
  const tally: SheetTally = { people: 0, grades: 0, excused: 0, marks: 0, done: 0, seen: 0, own: 0 };
  const sample: { line: number; cells: ReadCell[] }[] = [];
  let [leftOut, addedPeople, rows] = [survey.leftOut.size, 0, 0];
  for (const row of table.rows) {
    if (++rows % PART === 0) yield;
    if (survey.leftOut.has(row.row)) continue;
    const shown =
      sample.length < SAMPLE
        ? row.cells.map((said): { -readonly [K in keyof ReadCell]: ReadCell[K] } => ({ said, read: said }))
        : null;
    if (shown) sample.push({ line: row.line, cells: shown });
    const refuseCell = (error: unknown) => {
      if (!(error instanceof RefusedRow)) throw error;
      refuse(row, error);
      const at = error.column === null ? -1 : table.headers.indexOf(error.column);
      if (shown?.[at]) Object.assign(shown[at], { read: error.message, refused: true });
    };
    if (draft.isNobody(people.who(row))) {
      leftOut++;
      continue;
    }
    let found;
    try {
      mustNotCallOut(row, table, meanings);
      found = people.take(row);
    } catch (error) {
      // Nothing of the row is taken.
      for (const cell of shown ?? []) cell.read = '';
      refuseCell(error);
      continue;
    }
    const { person, outcome, isLater } = found;
    if (shown) {
      for (const place of idle) shown[place]!.read = '';
      sayPerson(shown, meanings, person, outcome);
    }
    if (outcome === 'new') {
      tally.people++;
      if (!isRoster) addedPeople++;
    }
    const outcomes: Outcome[] = [];
    let [isChanged, isRefused] = [false, false];
    for (const column of columns) {
      if (isLater && column.sort === 'own') continue;
      try {
        const { outcomes: own, words, isExcuse = false } = column.take(row.cells[column.place]!, row, person);
        // An own column is the person's, and no fact beside them.
        if (column.sort === 'own') isChanged ||= own.length > 0;
        else outcomes.push(...own);
        if (own.some((o) => o !== 'same')) tally[isExcuse ? 'excused' : column.sort]++;
        if (shown) shown[column.place]!.read = words();
      } catch (error) {
        refuseCell(error);
        isRefused = true;
      }
    }
    for (const own of outcomes) count(own);
    // The person of a row once, and the same only if nothing else of the row counts ([F16]).
    const own = outcome === 'same' && isChanged ? 'changed' : outcome;
    if (own !== 'same' || (outcomes.length === 0 && !isRefused)) count(own);
  }
  const offered = { people: people.offered, items: items.offered };
  return {
    leftOut,
    added: { people: addedPeople, items: items.added },
    offered,
    differs: people.differs,
    withoutPoints: columns.flatMap(({ place, sort }) =>
      !isCorrection && sort === 'grades' && items.of(place)?.points == null && survey.columns[place]!.scores > 0
        ? [place]
        : [],
    ),
    tally,
    sample,
  };
}

const orderOf = ({ table, survey, dayOrders }: SheetImport, place: number): DayOrder => {
  const header = table.headers[place]!;
  return (Object.hasOwn(dayOrders, header) ? dayOrders[header] : undefined) ?? survey.columns[place]!.order;
};

/** A spreadsheet would run such a cell when it is opened in it again. */
function mustNotCallOut(row: TableRow, { headers }: TextTable, { columns }: SheetMeanings): void {
  const place = row.cells.findIndex((cell, i) => columns[i]!.as !== 'leftOut' && callsOut(cell));
  if (place < 0) return;
  const message = 'This cell holds a formula that runs something. Replace it by its value';
  throw new RefusedRow(headers[place]!, 'formula', message);
}

/** In the cell of the name: who it is, and whether they are new. */
function sayPerson(shown: { read: string }[], { columns }: SheetMeanings, person: DraftPerson, outcome: Outcome): void {
  const place = ['name', 'lastName', 'firstName', 'email', 'id']
    .map((field) => columns.findIndex((m) => m.as === 'field' && m.field === field))
    .find((at) => at >= 0);
  if (place === undefined) return;
  const name = `${person.firstName} ${person.lastName}`.trim();
  shown[place]!.read = outcome === 'new' ? `${name}, new` : name;
}

/** The items of the columns: known ones get their points, those that the course lacks are made, or refused and offered. */
function targetsOf(order: SheetImport, refuse: Refuse, count: (outcome: Outcome) => void) {
  const { table, survey, meanings, draft, add, isCorrection } = order;
  const mayAdd = add.items || meanings.kind === 'roster';
  const items = new Map<number, DraftItem>();
  const unknown: { place: number; target: Target }[] = [];
  let [added, offered] = [0, 0];
  const makeOrOffer = (place: number, meaning: ColumnMeaning, target: Target) => {
    if ((mayAdd || target.isWanted) && !isCorrection) {
      try {
        items.set(place, makeItem(draft, meaning, target, survey.columns[place]!));
        added++;
      } catch (error) {
        if (!(error instanceof RefusedRow)) throw error;
        refuse({ row: 1, line: table.headerLine }, error);
      }
      return;
    }
    offered++;
    refuse({ row: 1, line: table.headerLine }, draft.unknownItem(table.headers[place]!, table.headers[place]!));
  };
  meanings.columns.forEach((meaning, place) => {
    if (!('target' in meaning)) return;
    const { target } = meaning;
    const column = survey.columns[place]!;
    if (target.item) {
      items.set(place, target.item);
      if (!isCorrection && meaning.as === 'grade') givePoints(target.item, target, column, count);
      return;
    }
    if (target.item === null) return;
    if (meaning.as === 'doneOn') return void unknown.push({ place, target });
    if (column.filled > 0) makeOrOffer(place, meaning, target);
  });
  // What was done on a date may be an item of another column of this sheet.
  for (const { place, target } of unknown) {
    const item = draft.knownItem(target.title);
    if (item) items.set(place, item);
    else makeOrOffer(place, meanings.columns[place]!, target);
  }
  return { of: (place: number) => items.get(place) ?? null, added, offered };
}

/** What a column shows of the points possible where neither its header nor a row says them. */
const shownPoints = ({ denominator, isPercent, isLetters }: Survey['columns'][number]): number | null =>
  denominator ?? (isPercent || isLetters ? 100 : null);

/** Points of header or row are given where missing, and replaced where they differ: once a column. */
function givePoints(
  item: DraftItem,
  { points }: Target,
  column: Survey['columns'][number],
  count: (outcome: Outcome) => void,
): void {
  if (points !== null && item.points !== points) {
    count(item.points == null ? 'new' : 'changed');
    item.points = points;
  } else if (item.points == null) {
    const shown = shownPoints(column);
    if (shown !== null) item.points = shown;
  }
}

function makeItem(
  draft: ImportDraft,
  meaning: ColumnMeaning,
  { title, points, fresh }: Target,
  column: Survey['columns'][number],
): DraftItem {
  const isSession = meaning.as === 'attendance';
  const item: DraftItem = {
    id: draft.freeId(slugOf(title)),
    title,
    kind: isSession ? 'session' : (kindByWords(title) ?? 'assignment'),
  };
  const possible = points ?? (meaning.as === 'grade' ? shownPoints(column) : null);
  if (possible !== null) item.points = possible;
  if (fresh.group !== '') item.group = fresh.group;
  if (fresh.due !== null && isSession) item.dueAt = draft.write(fresh.due);
  draft.addItem(item);
  return item;
}

function cellColumn(
  order: SheetImport,
  meaning: ColumnMeaning,
  place: number,
  item: DraftItem | null,
): CellColumn | null {
  const { draft, asOf, isCorrection, table, survey } = order;
  const header = table.headers[place]!;
  const { facts } = draft;
  const context: CellContext = {
    header,
    draft,
    asOf,
    column: survey.columns[place]!,
    order: orderOf(order, place),
    letters: draft.json.course.letters ?? null,
  };
  const event = (person: DraftPerson, what: Parameters<typeof facts.addEvent>[0]['kind'], at: Instant) => ({
    person: person.id,
    kind: what,
    item: item?.id ?? null,
    at,
  });
  switch (meaning.as) {
    case 'grade':
      if (!item) return null;
      return {
        place,
        sort: 'grades',
        take(cell, row, person) {
          const said = gradeCell(cell, row.numbers?.has(place) ?? false, item, context);
          const words = () => gradeWords(said, item);
          if (said.says === 'nothing') return NOTHING;
          if (said.says === 'excused')
            return { outcomes: isCorrection ? [] : [excuse(item, person)], words, isExcuse: true };
          const grade = { person: person.id, item: item.id, criterion: null, points: said.points, at: asOf };
          if (isCorrection) return { outcomes: [facts.removeGrade(grade)], words };
          return { outcomes: [mayExceed(draft, grade, item, header) ? facts.addGrade(grade) : 'same'], words };
        },
      };
    case 'attendance':
      if (!item) return null;
      return {
        place,
        sort: 'marks',
        take(cell, _row, person) {
          const mark = markCell(cell, header);
          if (mark === null) return NOTHING;
          if (mark === 'excused')
            return { outcomes: isCorrection ? [] : [excuse(item, person)], words: () => 'excused', isExcuse: true };
          const day = item.opensAt ?? item.dueAt;
          if (!day) {
            const message = `“${item.title}” has no day, so nobody knows when this was`;
            throw new RefusedRow(header, 'noDate', message);
          }
          const told = event(person, mark, Date.parse(day));
          return {
            outcomes: [isCorrection ? facts.removeMark(told) : facts.setMark(told)],
            words: () => MARK_WORDS[mark],
          };
        },
      };
    case 'doneOn':
      if (!item) return null;
      return {
        place,
        sort: 'done',
        take(cell, _row, person) {
          const at = doneCell(cell, context);
          if (at === null) return NOTHING;
          const told = event(person, DOING[item.kind as ItemKind], at);
          return {
            outcomes: [isCorrection ? facts.removeEvent(told) : facts.addEvent(told)],
            words: () => whenWords(at, draft),
          };
        },
      };
    case 'lastSeen':
      return {
        place,
        sort: 'seen',
        take(cell, _row, person) {
          const seen = seenCell(cell, context);
          if (!seen) return NOTHING;
          const words = () => whenWords(seen.at, draft);
          const told = { person: person.id, kind: meaning.kind, item: null, at: seen.at };
          if (isCorrection) return { outcomes: [facts.removeEvent(told)], words };
          const { within, at } = seen;
          if (within !== null && facts.hasPresence(person.id, meaning.kind, at - within, at + within))
            return { outcomes: ['same'], words };
          return { outcomes: [facts.addEvent(told)], words };
        },
      };
    case 'own':
      if (isCorrection) return null;
      return {
        place,
        sort: 'own',
        take(cell, _row, person) {
          mustBeNoError(cell, header);
          if ((person.fields?.[header] ?? '') === cell) {
            if (cell !== '') draft.again.say('people', person.id, [ownColumn(header)]);
            return { outcomes: [], words: () => cell };
          }
          mustHaveRoom(person, header, cell);
          person.fields = { ...person.fields, [header]: cell };
          return { outcomes: ['changed'], words: () => cell };
        },
      };
    default:
      return null;
  }
}

/** Throws `RefusedRow` for more of own columns than a person has. */
function mustHaveRoom({ fields = {} }: DraftPerson, header: string, cell: string): void {
  if (cell.length > LONGEST_CELL || header.length > BOUNDS.line)
    throw new RefusedRow(header, 'tooLong', `A cell that is kept has at most ${LONGEST_CELL} characters`);
  if (!Object.hasOwn(fields, header) && Object.keys(fields).length >= BOUNDS.fields)
    throw new RefusedRow(header, 'tooMany', `A person has at most ${BOUNDS.fields} own columns`);
}
