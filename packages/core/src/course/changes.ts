/**
 * What changed of a course's own data, field by field: anyone who made a change sees what it did, and it can be undone as long as
 * nothing later changed the same fields.
 */
import type { Course, CourseFile, CourseParts } from './course.ts';
import { fullName, type Person } from './person.ts';
import type { Item } from './item.ts';
import { dayWords, instantWords, listWords, plural } from '../time/words.ts';
import { runWhole, type WorkInParts } from '../time/inParts.ts';
import type { Instant } from '../time/instant.ts';

export type CourseDetails = Omit<CourseFile, 'url'> & { readonly url: string | null };

/** Null before: it is new. Null after: it is gone. */
export interface EntryChange<T> {
  readonly id: string;
  readonly before: T | null;
  readonly after: T | null;
}

export interface CourseChanges {
  readonly people: readonly EntryChange<Person>[];
  readonly items: readonly EntryChange<Item>[];
  readonly details: { readonly before: CourseDetails; readonly after: CourseDetails } | null;
  /** Ids of the items in their order, where that changed or one is gone. */
  readonly order: { readonly before: readonly string[]; readonly after: readonly string[] } | null;
}

const detailsOf = ({
  code,
  title,
  timeZone,
  start,
  end,
  breaks,
  groupWeights,
  marks,
  url,
}: CourseFile): CourseDetails => ({ code, title, timeZone, start, end, breaks, groupWeights, marks, url: url ?? null });

/** By content: the order in which an object names its fields says nothing. */
export function isSame(a: unknown, b: unknown): boolean {
  if (a === b || (a == null && b == null)) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  if (Array.isArray(a) !== Array.isArray(b)) return false;
  const [x, y] = [a as Record<string, unknown>, b as Record<string, unknown>];
  return (
    Object.keys(x).every((key) => isSame(x[key], y[key])) &&
    Object.keys(y).every((key) => Object.hasOwn(x, key) || isSame(undefined, y[key]))
  );
}

/** Whether facts about students are other ones after it: who is in the course, items, days, marks, weights; not addresses and pauses. */
export const touchesFacts = ({ people, items, details, order }: CourseChanges): boolean =>
  details !== null || order !== null || items.length > 0 || people.some(touchesOne);

function touchesOne({ before, after }: EntryChange<Person>): boolean {
  if (before === null || after === null) return true;
  const apart = { email: null, paused: false, contacts: [] };
  return !isSame({ ...before, ...apart }, { ...after, ...apart });
}

/** Entries that are compared in one part. */
const A_PART = 200;

function* entries<T extends { readonly id: string }>(
  before: readonly T[],
  after: readonly T[],
): WorkInParts<EntryChange<T>[]> {
  const old = new Map(before.map((e) => [e.id, e]));
  const kept = new Set<string>();
  const changes: EntryChange<T>[] = [];
  for (const e of after) {
    kept.add(e.id);
    const was = old.get(e.id) ?? null;
    if (!isSame(was, e)) changes.push({ id: e.id, before: was, after: e });
    if (kept.size % A_PART === 0) yield;
  }
  for (const e of before) if (!kept.has(e.id)) changes.push({ id: e.id, before: e, after: null });
  return changes;
}

export function* diffCoursesInParts(before: CourseParts, after: CourseParts): WorkInParts<CourseChanges> {
  const [old, now] = [detailsOf(before), detailsOf(after)];
  const order = { before: before.items.map((i) => i.id), after: after.items.map((i) => i.id) };
  const items = yield* entries(before.items, after.items);
  // An item that is gone had a place, to which an undo brings it back.
  const hadPlace = items.some((c) => c.after === null);
  return {
    people: yield* entries(before.people, after.people),
    items,
    details: isSame(old, now) ? null : { before: old, after: now },
    order: hadPlace || isMoved(order) ? order : null,
  };
}

export const diffCourses = (before: CourseParts, after: CourseParts): CourseChanges =>
  runWhole(diffCoursesInParts(before, after));

