/** A course as a draft that files are merged into, and back: what no file touched stays exactly as it was. */
import type { Course, CourseParts } from '../course/course.ts';
import type { Item } from '../course/item.ts';
import type { Person, Role } from '../course/person.ts';
import type { ItemKind } from '../course/item.ts';
import { parseInstant, type Instant } from '../time/instant.ts';
import { instantWords, numberWords } from '../time/words.ts';
import { readDate, type DayOrder } from './dates.ts';
import { Draft, nameOf, type DraftItem, type DraftPerson } from './draft.ts';
import type { KnownFacts } from './facts.ts';
import type { FieldName, ImportKind } from './headers.ts';
import { RefusedRow } from './refused.ts';
import { eventKindOf } from './takeActivity.ts';

const at = (instant: Instant): string => new Date(instant).toISOString();
const orNull = (instant: Instant | null): string | null => (instant === null ? null : at(instant));

const draftPerson = ({ enrolledAt, contacts, fields, ...person }: Person): DraftPerson => ({
  ...person,
  enrolledAt: at(enrolledAt),
  contacts: contacts.map((c) => ({ ...c })),
  fields: { ...fields },
});

const draftItem = ({ opensAt, dueAt, topics, excused, extensions, url, ...item }: Item): DraftItem => ({
  ...item,
  opensAt: orNull(opensAt),
  dueAt: orNull(dueAt),
  topics: [...topics],
  excused: [...excused],
  extensions: extensions.map((e) => ({ ...e, dueAt: at(e.dueAt) })),
  url: url ?? null,
});

const instantOrNull = (text: string | null | undefined): Instant | null => (text == null ? null : parseInstant(text));

const personOf = (p: DraftPerson): Person => ({
  id: p.id,
  firstName: p.firstName,
  lastName: p.lastName,
  email: p.email?.trim() || null,
  role: p.role as Role,
  section: p.section || null,
  active: p.active ?? true,
  enrolledAt: parseInstant(p.enrolledAt),
  paused: p.paused ?? false,
  contacts: p.contacts ?? [],
  fields: p.fields ?? {},
});

const itemOf = (i: DraftItem): Item => ({
  id: i.id,
  title: i.title,
  kind: i.kind as ItemKind,
  group: i.group || null,
  points: i.points ?? null,
  opensAt: instantOrNull(i.opensAt),
  dueAt: instantOrNull(i.dueAt),
  topics: i.topics ?? [],
  excused: i.excused ?? [],
  extensions: (i.extensions ?? []).map((e) => ({ ...e, dueAt: parseInstant(e.dueAt) })),
  url: i.url || null,
});

/** `latest`: no fact may lie later. */
export function courseDraft(course: Course, known: KnownFacts, latest: Instant): Draft {
  const { code, title, timeZone, start, end, breaks, url = null } = course;
  return new Draft(
    {
      course: { code, title, timeZone, url, start, end, breaks: breaks.map((b) => ({ ...b, name: b.name ?? '' })) },
      people: course.people.map(draftPerson),
      items: course.items.map(draftItem),
    },
    known,
    latest,
  );
}

/** The course that a draft has become. */
export function draftedCourse(draft: Draft, before: Course): CourseParts {
  const kept = <D extends { readonly id: string }, T extends { readonly id: string }>(
    now: readonly D[],
    old: readonly T[],
    write: (entry: T) => D,
    read: (entry: D) => T,
  ): T[] => {
    const known = new Map(old.map((e) => [e.id, e]));
    return now.map((entry) => {
      const same = known.get(entry.id);
      return same && JSON.stringify(write(same)) === JSON.stringify(entry) ? same : read(entry);
    });
  };
  const { start, end, breaks = [] } = draft.json.course;
  return {
    ...before,
    start,
    end,
    breaks: breaks.length === before.breaks.length ? before.breaks : breaks,
    people: kept(draft.json.people, before.people, draftPerson, personOf),
    items: kept(draft.json.items!, before.items, draftItem, itemOf),
  };
}

const WHO: ReadonlySet<FieldName> = new Set(['person', 'name', 'email']);

/** Whom a cell names, outside of a roster. */
function whoWords(said: string, draft: Draft): string {
  try {
    const person = draft.person({ id: said, name: said }, () => null);
    return `${person.firstName} ${person.lastName}`.trim();
  } catch (error) {
    if (error instanceof RefusedRow) return said;
    throw error;
  }
}

const DATES: ReadonlySet<FieldName> = new Set(['at', 'enrolledAt', 'opensAt', 'dueAt']);

/** How a cell will be read, in words, for somebody who checks it before anything changes. */
export function cellWords(
  said: string,
  column: { readonly header: string; readonly field: FieldName | null; readonly order: DayOrder },
  kind: ImportKind,
  draft: Draft,
): string {
  const { field, header, order } = column;
  if (said === '') return '';
  if (field !== null && DATES.has(field)) {
    const read = readDate(said, draft.zone, order, field === 'dueAt');
    if (read.ok) return instantWords(read.at, draft.json.course.timeZone);
    return read.code === 'ambiguousDate' ? 'two dates fit' : 'not a date';
  }
  if (field !== null && WHO.has(field) && kind !== 'roster') return whoWords(said, draft);
  if (field === 'name') {
    const name = nameOf({ name: said });
    return name ? `first ${name.firstName}, last ${name.lastName}` : said;
  }
  if (field === 'kind' && kind === 'activity') return eventKindOf(said) ?? 'not a kind of activity';
  if (field === 'item') return draft.item(said)?.title ?? 'not an item of this course';
  if (field !== null || kind !== 'gradebook') return said;
  const item = draft.item(header) ?? draft.item(header.replace(/\s*[([].*$/, ''));
  const [, percent] = /^(-?[\d.]+)\s*%$/.exec(said) ?? [];
  const n = Number(percent ?? said);
  if (!item || !Number.isFinite(n) || item.points == null || item.points === 0) return said;
  const points = percent === undefined ? n : (n * item.points) / 100;
  return `${numberWords(points)} of ${numberWords(item.points)} (${numberWords(Math.round((1000 * points) / item.points) / 10)}%)`;
}
