/** A course as a draft that files are merged into, and back: what no file touched stays exactly as it was. */
import type { Course, CourseParts } from '../../course/course.ts';
import type { Item } from '../../course/item.ts';
import type { Person, Role } from '../../course/person.ts';
import type { ItemKind } from '../../course/item.ts';
import { parseInstant, type Instant } from '../../time/instant.ts';
import { ImportDraft, type DraftItem, type DraftPerson } from './draft.ts';
import type { KnownFacts } from './facts.ts';

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
export function courseDraft(course: Course, known: KnownFacts, latest: Instant): ImportDraft {
  const { code, title, timeZone, start, end, breaks, letters = null, url = null } = course;
  return new ImportDraft(
    {
      course: {
        code,
        title,
        timeZone,
        url,
        letters,
        start,
        end,
        breaks: breaks.map((b) => ({ ...b, name: b.name ?? '' })),
      },
      people: course.people.map(draftPerson),
      items: course.items.map(draftItem),
    },
    known,
    latest,
  );
}

/** The course that a draft has become. */
export function draftedCourse(draft: ImportDraft, before: Course): CourseParts {
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
