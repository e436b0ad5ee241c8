/** A scenario while files are merged into it: its parts as they are written, and who and what is found in them. */
import type { ActivityEvent } from '../activity/event.ts';
import { formatInstant, type Instant } from '../time/instant.ts';
import { zoneOf, type Zone } from '../time/zone.ts';

export interface DraftPerson {
  id: string;
  firstName: string;
  lastName: string;
  email?: string | null;
  role: string;
  section?: string | null;
  active?: boolean;
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
  excused?: string[];
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
  readonly course: { readonly timeZone: string; readonly start: string; readonly end: string };
  people: DraftPerson[];
  items?: DraftItem[];
  events?: DraftEvent[];
  grades?: DraftGrade[];
}

/** A row that could not be taken: which column, a stable code, and a sentence. */
export class RefusedRow extends Error {
  readonly column: string | null;
  readonly code: string;

  constructor(column: string | null, code: string, message: string) {
    super(message);
    this.column = column;
    this.code = code;
  }
}

const key = (text: string): string => text.trim().toLowerCase();

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
  private people: Record<'id' | 'email' | 'name', Map<string, DraftPerson[]>> | null = null;
  private items: Record<'id' | 'title', Map<string, DraftItem[]>> | null = null;

  /** `json` is changed; hand in a copy. */
  constructor(json: ScenarioJson) {
    this.json = json;
    this.zone = zoneOf(json.course.timeZone);
    json.items ??= [];
    json.events ??= [];
    json.grades ??= [];
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
    const byId = id === '' ? undefined : (this.personById(id) ?? this.personByEmail(id));
    const found = byId ?? (email === '' ? undefined : this.personByEmail(email));
    if (found) return found;
    // A column that is called “Student” holds ids in one file and names in the next.
    const name = nameOf(cells) ?? nameOf({ name: id });
    const byName = name ? (this.byPerson.name.get(key(`${name.firstName} ${name.lastName}`)) ?? []) : [];
    if (byName.length === 1) return byName[0]!;
    if (byName.length > 1) {
      const message = `${byName.length} people are called “${name!.firstName} ${name!.lastName}”. Add an id or an address`;
      throw new RefusedRow(column('name') ?? column('lastName'), 'ambiguousPerson', message);
    }
    const said = [id, email, cells.name].find(Boolean);
    const message = said
      ? `Nobody in this course is “${said}”`
      : 'This row names nobody. Add an id, an address or a name';
    throw new RefusedRow(
      column('person') ?? column('id') ?? column('email') ?? column('name'),
      'unknownPerson',
      message,
    );
  }

  /** The session on the local date of an instant, if there is exactly one. */
  sessionOn(at: Instant): DraftItem | undefined {
    const dateOf = (t: Instant) => formatInstant(t, this.json.course.timeZone).slice(0, 10);
    const date = dateOf(at);
    const on = this.json.items!.filter((i) => {
      const when = i.opensAt ?? i.dueAt;
      return i.kind === 'session' && when != null && dateOf(Date.parse(when)) === date;
    });
    return on.length === 1 ? on[0] : undefined;
  }

  /** By id, else by a title that only one has. */
  item(text: string): DraftItem | undefined {
    this.items ??= {
      id: indexBy(this.json.items!, (i) => i.id),
      title: indexBy(this.json.items!, (i) => i.title),
    };
    const byTitle = this.items.title.get(key(text));
    return this.items.id.get(key(text))?.[0] ?? (byTitle?.length === 1 ? byTitle[0] : undefined);
  }
}

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
