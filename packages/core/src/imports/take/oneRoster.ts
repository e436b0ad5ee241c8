/**
 * OneRoster CSV (1EdTech, 1.1 and 1.2): one class of a zip or of single files. Its users become people, its line items items,
 * its results grades. Headers typed from memory of the published binding.
 */
import { isAddress } from '../../course/address.ts';
import { plural } from '../../time/words.ts';
import { readDate } from '../read/dates.ts';
import { type ImportDraft, type DraftItem, type DraftPerson } from './draft.ts';
import { RefusedRow } from '../read/refused.ts';
import type { Outcome } from './facts.ts';
import { numberOf } from '../read/numbers.ts';
import type { RowPlace } from './row.ts';
import { mustDiffer, readTable, type TextTable } from '../read/table.ts';
import { decodeText, UnreadableFile } from '../read/text.ts';
import type { ArchiveParts } from '../read/workbook.ts';

/** The files that are read, in the order in which they are taken, each with a header that no other has. */
const FILES = {
  academicSessions: ['title', 'type', 'startDate', 'endDate'],
  classes: ['title', 'classType'],
  categories: ['title'],
  users: ['givenName', 'familyName'],
  roles: ['userSourcedId', 'roleType'],
  enrollments: ['classSourcedId', 'userSourcedId', 'role'],
  lineItems: ['title', 'classSourcedId', 'categorySourcedId'],
  results: ['lineItemSourcedId', 'studentSourcedId'],
} as const satisfies Record<string, readonly string[]>;
type OneRosterFile = keyof typeof FILES;
const ORDER = Object.keys(FILES) as OneRosterFile[];

const plain = (header: string) => header.toLowerCase();

/** Which of its files a table is; null if none. */
export function oneRosterKind(headers: readonly string[]): OneRosterFile | null {
  const names = new Set(headers.map(plain));
  if (!names.has('sourcedid')) return null;
  // The one with the most headers of its own.
  const fits = ORDER.filter((kind) => FILES[kind].every((h) => names.has(plain(h))));
  return fits.sort((a, b) => FILES[b].length - FILES[a].length)[0] ?? null;
}

type RowValues = (field: string) => string;

interface OneRosterRow {
  readonly file: string;
  readonly at: RowPlace;
  readonly get: RowValues;
}

/** `file`: which file of the zip a row is in. */
export type RefuseEntry = (at: RowPlace, why: RefusedRow, file: string) => void;

/** Takes the files of an archive. Returns how many rows were read. */
export function importOneRosterArchive(
  parts: ArchiveParts,
  draft: ImportDraft,
  asOf: number,
  refuse: RefuseEntry,
  count: (outcome: Outcome) => void,
): number {
  const tables: { file: string; table: TextTable }[] = [];
  for (const [name, bytes] of parts) {
    const file = name.split('/').pop()!;
    if (!/^(academicSessions|classes|categories|users|roles|enrollments|lineItems|results)\.csv$/i.test(file)) continue;
    const { text } = decodeText(bytes);
    // A file with a header alone says that there is nothing of its kind.
    if (text.trim().split(/\r?\n/).length > 1) tables.push({ file, table: readTable(text) });
  }
  if (tables.length === 0) throw new UnreadableFile('This archive has no OneRoster files with rows in it.');
  return importOneRoster(tables, draft, asOf, refuse, count);
}

