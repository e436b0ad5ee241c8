/** Takes the rows of one kind of file into a draft: each row is new, changed, the same, or refused with its column and reason. */
import { EVENT_KINDS, NEEDS_ITEM, type EventKind } from '../activity/event.ts';
import { ITEM_KINDS } from '../course/item.ts';
import { ROLES } from '../course/person.ts';
import { formatInstant, type Instant } from '../time/instant.ts';
import { dayOrderOf, readDate, type DayOrder } from './dates.ts';
import {
  RefusedRow,
  nameOf,
  type Draft,
  type DraftEvent,
  type DraftGrade,
  type DraftItem,
  type DraftPerson,
} from './draft.ts';
import { CONTACT, type FieldName, type ImportKind } from './headers.ts';
import type { Table } from './table.ts';

export type Outcome = 'new' | 'changed' | 'same';

/** One row by its fields; own columns and the columns of items by their headers. */
export class Row {
  readonly cells: ReadonlyMap<FieldName, string>;
  private readonly headerOf: ReadonlyMap<FieldName, string>;
  private readonly orders: ReadonlyMap<string, DayOrder>;

  constructor(cells: Row['cells'], headerOf: Row['headerOf'], orders: Row['orders']) {
    this.cells = cells;
    this.headerOf = headerOf;
    this.orders = orders;
  }

  get(field: FieldName): string {
    return this.cells.get(field) ?? '';
  }