/** Whether those items that are in both stand in another order. */
export function isMoved({ before, after }: NonNullable<CourseChanges['order']>): boolean {
  const [old, now] = [new Set(before), new Set(after)];
  return !isSame(
    before.filter((id) => now.has(id)),
    after.filter((id) => old.has(id)),
  );
}

export const isNothing = (c: CourseChanges): boolean =>
  c.people.length === 0 && c.items.length === 0 && c.details === null && c.order === null;

const fieldsOf = (before: object, after: object): string[] =>
  [...new Set([...Object.keys(before), ...Object.keys(after)])].filter(
    (f) => !isSame(before[f as keyof typeof before], after[f as keyof typeof after]),
  );

/** Fields in which two states of an entry differ; each own column counts separately. */
export const changedFields = (before: object, after: object): string[] => fieldsOf(spread(before), spread(after));

type Fields = Readonly<Record<string, unknown>>;

const OWN = 'fields.';
/** What a field is called that is an own column of a person: each is a field like the others. */
export const ownColumn = (name: string): string => `${OWN}${name}`;

/** The fields of an entry, its own columns among them. */
function spread(entry: object): Fields {
  const { fields = {}, ...rest } = entry as { readonly fields?: Fields };
  return { ...rest, ...Object.fromEntries(Object.entries(fields).map(([name, value]) => [ownColumn(name), value])) };
}

/** Puts fields back together as an entry. An own column without a value is left out. */
function gathered<T extends object>(fields: Fields, like: T): T {
  const entries = Object.entries(fields);
  const plain = Object.fromEntries(entries.filter(([name]) => !name.startsWith(OWN)));
  if (!('fields' in like)) return plain as T;
  const own = entries.flatMap(([name, value]) =>
    name.startsWith(OWN) && value != null ? [[name.slice(OWN.length), value] as const] : [],
  );
  return { ...plain, fields: Object.fromEntries(own) } as T;
}

const only = (fields: Fields, names: readonly string[]): Fields =>
  Object.fromEntries(names.map((name) => [name, fields[name] ?? null]));

/** The fields that later files repeat, by the id of the entry. An entry with no such field is still named by a later file. */
export type FieldsRepeatedLater = ReadonlyMap<string, ReadonlySet<string>>;

/** What of a change stays when it is undone, as a later file says the same: as a change from what was before. */
export type EntriesToKeep = Pick<CourseChanges, 'people' | 'items'>;

export interface UndoneCourse {
  readonly course: CourseParts;
  /** Why that cannot be had: whatever changed the same fields later. */
  readonly against: readonly string[];
  readonly kept: EntriesToKeep;
}

const NOTHING_SAID: FieldsRepeatedLater = new Map();