export function importOneRoster(
  tables: readonly { readonly file: string; readonly table: TextTable }[],
  draft: ImportDraft,
  asOf: number,
  refuse: RefuseEntry,
  count: (outcome: Outcome) => void,
): number {
  const byKind = new Map<OneRosterFile, OneRosterRow[]>();
  let read = 0;
  for (const { file, table } of tables) {
    mustDiffer(table.headers);
    const kind = oneRosterKind(table.headers);
    if (!kind) throw new UnreadableFile(`“${file}” does not have the columns of a OneRoster file.`);
    const at = new Map(table.headers.map((h, i) => [plain(h), i]));
    const entries = Array.from(table.rows, ({ row, line, cells }): OneRosterRow => ({
      file,
      at: { row, line },
      get: (field) => cells[at.get(plain(field)) ?? -1] ?? '',
    }));
    read += entries.length;
    byKind.set(kind, [...(byKind.get(kind) ?? []), ...entries]);
  }
  const taking = new Roster(byKind, draft, asOf);
  const take: Readonly<Record<OneRosterFile, (entry: OneRosterRow) => Outcome>> = {
    academicSessions: (e) => taking.session(e),
    categories: () => 'same',
    roles: () => 'same',
    classes: () => 'same',
    users: (e) => taking.user(e),
    enrollments: (e) => taking.enrollment(e),
    lineItems: (e) => taking.lineItem(e),
    results: (e) => taking.result(e),
  };
  for (const kind of ORDER) {
    for (const entry of byKind.get(kind) ?? []) {
      try {
        count(take[kind](entry));
      } catch (error) {
        if (!(error instanceof RefusedRow)) throw error;
        refuse(entry.at, error, entry.file);
      }
    }
  }
  return read;
}

const ROLES: Readonly<Record<string, string>> = {
  student: 'student',
  teacher: 'instructor',
  proctor: 'assistant',
  aide: 'assistant',
  administrator: 'observer',
};

const LOCAL_DATE = /^\d{4}-\d{2}-\d{2}$/;

const isGone = (entry: OneRosterRow): boolean => /^tobedeleted$/i.test(entry.get('status'));

class Roster {
  private readonly draft: ImportDraft;
  private readonly asOf: number;
  private readonly users: ReadonlyMap<string, OneRosterRow>;
  /** Titles by id. */
  private readonly categories: ReadonlyMap<string, string>;
  /** The classes that are this course, each with its section; null when the files do not say which classes there are. */
  private readonly classes: ReadonlyMap<string, string | null> | null;
  private readonly hasEnrollments: boolean;
  /** Terms of the classes that are this course. */
  private readonly terms: ReadonlySet<string>;

  constructor(files: ReadonlyMap<OneRosterFile, readonly OneRosterRow[]>, draft: ImportDraft, asOf: number) {
    const of = (kind: OneRosterFile) => files.get(kind) ?? [];
    this.draft = draft;
    this.asOf = asOf;
    this.users = new Map(of('users').map((e) => [e.get('sourcedId'), e]));
    this.categories = new Map(of('categories').map((e) => [e.get('sourcedId'), e.get('title')]));
    this.hasEnrollments = of('enrollments').length > 0;
    const ours = classesOf(of('classes'), of('enrollments'), of('lineItems'), draft);
    this.classes = ours;
    this.terms = new Set(
      of('classes')
        .flatMap((e) => (ours?.has(e.get('sourcedId')) ? e.get('termSourcedIds').split(',') : []))
        .map((t) => t.trim()),
    );
  }

  private isOurs(classId: string): boolean {
    return classId === '' || this.classes === null || this.classes.has(classId);
  }

  /** The term of this course sets its days, as long as nobody is in it: later they are changed by hand. */
  session(entry: OneRosterRow): Outcome {
    const { draft } = this;
    const isOurTerm = this.terms.has(entry.get('sourcedId')) && /^(term|semester)$/i.test(entry.get('type'));
    if (isGone(entry) || !isOurTerm || draft.json.people.some((p) => p.role === 'student')) return 'same';
    const [start, end] = ['startDate', 'endDate'].map((f) => (this.date(entry, f) === null ? '' : entry.get(f)));
    if (!LOCAL_DATE.test(start!) || !LOCAL_DATE.test(end!) || start! > end!) return 'same';
    if (draft.json.course.start === start && draft.json.course.end === end) return 'same';
    Object.assign(draft.json.course, { start, end });
    return 'changed';
  }