  readonly column = (field: FieldName): string | null => this.headerOf.get(field) ?? null;

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
    const read = readDate(text, draft.zone, this.orders.get(this.column(field) ?? '') ?? 'unknown', endOfDay);
    if (read.ok) return read.at;
    return this.refuse(field, read.code, DATE_SENTENCES[read.code](text));
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

function numberOf(text: string, column: string | null): number {
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
}

type TakeRow = (row: Row) => Outcome[];

/** Every outcome of a file, in its order; `refuse` is told of each row or cell that is not taken. */
export function takeRows(kind: ImportKind, given: Taking, refuse: (row: number, why: RefusedRow) => void): Outcome[] {
  const { table, fields } = given;
  const headerOf = new Map(fields.flatMap((field, i) => (field ? [[field, table.headers[i]!] as const] : [])));
  const orders = new Map(table.headers.map((h, i) => [h, dayOrderOf(table.rows.map((r) => r.cells[i]!))]));
  const others = table.headers.filter((h, i) => h !== '' && fields[i] === null);
  const take = TAKE[kind](given, others, refuse);
  const outcomes: Outcome[] = [];
  for (const { row, cells } of table.rows) {
    const byField = new Map(cells.map((cell, i) => [fields[i] ?? table.headers[i]!, cell]));
    try {
      outcomes.push(...take(new Row(byField, headerOf, orders), row));
    } catch (error) {
      if (!(error instanceof RefusedRow)) throw error;
      refuse(row, error);
    }
  }
  return outcomes;
}

type Take = (
  given: Taking,
  others: readonly string[],
  refuse: (row: number, why: RefusedRow) => void,
) => (row: Row, number: number) => ReturnType<TakeRow>;

const TAKE: Readonly<Record<ImportKind, Take>> = {
  roster: (given, others) => (row) => [takePerson(given, others, row)],
  items: (given) => (row) => [takeItem(given, row)],
  columns: (given, others) => (row) => {
    const person = given.draft.person(row.who, row.column);
    return [setFields(person, others, row) ? 'changed' : 'same'];
  },
  activity: activityTaker,
  gradebook: gradebookTaker,
  attendance: attendanceTaker,
};

function takePerson({ draft }: Taking, others: readonly string[], row: Row): Outcome {
  const id = row.get('id');
  const email = row.get('email');
  if (email !== '' && !/^[^\s@]+@[^\s@]+\.[^\s@]+$/.test(email)) {
    row.refuse('email', 'address', `“${email}” is no email address. Type one such as ada@college.example`);
  }
  const known =
    (id === '' ? undefined : draft.personById(id)) ?? (email === '' ? undefined : draft.personByEmail(email));
  const name = nameOf(row.who);
  if (!known && id === '' && email === '') row.refuse('id', 'noId', 'This row has neither an id nor an address');
  if (!known && !name) row.refuse('name', 'noName', 'This row has no name');
  const before = known && JSON.stringify(known);
  const person: DraftPerson = known ?? {
    id: id || email.toLowerCase(),
    firstName: '',
    lastName: '',
    role: 'student',
    enrolledAt: formatInstant(
      draft.zone.toInstant(Date.parse(`${draft.json.course.start}T00:00:00Z`)),
      draft.json.course.timeZone,
    ),
  };
  // Read before anything is written: a row is taken whole or not at all.
  const role = row.get('role') === '' ? null : roleOf(row);
  const active = row.get('active') === '' ? null : activeOf(row);
  const enrolledAt = row.instant('enrolledAt', draft);
  const contacts = contactsOf(row);
  if (name) Object.assign(person, name);
  if (email !== '') person.email = email;
  if (role !== null) person.role = role;
  if (row.get('section') !== '') person.section = row.get('section');
  if (active !== null) person.active = active;
  if (enrolledAt !== null) person.enrolledAt = formatInstant(enrolledAt, draft.json.course.timeZone);
  for (const contact of contacts) {
    const rest = (person.contacts ?? []).filter((c) => c.kind !== contact.kind);
    person.contacts = [...rest, contact];
  }
  setFields(person, others, row);
  if (!known) draft.json.people.push(person);
  if (JSON.stringify(person) === before) return 'same';
  draft.changed();
  return known ? 'changed' : 'new';
}

const ROLE_WORDS: Readonly<Record<string, string>> = {
  learner: 'student',
  teacher: 'instructor',
  faculty: 'instructor',
  ta: 'assistant',
  'teaching assistant': 'assistant',
  auditor: 'observer',
};

function roleOf(row: Row): string {
  const text = row.get('role').toLowerCase();
  const role = ROLES.find((r) => r === text) ?? ROLE_WORDS[text];
  return role ?? row.refuse('role', 'role', `“${row.get('role')}” is no role. Use ${ROLES.join(', ')}`);
}

function activeOf(row: Row): boolean {
  const text = row.get('active').toLowerCase();
  if (['true', 'yes', 'y', '1', 'active', 'enrolled'].includes(text)) return true;
  if (['false', 'no', 'n', '0', 'inactive', 'dropped', 'withdrawn'].includes(text)) return false;
  return row.refuse('active', 'yesNo', `“${row.get('active')}” is neither yes nor no`);
}

function contactsOf(row: Row): { kind: string; name: string; email: string }[] {
  const kinds = new Map<string, { name: string; email: string }>();
  for (const [field, cell] of row.cells) {
    const [, kind, isEmail] = CONTACT.exec(field) ?? [];
    if (kind === undefined || cell === '') continue;
    const contact = kinds.get(kind) ?? { name: '', email: '' };
    kinds.set(kind, isEmail ? { ...contact, email: cell } : { ...contact, name: cell });
  }
  return [...kinds].flatMap(([kind, contact]) => (contact.email === '' ? [] : [{ kind, ...contact }]));
}

/** Own columns, blank ones too where there was something before. Returns whether anything changed. */
function setFields(person: DraftPerson, columns: readonly string[], row: Row): boolean {
  let changed = false;
  for (const column of columns) {
    const value = row.get(column);
    if ((person.fields?.[column] ?? '') === value) continue;
    person.fields = { ...person.fields, [column]: value };
    changed = true;
  }
  return changed;
}

const KIND_WORDS: Readonly<Record<string, string>> = {
  homework: 'assignment',
  lab: 'assignment',
  essay: 'assignment',
  test: 'quiz',
  exam: 'quiz',
  discussion: 'forum',
  file: 'page',
  reading: 'page',
  drill: 'practice',
  exercise: 'practice',
  class: 'session',
  lecture: 'session',
  meeting: 'session',
};

function takeItem({ draft }: Taking, row: Row): Outcome {
  const title = row.get('title');
  const id = row.get('id');
  const known = draft.item(id) ?? (id === '' ? draft.item(title) : undefined);
  if (!known && title === '') row.refuse('title', 'noTitle', 'This row has no title');
  const before = known && JSON.stringify(known);
  const word = row.get('kind').toLowerCase();
  const kind = ITEM_KINDS.find((k) => k === word) ?? KIND_WORDS[word];
  if (word !== '' && !kind)
    row.refuse('kind', 'kind', `“${row.get('kind')}” is no kind of item. Use ${ITEM_KINDS.join(', ')}`);
  const points = row.number('points');
  if (points !== null && points < 0) row.refuse('points', 'negative', 'Points possible cannot be negative');
  const [opensAt, dueAt] = [row.instant('opensAt', draft), row.instant('dueAt', draft, true)];
  const item: DraftItem = known ?? { id: id || slugOf(title), title, kind: 'assignment' };
  if (!known && draft.item(item.id))
    row.refuse('title', 'sameId', `An item “${item.id}” is there already. Give this one an id`);
  if (title !== '') item.title = title;
  if (kind) item.kind = kind;
  if (row.get('group') !== '') item.group = row.get('group');
  if (points !== null) item.points = points;
  const write = (at: Instant) => formatInstant(at, draft.json.course.timeZone);
  if (opensAt !== null) item.opensAt = write(opensAt);
  if (dueAt !== null) item.dueAt = write(dueAt);
  if (!known) draft.json.items!.push(item);
  if (JSON.stringify(item) === before) return 'same';
  draft.changed();
  return known ? 'changed' : 'new';
}

const slugOf = (title: string): string =>
  title
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '') || 'item';