/** The course without a change, but for what later files say as well. */
export function undoneCourse(
  now: CourseParts,
  changes: CourseChanges,
  said: { readonly people: FieldsRepeatedLater; readonly items: FieldsRepeatedLater } = {
    people: NOTHING_SAID,
    items: NOTHING_SAID,
  },
): UndoneCourse {
  const against: string[] = [];
  const undo = <T extends { readonly id: string }>(
    list: readonly T[],
    changed: readonly EntryChange<T>[],
    nameOf: (e: T) => string,
    saidLater: FieldsRepeatedLater,
    kept: EntryChange<T>[],
  ): T[] => {
    const byId = new Map(list.map((e) => [e.id, e]));
    const back: T[] = [];
    const next = new Map(byId);
    for (const { id, before, after } of changed) {
      const current = byId.get(id) ?? null;
      const name = nameOf((after ?? before)!);
      if (after === null) {
        if (current) against.push(`“${name}” has been added again since`);
        else back.push(before!);
      } else if (!current) against.push(`“${name}” has been removed since`);
      else if (before === null) {
        if (saidLater.has(id)) kept.push({ id, before: null, after: current });
        else if (isSame(current, after)) next.delete(id);
        else against.push(`${name} has been changed since`);
      } else {
        const [was, set, is] = [spread(before), spread(after), spread(current)];
        const touched = changedFields(before, after);
        const later = touched.filter((f) => !isSame(is[f], set[f]));
        if (later.length > 0) against.push(`${name}: ${listWords(later.map(fieldWords))} changed since`);
        const stay = touched.filter((f) => saidLater.get(id)?.has(f));
        const goBack = touched.filter((f) => !stay.includes(f));
        const undone = { ...is, ...only(was, goBack) };
        const entry = gathered(undone, current);
        next.set(id, entry);
        if (stay.length > 0)
          kept.push({ id, before: gathered({ ...undone, ...only(was, stay) }, current), after: entry });
      }
    }
    return [...next.values(), ...back];
  };
  const kept = { people: [] as EntryChange<Person>[], items: [] as EntryChange<Item>[] };
  const people = undo(now.people, changes.people, fullName, said.people, kept.people);
  let items = undo(now.items, changes.items, (i) => i.title, said.items, kept.items);
  if (changes.order || changes.items.some((c) => c.after === null)) {
    const order = changes.order?.before ?? now.items.map((i) => i.id);
    const place = new Map(order.map((id, i) => [id, i]));
    items = items.toSorted((a, b) => (place.get(a.id) ?? 1e9) - (place.get(b.id) ?? 1e9));
  }
  let details: CourseDetails = detailsOf(now);
  if (changes.details) {
    const { before, after } = changes.details;
    const later = fieldsOf(before, after).filter(
      (f) => !isSame(details[f as keyof CourseDetails], after[f as keyof CourseDetails]),
    );
    if (later.length > 0) against.push(`The course: ${listWords(later.map(fieldWords))} changed since`);
    else details = { ...details, ...only({ ...before }, fieldsOf(before, after)) };
  }
  return { course: { ...now, ...details, people, items }, against, kept };
}

/** A later change that also made what was kept of an earlier one. */
export function withKept(changes: CourseChanges, kept: EntriesToKeep): CourseChanges {
  const join = <T extends object>(own: readonly EntryChange<T>[], added: readonly EntryChange<T>[]) => {
    const byId = new Map(own.map((c) => [c.id, c]));
    for (const { id, before, after } of added) {
      const known = byId.get(id);
      if (!known) byId.set(id, { id, before, after });
      else if (before === null || known.before === null) byId.set(id, { ...known, before: null });
      else {
        const back = changedFields(before, after!);
        const earlier = { ...spread(known.before), ...only(spread(before), back) };
        byId.set(id, { ...known, before: gathered(earlier, known.before) });
      }
    }
    return [...byId.values()];
  };
  return { ...changes, people: join(changes.people, kept.people), items: join(changes.items, kept.items) };
}

const FIELD_WORDS: Readonly<Record<string, string>> = {
  firstName: 'first name',
  lastName: 'last name',
  email: 'email address',
  role: 'role',
  section: 'section',
  active: 'active',
  enrolledAt: 'enrolled',
  paused: 'paused',
  contacts: 'contacts',
  fields: 'own columns',
  title: 'title',
  kind: 'kind',
  group: 'group',
  points: 'points',
  opensAt: 'opens',
  dueAt: 'due',
  topics: 'topics',
  excused: 'excused people',
  extensions: 'extensions',
  url: 'page address',
  code: 'code',
  timeZone: 'time zone',
  start: 'first day',
  end: 'last day',
  breaks: 'breaks',
  groupWeights: 'group weights',
  marks: 'marks',
};
export const fieldWords = (field: string): string =>
  FIELD_WORDS[field] ?? (field.startsWith(OWN) ? field.slice(OWN.length) : field);

/** One field of one entry, in words. */
export interface ChangeLine {
  readonly about: 'person' | 'item' | 'course';
  readonly id: string;
  readonly name: string;
  readonly change: 'new' | 'gone' | 'field' | 'order';
  readonly field: string | null;
  readonly from: string;
  readonly to: string;
}