  /** A user alone says who somebody is; that they are in the course, an enrollment says, where there are any. */
  user(entry: OneRosterRow): Outcome {
    if (this.hasEnrollments) return 'same';
    const role = ROLES[entry.get('role').toLowerCase()];
    if (entry.get('role') !== '' && !role) return 'same';
    return this.person(entry.get('sourcedId'), entry, {
      role: role ?? 'student',
      active: !isGone(entry) && !/^false$/i.test(entry.get('enabledUser')),
    });
  }

  enrollment(entry: OneRosterRow): Outcome {
    const classId = entry.get('classSourcedId');
    if (!this.isOurs(classId)) return 'same';
    const role = ROLES[entry.get('role').toLowerCase()];
    if (!role) throw new RefusedRow('role', 'role', `“${entry.get('role')}” is no role of an enrollment`);
    const userId = entry.get('userSourcedId');
    const user = this.users.get(userId);
    if (!user && !this.draft.personById(userId))
      throw new RefusedRow('userSourcedId', 'unknownPerson', `users.csv has no user “${userId}”`);
    const begins = this.date(entry, 'beginDate');
    const ends = this.date(entry, 'endDate');
    return this.person(userId, user, {
      role,
      active: !isGone(entry) && !(user && isGone(user)) && (ends === null || ends >= this.asOf),
      ...(begins === null ? {} : { enrolledAt: this.draft.write(begins) }),
      ...(this.classes && this.classes.size > 1 ? { section: this.classes.get(classId) ?? null } : {}),
    });
  }

  private person(
    id: string,
    user: OneRosterRow | undefined,
    said: Pick<DraftPerson, 'role' | 'active'> & Partial<DraftPerson>,
  ): Outcome {
    if (id === '') throw new RefusedRow('sourcedId', 'noId', 'This row has no sourcedId');
    const email = user?.get('email') ?? '';
    if (email !== '' && !isAddress(email))
      throw new RefusedRow('email', 'address', `“${email}” is not an email address`);
    const { draft } = this;
    const known = draft.personById(id) ?? (email === '' ? undefined : draft.personByEmail(email));
    if (!known && said.active === false) return 'same';
    const start = draft.write(draft.zone.toInstant(Date.parse(`${draft.json.course.start}T00:00:00Z`)));
    const write = (person: DraftPerson) => {
      if (user) {
        person.firstName = user.get('preferredFirstName') || user.get('givenName') || person.firstName;
        person.lastName = user.get('familyName') || person.lastName;
        if (email !== '') person.email = email;
      }
      const { active, ...rest } = said;
      Object.assign(person, rest);
      if (active !== (person.active ?? true)) person.active = active ?? true;
    };
    draft.named.add(known?.id ?? id);
    if (known) return draft.changePerson(known, write) ? 'changed' : 'same';
    const person: DraftPerson = { id, firstName: '', lastName: '', role: 'student', enrolledAt: start };
    write(person);
    draft.addPerson(person);
    return 'new';
  }

  lineItem(entry: OneRosterRow): Outcome {
    if (isGone(entry) || !this.isOurs(entry.get('classSourcedId'))) return 'same';
    const { draft } = this;
    const title = entry.get('title');
    const id = entry.get('sourcedId');
    if (title === '') throw new RefusedRow('title', 'noTitle', 'This row has no title');
    const known = draft.item(id) ?? draft.item(title) ?? undefined;
    const possible = entry.get('resultValueMax');
    const points = possible === '' ? null : numberOf(possible, 'resultValueMax');
    const [opens, due] = [this.date(entry, 'assignDate'), this.date(entry, 'dueDate', true)];
    const category = this.categories.get(entry.get('categorySourcedId'));
    const write = (item: DraftItem) => {
      item.title = title;
      if (points !== null) item.points = points;
      if (opens !== null) item.opensAt = draft.write(opens);
      if (due !== null) item.dueAt = draft.write(due);
      if (category) item.group = category;
    };
    if (known) return draft.changeItem(known, write) ? 'changed' : 'same';
    const item: DraftItem = { id, title, kind: kindOfTitle(title, category ?? '') };
    write(item);
    draft.addItem(item);
    return 'new';
  }