const ACT_WORDS: Readonly<Record<string, EventKind>> = {
  login: 'signIn',
  'log in': 'signIn',
  'sign in': 'signIn',
  'signed in': 'signIn',
  view: 'open',
  viewed: 'open',
  opened: 'open',
  read: 'open',
  visited: 'visit',
  access: 'visit',
  submission: 'submit',
  submitted: 'submit',
  posted: 'post',
  reply: 'post',
  practiced: 'practice',
  attempted: 'practice',
  completed: 'complete',
  attended: 'attend',
  present: 'attend',
};

function activityTaker({ draft }: Taking): (row: Row) => Outcome[] {
  const keyOf = (e: DraftEvent) => `${e.person}\n${e.kind}\n${e.item ?? ''}\n${Date.parse(e.at)}`;
  const known = new Set(draft.json.events!.map(keyOf));
  return (row) => {
    const person = draft.person(row.who, row.column);
    const word = row.get('kind');
    const kind = EVENT_KINDS.find((k) => k.toLowerCase() === word.toLowerCase()) ?? ACT_WORDS[word.toLowerCase()];
    if (!kind) row.refuse('kind', 'kind', `“${word}” is no kind of activity. Use ${EVENT_KINDS.join(', ')}`);
    const item = row.get('item') === '' ? null : draft.item(row.get('item'));
    if (item === undefined) row.refuse('item', 'unknownItem', `There is no item “${row.get('item')}” in this course`);
    if (!item && NEEDS_ITEM.has(kind!)) row.refuse('item', 'noItem', `“${kind}” needs an item`);
    const at = row.instant('at', draft);
    if (at === null) row.refuse('at', 'date', 'This row has no date');
    return addEvent(
      draft,
      {
        person: person.id,
        kind: kind!,
        ...(item ? { item: item.id } : {}),
        at: formatInstant(at!, draft.json.course.timeZone),
      },
      known,
      keyOf,
    );
  };
}

function addEvent(draft: Draft, event: DraftEvent, known: Set<string>, keyOf: (e: DraftEvent) => string): Outcome[] {
  if (known.has(keyOf(event))) return ['same'];
  known.add(keyOf(event));
  draft.json.events!.push(event);
  return ['new'];
}

/** Grades by person, item and criterion: the latest points as of an instant, so that what did not change is told. */
class GradeBook {
  private readonly latest = new Map<string, DraftGrade>();
  private readonly draft: Draft;