/** Changes as lines, the course first; a new entry is one line. */
export function changeLines(changes: CourseChanges, course: Pick<Course, 'timeZone' | 'people'>): ChangeLine[] {
  const lines: ChangeLine[] = [];
  const names = new Map(course.people.map((p) => [p.id, fullName(p)]));
  const words = (field: string, value: unknown) => valueWords(field, value, course.timeZone, names);
  const of = (about: ChangeLine['about'], id: string, name: string, before: object | null, after: object | null) => {
    const whole = { about, id, name, field: null, from: '', to: '' };
    if (before === null) return void lines.push({ ...whole, change: 'new' });
    if (after === null) return void lines.push({ ...whole, change: 'gone' });
    for (const field of fieldsOf(before, after)) {
      const [from, to] = [words(field, before[field as never]), words(field, after[field as never])];
      lines.push({ ...whole, change: 'field', field: fieldWords(field), from, to });
    }
  };
  if (changes.details) of('course', '', changes.details.after.title, changes.details.before, changes.details.after);
  for (const { id, before, after } of changes.people) of('person', id, fullName((after ?? before)!), before, after);
  for (const { id, before, after } of changes.items) of('item', id, (after ?? before)!.title, before, after);
  if (changes.order && isMoved(changes.order))
    lines.push({ about: 'item', id: '', name: 'Items', change: 'order', field: null, from: '', to: '' });
  return lines;
}

const NOTHING = 'nothing';

/** A value of a field, as a line of a change says it. */
export function valueWords(field: string, value: unknown, zone: string, names: ReadonlyMap<string, string>): string {
  if (value === null || value === undefined || value === '') return NOTHING;
  if (field === 'opensAt' || field === 'dueAt') return instantWords(value as Instant, zone);
  if (field === 'enrolledAt') return dayWords(value as Instant, zone);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (Array.isArray(value)) {
    const list = value as readonly unknown[];
    if (list.length === 0) return NOTHING;
    if (field === 'excused') return list.map((id) => names.get(String(id)) ?? String(id)).join('; ');
    if (field === 'extensions') {
      return (list as Item['extensions'])
        .map(
          (e) =>
            `${e.person === undefined ? `section ${e.section ?? ''}` : (names.get(e.person) ?? e.person)}: ${instantWords(e.dueAt, zone)}`,
        )
        .join('; ');
    }
    if (field === 'contacts')
      return (list as Person['contacts']).map((c) => `${c.kind}: ${c.name || c.email}`).join('; ');
    if (field === 'breaks')
      return (list as CourseFile['breaks']).map((b) => b.name ?? `${b.from} to ${b.to}`).join('; ');
    return list.map(String).join('; ');
  }
  if (typeof value === 'object') {
    const parts = Object.entries(value as Record<string, string | number>).filter(([, v]) => v !== '');
    return parts.length === 0 ? NOTHING : parts.map(([k, v]) => `${k}: ${v}`).join('; ');
  }
  return typeof value === 'number' ? String(value) : (value as string);
}

/** A sentence for the list of changes: "3 people new, 2 changed; 1 item changed". */
export function changeSummary(changes: CourseChanges): string {
  const part = (list: readonly EntryChange<unknown>[], one: string, many: string): string[] => {
    const fresh = list.filter((c) => c.before === null).length;
    const gone = list.filter((c) => c.after === null).length;
    const changed = list.length - fresh - gone;
    const say = (n: number, what: string) => (n === 0 ? [] : [`${plural(n, one, many)} ${what}`]);
    return [...say(fresh, 'added'), ...say(changed, 'changed'), ...say(gone, 'removed')];
  };
  return [
    ...(changes.details ? ['course details changed'] : []),
    ...part(changes.people, 'person', 'people'),
    ...part(changes.items, 'item', 'items'),
    ...(changes.order && isMoved(changes.order) ? ['items put in another order'] : []),
  ].join(', ');
}
