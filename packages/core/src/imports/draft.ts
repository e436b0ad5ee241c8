/** A scenario while files are merged into it: its parts as they are written, and who and what is found in them. */
import type { ActivityEvent } from '../activity/event.ts';
import { formatInstant, parseInstant, type Instant } from '../time/instant.ts';
import { zoneOf, type Zone } from '../time/zone.ts';
import { RefusedRow } from './refused.ts';
import { eventKey, FactBook, gradeKey, knownFrom, type KnownFacts } from './facts.ts';

export interface DraftPerson {
  id: string;
  firstName: string;
  lastName: string;
  email?: string | null;
  role: string;
  section?: string | null;
  active?: boolean;
  paused?: boolean;
  enrolledAt: string;
  contacts?: { kind: string; name: string; email: string }[];
  fields?: Record<string, string | number>;
}

export interface DraftItem {
  id: string;
  title: string;
  kind: string;
  group?: string | null;
  points?: number | null;
  opensAt?: string | null;
  dueAt?: string | null;
  topics?: string[];
  excused?: string[];
  extensions?: { person?: string; section?: string; dueAt: string }[];
  url?: string | null;
}

export interface DraftEvent {
  person: string;
  kind: ActivityEvent['kind'];
  item?: string | null;
  at: string;
}

export interface DraftGrade {
  person: string;
  item: string;
  criterion?: string | null;
  points: number;
  at: string;
}

/** The scenario format as JSON; only what imports touch is typed. */
export interface ScenarioJson {
  readonly course: {
    readonly code?: string;
    readonly title?: string;
    readonly timeZone: string;
    readonly url?: string | null;
    start: string;
    end: string;
    breaks?: { from: string; to: string; name: string }[];
  };
  people: DraftPerson[];
  items?: DraftItem[];
  events?: DraftEvent[];
  grades?: DraftGrade[];
}

/** What somebody chose for texts that the course does not know, by the text in small letters. */
export interface Choices {
  /** The id of a person. */
  readonly people?: Readonly<Record<string, string>> | undefined;
  /** The id of an item; `new` makes one, `nothing` leaves it out. */
  readonly items?: Readonly<Record<string, ItemChoice>> | undefined;
  /** By the id of an item: whether points above those possible are taken as they are, or left out. */
  readonly over?: Readonly<Record<string, OverChoice>> | undefined;
}
export type OverChoice = 'take' | 'leave';
export type ItemChoice = { readonly item: string } | 'new' | 'nothing';

const key = (text: string): string => text.trim().toLowerCase();
/** An own property alone: a file may call somebody “constructor”. */
const chosen = <T>(choices: Readonly<Record<string, T>> | undefined, said: string): T | undefined =>
  choices && Object.hasOwn(choices, key(said)) ? choices[key(said)] : undefined;

/** Values by a key of theirs; several may share one. */
function indexBy<T>(values: readonly T[], keyOf: (value: T) => string | null | undefined): Map<string, T[]> {
  const index = new Map<string, T[]>();
  for (const value of values) {
    const text = keyOf(value);
    if (!text) continue;
    const known = index.get(key(text));
    if (known) known.push(value);
    else index.set(key(text), [value]);
  }
  return index;
}

export class Draft {
  readonly json: ScenarioJson;
  readonly zone: Zone;
  readonly facts: FactBook;
  choices: Choices = {};
  /** Who the file that is being taken has named, where it is a roster. */
  readonly named = new Set<string>();
  private people: Record<'id' | 'email' | 'name', Map<string, DraftPerson[]>> | null = null;
  private items: Record<'id' | 'title', Map<string, DraftItem[]>> | null = null;

  /** `json` is changed; hand in a copy. `known`: what happened, where that is not in it; `latest`: what
   * happens later cannot have happened. */
  constructor(json: ScenarioJson, known?: KnownFacts, latest = Infinity) {
    this.json = json;
    this.zone = zoneOf(json.course.timeZone);
    json.items ??= [];
    json.events ??= [];
    json.grades ??= [];
    this.facts = new FactBook(known ?? knownFrom(json.events.map(eventOf), json.grades.map(gradeOf)), latest);
  }

  /** As it is written: with its offset in the course's zone. */
  write(at: Instant): string {
    return formatInstant(at, this.json.course.timeZone);
  }

  /** The facts that were taken, as part of the scenario. */
  toScenario(): ScenarioJson {
    const { events, grades, retractedEvents, retractedGrades } = this.facts;
    const gone = new Set([...retractedEvents.map(eventKey), ...retractedGrades.map(gradeKey)]);
    const optional = (name: string, value: string | null) => (value === null ? {} : { [name]: value });
    return {
      ...this.json,
      events: [
        ...this.json.events!.filter((e) => !gone.has(eventKey(eventOf(e)))),
        ...events.map((e) => ({
          person: e.person,
          kind: e.kind,
          ...optional('item', e.item),
          at: this.write(e.at),
        })),
      ],
      grades: [
        ...this.json.grades!.filter((g) => !gone.has(gradeKey(gradeOf(g)))),
        ...grades.map((g) => ({
          person: g.person,
          item: g.item,
          ...optional('criterion', g.criterion),
          points: g.points,
          at: this.write(g.at),
        })),
      ],
    };
  }

  /** The roster or the items were changed: they are found anew. */
  changed(): void {
    this.people = null;
    this.items = null;
  }

  private get byPerson() {
    return (this.people ??= {
      id: indexBy(this.json.people, (p) => p.id),
      email: indexBy(this.json.people, (p) => p.email),
      name: indexBy(this.json.people, (p) => `${p.firstName} ${p.lastName}`),
    });
  }