  constructor(draft: Draft) {
    this.draft = draft;
    for (const grade of draft.json.grades!) this.remember(grade);
  }

  private remember(grade: DraftGrade): void {
    const key = `${grade.person}\n${grade.item}\n${grade.criterion ?? ''}`;
    const known = this.latest.get(key);
    if (!known || Date.parse(known.at) <= Date.parse(grade.at)) this.latest.set(key, grade);
  }

  take(person: string, item: string, criterion: string | null, points: number, at: Instant): Outcome {
    const known = this.latest.get(`${person}\n${item}\n${criterion ?? ''}`);
    if (known?.points === points) return 'same';
    const grade = {
      person,
      item,
      ...(criterion ? { criterion } : {}),
      points,
      at: formatInstant(at, this.draft.json.course.timeZone),
    };
    this.draft.json.grades!.push(grade);
    this.remember(grade);
    return known ? 'changed' : 'new';
  }
}

const BLANKS = new Set(['', '-', '–', 'n/a', 'na']);
const EXCUSED = new Set(['ex', 'excused', 'exempt', 'e']);

function gradebookTaker(given: Taking, others: readonly string[], refuse: (row: number, why: RefusedRow) => void) {
  const { draft, asOf, fields } = given;
  const book = new GradeBook(draft);
  if (fields.includes('item') && fields.includes('points')) return longGrades(given, book);
  const columns = others.map((header) => ({ header, item: itemOfHeader(draft, header) }));
  for (const { header, item } of columns) {
    if (item) continue;
    refuse(1, new RefusedRow(header, 'unknownItem', `There is no item “${header}” in this course`));
  }
  return (row: Row, number: number): Outcome[] => {
    // A row of points possible stands where a person would.
    if (
      /^(points possible|out of|max(imum)?( points)?)$/i.test(
        [row.get('person'), row.get('name'), row.get('lastName'), row.get('email')].find(Boolean) ?? '',
      )
    ) {
      return columns.flatMap(({ header, item }) =>
        item && row.get(header) !== '' ? setPossible(item, numberOf(row.get(header), header)) : [],
      );
    }
    const person = draft.person(row.who, row.column);
    return columns.flatMap(({ header, item }): Outcome[] => {
      const cell = row.get(header);
      if (!item || BLANKS.has(cell.toLowerCase())) return [];
      try {
        if (EXCUSED.has(cell.toLowerCase())) return [excuse(item, person)];
        return [book.take(person.id, item.id, null, pointsOf(cell, item, header), asOf)];
      } catch (error) {
        if (!(error instanceof RefusedRow)) throw error;
        refuse(number, error);
        return [];
      }
    });
  };
}

function longGrades({ draft, asOf }: Taking, book: GradeBook) {
  return (row: Row): Outcome[] => {
    const person = draft.person(row.who, row.column);
    const item = draft.item(row.get('item'));
    if (!item) row.refuse('item', 'unknownItem', `There is no item “${row.get('item')}” in this course`);
    const cell = row.get('points');
    if (BLANKS.has(cell.toLowerCase())) return [];
    if (EXCUSED.has(cell.toLowerCase())) return [excuse(item, person)];
    const at = row.instant('at', draft) ?? asOf;
    const criterion = row.get('criterion') || null;
    return [book.take(person.id, item.id, criterion, pointsOf(cell, item, row.column('points')), at)];
  };
}

/** "Quiz 1 (20)", "Quiz 1 [20 pts]" and "Quiz 1" are the item Quiz 1; the points possible in a header are taken with it. */
function itemOfHeader(draft: Draft, header: string): DraftItem | undefined {
  const plain = draft.item(header);
  if (plain) return plain;
  const [, title, points] =
    /^(.*?)\s*[([/]\s*(?:max\.?\s*)?(\d+(?:\.\d+)?)\s*(?:points?|pts?\.?)?\s*[)\]]?$/i.exec(header) ?? [];
  const item = title ? draft.item(title) : undefined;
  if (item && points !== undefined && item.points == null) item.points = Number(points);
  return item;
}

