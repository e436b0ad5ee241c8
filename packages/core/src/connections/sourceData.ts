/**
 * What a platform tells of a course over a connection, taken into its draft: whom it means by the ids of its own, what of it is new,
 * changed or the same, and what a person decided by hand and no platform changes.
 */
import { isAddress } from '../course/address.ts';
import type { Role } from '../course/person.ts';
import type { Instant } from '../time/instant.ts';
import { slugOf, type ImportDraft, type DraftItem, type DraftPerson } from '../imports/take/draft.ts';
import type { Outcome } from '../imports/take/facts.ts';
import { RefusedRow } from '../imports/read/refused.ts';
import { kindOfTitle } from '../imports/take/oneRoster.ts';

export interface PersonFromSource {
  /** As the platform knows them. */
  readonly id: string;
  readonly firstName: string;
  readonly lastName: string;
  readonly email: string | null;
  readonly role: Role;
  readonly section?: string | null | undefined;
  /** False: the platform says that they have left. */
  readonly active: boolean;
}

export interface ItemFromSource {
  readonly id: string;
  readonly title: string;
  readonly group?: string | null | undefined;
  readonly points?: number | null | undefined;
  readonly opensAt?: Instant | null | undefined;
  readonly dueAt?: Instant | null | undefined;
  readonly gone?: boolean | undefined;
}

export interface GradeFromSource {
  readonly id: string;
  readonly person: string;
  readonly item: string;
  readonly points: number;
  /** When it was given; null where the platform does not say. */
  readonly at: Instant | null;
}

export interface DataFromSource {
  readonly people: readonly PersonFromSource[];
  readonly items: readonly ItemFromSource[];
  readonly grades: readonly GradeFromSource[];
  /** Whether `people` are all that there are: who is not among them has left. */
  readonly isWhole: boolean;
}

/** Whom and what the ids of a source mean here. */
export interface Links {
  /** `alone`: nobody else had brought them. */
  readonly people: ReadonlyMap<string, { readonly key: string; readonly alone: boolean }>;
  readonly items: ReadonlyMap<string, string>;
}

export interface RefusedTold {
  readonly what: 'person' | 'item' | 'grade';
  readonly id: string;
  readonly code: string;
  readonly message: string;
}

export interface PeopleCounts {
  readonly new: number;
  readonly changed: number;
  readonly same: number;
  readonly gone: number;
}

export interface SourceImport {
  readonly links: Links;
  readonly people: PeopleCounts;
  readonly items: PeopleCounts;
  readonly grades: PeopleCounts;
  readonly refused: readonly RefusedTold[];
}

export interface SourceImportTarget {
  readonly draft: ImportDraft;
  readonly links: Links;
  /** What somebody set by hand, by the id of a person or an item and the name of the field. */
  readonly byHand: (entry: string, field: string) => boolean;
  /** Whether a person was erased on request: nobody takes them in again. */
  readonly isErased: (person: { readonly id: string; readonly email: string | null }) => boolean;
  readonly now: Instant;
}

type MutableCounts = { -readonly [K in keyof PeopleCounts]: number };
const none = (): MutableCounts => ({ new: 0, changed: 0, same: 0, gone: 0 });

/** Takes all of it into the draft; what does not fit is refused on its own. */
export function mergeSourceData(told: DataFromSource, to: SourceImportTarget): SourceImport {
  const { draft } = to;
  const people = new Map(to.links.people);
  const items = new Map(to.links.items);
  const counts = { person: none(), item: none(), grade: none() };
  const refused: RefusedTold[] = [];
  const each = <T extends { readonly id: string }>(
    what: RefusedTold['what'],
    all: readonly T[],
    take: (one: T) => Outcome | 'gone' | null,
  ) => {
    for (const one of all) {
      try {
        const outcome = take(one);
        if (outcome) counts[what][outcome]++;
      } catch (error) {
        if (!(error instanceof RefusedRow)) throw error;
        refused.push({ what, id: one.id, code: error.code, message: error.message });
      }
    }
  };
  const taken = { people: new Set([...people.values()].map((l) => l.key)), items: new Set(items.values()) };
  each('person', told.people, (p) => takePerson(p, to, people, taken.people));
  if (told.isWhole) {
    const named = new Set(told.people.map((p) => p.id));
    for (const [id, { key, alone }] of people) {
      const person = named.has(id) || !alone ? undefined : draft.personById(key);
      // Who was made inactive by hand, or again active, is as somebody decided.
      if (!person || person.active === false || to.byHand(key, 'active')) continue;
      draft.changePerson(person, (p) => (p.active = false));
      counts.person.gone++;
    }
  }
  each('item', told.items, (i) => takeItem(i, to, items, taken.items));
  each('grade', told.grades, (g) => takeGrade(g, to, people, items));
  return { links: { people, items }, people: counts.person, items: counts.item, grades: counts.grade, refused };
}

type People = Map<string, { readonly key: string; readonly alone: boolean }>;