  personById(id: string): DraftPerson | undefined {
    return this.byPerson.id.get(key(id))?.[0];
  }

  personByEmail(email: string): DraftPerson | undefined {
    const found = this.byPerson.email.get(key(email));
    return found?.length === 1 ? found[0] : undefined;
  }

  /**
   * The person of a row, by id, by address, else by a name that only one has. Throws `RefusedRow`; `columns` name the cells.
   */
  person(
    cells: {
      readonly id?: string;
      readonly email?: string;
      readonly firstName?: string;
      readonly lastName?: string;
      readonly name?: string;
    },
    column: (field: string) => string | null,
  ): DraftPerson {
    const { id = '', email = '' } = cells;
    const asId = (text: string) => (text === '' ? undefined : (this.personById(text) ?? this.personByEmail(text)));
    const byId = asId(id) ?? (id === '' ? asId(cells.name ?? '') : undefined);
    const found = byId ?? (email === '' ? undefined : this.personByEmail(email));
    if (found) return found;
    const said = [id, email, cells.name, `${cells.firstName ?? ''} ${cells.lastName ?? ''}`.trim()].find(Boolean);
    const choice = said === undefined ? undefined : chosen(this.choices.people, said);
    const picked = choice === undefined ? undefined : this.personById(choice);
    if (picked) return picked;
    // A column that is called “Student” holds ids in one file and names in the next.
    const name = nameOf(cells) ?? nameOf({ name: id });
    const byName = name ? (this.byPerson.name.get(key(`${name.firstName} ${name.lastName}`)) ?? []) : [];
    if (byName.length === 1) return byName[0]!;
    if (byName.length > 1) {
      const message = `${byName.length} people are called “${name!.firstName} ${name!.lastName}”. Add an id or an address`;
      const question = { about: 'person', said: said!, candidates: byName.map((p) => p.id) } as const;
      throw new RefusedRow(column('name') ?? column('lastName'), 'ambiguousPerson', message, question);
    }
    const message = said
      ? `Nobody in this course is “${said}”`
      : 'This row names nobody. Add an id, an address or a name';
    throw new RefusedRow(
      column('person') ?? column('id') ?? column('email') ?? column('name'),
      'unknownPerson',
      message,
      said === undefined ? null : { about: 'person', said, candidates: [] },
    );
  }

  /** The session on the local date of an instant, if there is exactly one. */
  sessionOn(at: Instant): DraftItem | undefined {
    const dateOf = (t: Instant) => this.write(t).slice(0, 10);
    const date = dateOf(at);
    const on = this.json.items!.filter((i) => {
      const when = i.opensAt ?? i.dueAt;
      return i.kind === 'session' && when != null && dateOf(Date.parse(when)) === date;
    });
    return on.length === 1 ? on[0] : undefined;
  }

  /** By what somebody chose, by id, else by a title that only one has. Null: it is to be left out. */
  item(text: string): DraftItem | null | undefined {
    const choice = chosen(this.choices.items, text);
    if (choice === 'nothing') return null;
    if (typeof choice === 'object') return this.knownItem(choice.item);
    const known = this.knownItem(text);
    return !known && choice === 'new' ? this.newItem(text) : known;
  }

  private knownItem(text: string): DraftItem | undefined {
    this.items ??= {
      id: indexBy(this.json.items!, (i) => i.id),
      title: indexBy(this.json.items!, (i) => i.title),
    };
    const byTitle = this.items.title.get(key(text));
    return this.items.id.get(key(text))?.[0] ?? (byTitle?.length === 1 ? byTitle[0] : undefined);
  }

  private newItem(title: string): DraftItem {
    const item: DraftItem = { id: this.freeId(slugOf(title)), title, kind: 'assignment' };
    this.json.items!.push(item);
    this.changed();
    return item;
  }

  /** An id that no item has yet. */
  freeId(wanted: string): string {
    for (let n = 1, id = wanted; ; id = `${wanted}-${++n}`) if (!this.json.items!.some((i) => i.id === id)) return id;
  }

  /** The refusal of an item that the course does not have. */
  unknownItem(said: string, column: string | null): RefusedRow {
    const message = `There is no item “${said}” in this course`;
    return new RefusedRow(column, 'unknownItem', message, { about: 'item', said });
  }
}

/** A title as an id: small letters, digits and hyphens. */
export const slugOf = (title: string): string =>
  title
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '') || 'item';

const eventOf = (e: DraftEvent) => ({ person: e.person, kind: e.kind, item: e.item ?? null, at: parseInstant(e.at) });
const gradeOf = (g: DraftGrade) => ({ ...g, criterion: g.criterion ?? null, at: parseInstant(g.at) });

/** First and last name, also of "Okoro, Imani" and "Imani Okoro"; null where neither is there. */
export function nameOf(cells: {
  readonly firstName?: string;
  readonly lastName?: string;
  readonly name?: string;
}): { readonly firstName: string; readonly lastName: string } | null {
  if (cells.firstName || cells.lastName) return { firstName: cells.firstName ?? '', lastName: cells.lastName ?? '' };
  const name = (cells.name ?? '').replace(/\s+/g, ' ').trim();
  if (name === '') return null;
  const comma = name.indexOf(',');
  if (comma > 0) return { firstName: name.slice(comma + 1).trim(), lastName: name.slice(0, comma).trim() };
  const blank = name.lastIndexOf(' ');
  return blank < 0
    ? { firstName: name, lastName: '' }
    : { firstName: name.slice(0, blank), lastName: name.slice(blank + 1) };
}