function setPossible(item: DraftItem, points: number): Outcome[] {
  if (item.points === points) return ['same'];
  const before = item.points;
  item.points = points;
  return [before == null ? 'new' : 'changed'];
}

/** Points, or a percent of the item's points. */
function pointsOf(cell: string, item: DraftItem, column: string | null): number {
  const [, percent] = /^(-?[\d.,]+)\s*%$/.exec(cell) ?? [];
  if (percent === undefined) {
    const points = numberOf(cell, column);
    if (points < 0) throw new RefusedRow(column, 'negative', `“${cell}” is less than zero`);
    return points;
  }
  if (item.points == null)
    throw new RefusedRow(column, 'noPoints', `“${cell}” is a percent, and “${item.title}” has no points possible`);
  return (numberOf(percent, column) * item.points) / 100;
}

function excuse(item: DraftItem, person: DraftPerson): Outcome {
  if (item.excused?.includes(person.id)) return 'same';
  item.excused = [...(item.excused ?? []), person.id];
  return 'changed';
}

/** Marks of attendance; a late student attended. */
const MARKS: Readonly<Record<string, 'attend' | 'absent' | 'excused'>> = {
  p: 'attend',
  present: 'attend',
  x: 'attend',
  '1': 'attend',
  yes: 'attend',
  l: 'attend',
  late: 'attend',
  tardy: 'attend',
  attended: 'attend',
  a: 'absent',
  absent: 'absent',
  '0': 'absent',
  no: 'absent',
  e: 'excused',
  ex: 'excused',
  excused: 'excused',
};

function attendanceTaker(given: Taking, others: readonly string[], refuse: (row: number, why: RefusedRow) => void) {
  const { draft, asOf, fields } = given;
  const keyOf = (e: DraftEvent) => `${e.person}\n${e.item ?? ''}\n${e.kind}`;
  const known = new Set(draft.json.events!.filter((e) => e.kind === 'attend' || e.kind === 'absent').map(keyOf));
  const mark = (person: DraftPerson, item: DraftItem, text: string, column: string | null, at: Instant): Outcome[] => {
    if (BLANKS.has(text.toLowerCase())) return [];
    const meaning = MARKS[text.toLowerCase()];
    if (!meaning) throw new RefusedRow(column, 'mark', `“${text}” is no mark of attendance. Use P, A, L or E`);
    if (meaning === 'excused') return [excuse(item, person)];
    return addEvent(
      draft,
      { person: person.id, kind: meaning, item: item.id, at: formatInstant(at, draft.json.course.timeZone) },
      known,
      keyOf,
    );
  };
  const instantOf = (item: DraftItem): Instant => {
    const at = item.opensAt ?? item.dueAt;
    return at ? Date.parse(at) : asOf;
  };
  if (fields.includes('status')) {
    return (row: Row): Outcome[] => {
      const person = draft.person(row.who, row.column);
      const at = row.instant('at', draft);
      const item = row.get('item') !== '' ? draft.item(row.get('item')) : at === null ? undefined : draft.sessionOn(at);
      if (!item)
        row.refuse(row.column('item') ? 'item' : 'at', 'unknownItem', 'There is no session for this row in the course');
      return mark(person, item, row.get('status'), row.column('status'), at ?? instantOf(item));
    };
  }
  const order = dayOrderOf(others);
  const columns = others.map((header) => {
    const date = readDate(header, draft.zone, order);
    return { header, item: draft.item(header) ?? (date.ok ? draft.sessionOn(date.at) : undefined) };
  });
  for (const { header, item } of columns) {
    if (!item) refuse(1, new RefusedRow(header, 'unknownItem', `There is no session “${header}” in this course`));
  }
  return (row: Row, number: number): Outcome[] => {
    const person = draft.person(row.who, row.column);
    return columns.flatMap(({ header, item }): Outcome[] => {
      if (!item) return [];
      try {
        return mark(person, item, row.get(header), header, instantOf(item));
      } catch (error) {
        if (!(error instanceof RefusedRow)) throw error;
        refuse(number, error);
        return [];
      }
    });
  };
}