/** `taken`: who is meant by an id already, and is nobody else's by their address. */
function takePerson(
  told: PersonFromSource,
  to: SourceImportTarget,
  links: People,
  taken: Set<string>,
): Outcome | 'gone' | null {
  const { draft } = to;
  if (told.email !== null && !isAddress(told.email))
    throw new RefusedRow('email', 'address', `“${told.email}” is not an email address`);
  const linked = links.get(told.id);
  const byEmail = told.email === null ? undefined : draft.personByEmail(told.email);
  const known = (linked && draft.personById(linked.key)) ?? (byEmail && !taken.has(byEmail.id) ? byEmail : undefined);
  if (!known) {
    // Who was never here need not leave.
    if (!told.active) return null;
    const id = linked?.key ?? draft.freePersonId(told.id);
    // Who was erased is known by the id of the source too: it may tell no address.
    if ([id, told.id].some((known) => to.isErased({ id: known, email: told.email }))) return null;
    draft.addPerson({
      id,
      firstName: told.firstName,
      lastName: told.lastName,
      email: told.email,
      role: told.role,
      ...(told.section == null ? {} : { section: told.section }),
      enrolledAt: draft.write(to.now),
    });
    links.set(told.id, { key: id, alone: true });
    taken.add(id);
    return 'new';
  }
  links.set(told.id, linked ?? { key: known.id, alone: false });
  taken.add(known.id);
  const wasActive = known.active ?? true;
  const said: Partial<DraftPerson> = {
    ...(told.firstName === '' && told.lastName === '' ? {} : { firstName: told.firstName, lastName: told.lastName }),
    ...(told.email === null ? {} : { email: told.email }),
    ...(told.section === undefined ? {} : { section: told.section }),
    role: told.role,
    active: told.active,
  };
  const isChanged = draft.changePerson(known, (person) => {
    for (const [field, value] of Object.entries(said))
      if (!to.byHand(known.id, field) && !(field === 'active' && value === (person.active ?? true)))
        Object.assign(person, { [field]: value });
  });
  if (wasActive && known.active === false) return 'gone';
  return isChanged ? 'changed' : 'same';
}

function takeItem(
  told: ItemFromSource,
  to: SourceImportTarget,
  links: Map<string, string>,
  taken: Set<string>,
): Outcome | 'gone' | null {
  const { draft } = to;
  const linked = links.get(told.id);
  if (told.gone === true) return linked === undefined ? null : 'same';
  if (told.title === '') throw new RefusedRow('title', 'noTitle', 'This item has no title');
  const known =
    (linked === undefined ? undefined : draft.knownItem(linked)) ??
    [draft.knownItem(told.title)].find((i) => i !== undefined && !taken.has(i.id));
  const write = (item: DraftItem, isNew: boolean) => {
    const set = <K extends keyof DraftItem>(field: K, value: DraftItem[K] | undefined) => {
      if (value !== undefined && (isNew || !to.byHand(item.id, field))) item[field] = value;
    };
    /** The same instant may be written in another way: that is no change. */
    const setTime = (field: 'opensAt' | 'dueAt', at: Instant | null | undefined) => {
      const known = item[field];
      if (at != null && (known == null || Date.parse(known) !== at)) set(field, draft.write(at));
    };
    set('title', told.title);
    set('points', told.points ?? undefined);
    set('group', told.group ?? undefined);
    setTime('opensAt', told.opensAt);
    setTime('dueAt', told.dueAt);
  };
  if (known) {
    links.set(told.id, known.id);
    taken.add(known.id);
    return draft.changeItem(known, (item) => write(item, false)) ? 'changed' : 'same';
  }
  const item: DraftItem = {
    id: draft.freeId(/^[\w.-]{1,80}$/.test(told.id) ? told.id : slugOf(told.title)),
    title: told.title,
    kind: kindOfTitle(told.title, told.group ?? ''),
  };
  write(item, true);
  draft.addItem(item);
  links.set(told.id, item.id);
  taken.add(item.id);
  return 'new';
}

function takeGrade(
  told: GradeFromSource,
  to: SourceImportTarget,
  people: People,
  items: ReadonlyMap<string, string>,
): Outcome | null {
  const { draft } = to;
  const [person, item] = [people.get(told.person)?.key, items.get(told.item)];
  // A row that names somebody or something that is not taken is skipped.
  if (person === undefined || item === undefined || !draft.personById(person) || !draft.knownItem(item)) return null;
  if (!Number.isFinite(told.points) || told.points < 0)
    throw new RefusedRow('score', 'negative', `“${told.points}” is less than zero`);
  const grade = { person, item, criterion: null, points: told.points };
  // Points that are in force already are the same, whenever the platform says that they were given.
  const inForce = draft.facts.gradeInForce({ ...grade, at: to.now });
  if (inForce?.points === told.points) return 'same';
  const said = Math.min(told.at ?? to.now, to.now);
  return draft.facts.addGrade({ ...grade, at: inForce && said <= inForce.at ? to.now : said });
}