  result(entry: OneRosterRow): Outcome {
    if (isGone(entry)) return 'same';
    const { draft } = this;
    const said = entry.get('lineItemSourcedId');
    const item = draft.item(said);
    if (item === null) return 'same';
    if (!item) throw draft.unknownItem(said, 'lineItemSourcedId');
    const id = entry.get('studentSourcedId');
    const email = this.users.get(id)?.get('email') ?? '';
    const person = draft.person({ id, email }, () => 'studentSourcedId');
    const status = entry.get('scoreStatus').toLowerCase();
    if (status === 'exempt') {
      if (item.excused?.includes(person.id)) return 'same';
      item.excused = [...(item.excused ?? []), person.id];
      return 'changed';
    }
    const score = entry.get('score');
    if (score === '' || status === 'not submitted') return 'same';
    const points = numberOf(score, 'score');
    if (points < 0) throw new RefusedRow('score', 'negative', `“${score}” is less than zero`);
    const at = this.date(entry, 'scoreDate') ?? this.asOf;
    return draft.facts.addGrade({ person: person.id, item: item.id, criterion: null, points, at });
  }

  private date(entry: OneRosterRow, field: string, endOfDay = false): number | null {
    const text = entry.get(field);
    if (text === '') return null;
    const read = readDate(text, { zone: this.draft.zone, order: 'unknown', endOfDay });
    if (read.ok) return read.at;
    throw new RefusedRow(field, read.code, `“${text}” is no date. Write it as 2026-10-26`);
  }
}

/** Line items say no kind: by the words of their title and category. */
export function kindOfTitle(title: string, category: string): string {
  const words = `${title} ${category}`.toLowerCase();
  if (/\b(quiz|test|exam|midterm|final)/.test(words)) return 'quiz';
  if (/\b(discussion|forum)/.test(words)) return 'forum';
  return 'assignment';
}

/** The classes in the files that make up this course: the only one, those with its code or title, or all of one course. */
function classesOf(
  classes: readonly OneRosterRow[],
  enrollments: readonly OneRosterRow[],
  lineItems: readonly OneRosterRow[],
  draft: ImportDraft,
): ReadonlyMap<string, string | null> | null {
  const sectionOf = (e: OneRosterRow) => e.get('classCode') || e.get('title') || null;
  const kept = classes.filter((e) => !isGone(e));
  if (kept.length === 0) {
    const named = new Set([...enrollments, ...lineItems].map((e) => e.get('classSourcedId')));
    if (named.size > 1)
      throw new UnreadableFile(
        `These files have ${plural(named.size, 'class', 'classes')}. Add classes.csv, or export one class.`,
      );
    return null;
  }
  const words = [draft.json.course.code, draft.json.course.title].flatMap((w) => (w ? [w.toLowerCase()] : []));
  const ours = kept.filter((e) =>
    [e.get('classCode'), e.get('title')].some((text) => words.some((w) => text.toLowerCase().startsWith(w))),
  );
  const found = ours.length > 0 ? ours : kept;
  if (ours.length === 0 && new Set(kept.map((e) => e.get('courseSourcedId'))).size > 1) {
    const titles = kept.slice(0, 5).map((e) => `“${e.get('title')}”`);
    throw new UnreadableFile(
      `These files have ${plural(kept.length, 'class', 'classes')}, and none is called like this course: ${titles.join(', ')}. Export one class, or give the course its code.`,
    );
  }
  return new Map(found.map((e) => [e.get('sourcedId'), sectionOf(e)]));
}
