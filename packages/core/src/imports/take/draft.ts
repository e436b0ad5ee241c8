/** A scenario while files are merged into it: its parts as they are written, and who and what is found in them. */
import type { ActivityEvent } from '../../activity/event.ts';
import { freeId } from '../../course/freeId.ts';
import { BOUNDS } from '../../course/bounds.ts';
import { scenarioItemSchema, scenarioPersonSchema } from '../../scenario/format.ts';
import { DAY, formatInstant, parseInstant, type Instant } from '../../time/instant.ts';
import type { DateFrame } from '../read/dates.ts';
import { numberWords } from '../../time/words.ts';
import { zoneOf, type Zone } from '../../time/zone.ts';
import { EntriesAgain } from './again.ts';
import { changeFitting, mustFit, noColumn, type NameOfColumn } from './fitting.ts';
import { RefusedRow } from '../read/refused.ts';
import { eventKey, FactBook, gradeKey, knownFrom, type KnownFacts } from './facts.ts';
import { forgotten, indexBy, indexed, key } from './lookup.ts';
import { bracketsOf, nameOf, namesOf, plainName, type PersonName } from '../read/names.ts';

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
  readonly format?: string;
  readonly course: {
    readonly code?: string;
    readonly title?: string;
    readonly timeZone: string;
    readonly url?: string | null;
    /** Percent by letter; the common scale if the course has none of its own. */
    readonly letters?: Readonly<Record<string, number>> | null;
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
  /** The id of a person; empty for nobody: the row is left out. */
  readonly people?: Readonly<Record<string, string>> | undefined;
  /** The id of an item; `new` makes one, `nothing` leaves it out. */
  readonly items?: Readonly<Record<string, ItemChoice>> | undefined;
  /** By the id of an item: whether points above those possible are taken as they are, or left out. */
  readonly over?: Readonly<Record<string, OverChoice>> | undefined;
}
export type OverChoice = 'take' | 'leave';
export type ItemChoice = { readonly item: string } | 'new' | 'nothing';

/** An own property alone: a file may call somebody “constructor”. */
const chosen = <T>(choices: Readonly<Record<string, T>> | undefined, said: string): T | undefined =>
  choices && Object.hasOwn(choices, key(said)) ? choices[key(said)] : undefined;

/** The cells by which a person is found. */
export interface PersonCells {
  readonly id?: string;
  /** Other ids, looked up in order. */
  readonly otherIds?: readonly string[];
  readonly email?: string;
  readonly firstName?: string;
  readonly lastName?: string;
  readonly name?: string;
}

export class ImportDraft {
  readonly json: ScenarioJson;
  readonly zone: Zone;
  readonly facts: FactBook;
  readonly again = new EntriesAgain();
  choices: Choices = {};
  private lastFrame: DateFrame | null = null;
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
        ...[...events].map((e) => ({
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
      name: this.peopleByName(),
    });
  }

  private peopleByName(): Map<string, DraftPerson[]> {
    const index = new Map<string, DraftPerson[]>();
    for (const person of this.json.people) this.indexName(index, person);
    return index;
  }

  /** In either order; listed once if both parts are alike. */
  private indexName(index: Map<string, DraftPerson[]>, person: DraftPerson): void {
    for (const name of new Set(namesOf(person))) indexed(index, name, person);
  }

  /** Adds a person, who is found from now on. Throws `RefusedRow` for one that does not fit, as of a name that is too long. */
  addPerson(person: DraftPerson, column: NameOfColumn = noColumn): void {
    if (this.json.people.length >= BOUNDS.people)
      throw new RefusedRow(null, 'tooMany', `A course has at most ${numberWords(BOUNDS.people)} people`);
    mustFit(scenarioPersonSchema, person, column);
    this.json.people.push(person);
    if (this.people === null) return;
    indexed(this.people.id, key(person.id), person);
    indexed(this.people.email, person.email ? key(person.email) : null, person);
    this.indexName(this.people.name, person);
  }

  /**
   * Changes a person, who is found as they are from now on. False where nothing is different. Throws `RefusedRow` for one who would not
   * fit any more, and leaves them as they were.
   */
  changePerson(person: DraftPerson, change: (person: DraftPerson) => void, column: NameOfColumn = noColumn): boolean {
    const { before, again } = changeFitting(scenarioPersonSchema, person, change, column);
    this.again.say('people', person.id, again);
    if (before) this.personChanged(person, before);
    return before !== null;
  }

  private personChanged(person: DraftPerson, before: Pick<DraftPerson, 'firstName' | 'lastName' | 'email'>): void {
    if (this.people === null) return;
    const { email, name } = this.people;
    if (before.email !== person.email) {
      forgotten(email, before.email ? key(before.email) : null, person);
      indexed(email, person.email ? key(person.email) : null, person);
    }
    if (before.firstName === person.firstName && before.lastName === person.lastName) return;
    for (const old of new Set(namesOf(before))) forgotten(name, old, person);
    this.indexName(name, person);
  }

  /** The same for an item. */
  changeItem(item: DraftItem, change: (item: DraftItem) => void, column: NameOfColumn = noColumn): boolean {
    const { before, again } = changeFitting(scenarioItemSchema, item, change, column);
    this.again.say('items', item.id, again);
    if (before) this.itemChanged(item, before);
    return before !== null;
  }

  private itemChanged(item: DraftItem, before: Pick<DraftItem, 'title'>): void {
    if (this.items === null || before.title === item.title) return;
    forgotten(this.items.title, key(before.title), item);
    indexed(this.items.title, key(item.title), item);
  }

  /** Adds an item, which is found from now on. Throws `RefusedRow` for one that does not fit. */
  addItem(item: DraftItem, column: NameOfColumn = noColumn): void {
    if (this.json.items!.length >= BOUNDS.items)
      throw new RefusedRow(null, 'tooMany', `A course has at most ${numberWords(BOUNDS.items)} items`);
    mustFit(scenarioItemSchema, item, column);
    this.json.items!.push(item);
    if (this.items === null) return;
    indexed(this.items.id, key(item.id), item);
    indexed(this.items.title, key(item.title), item);
  }

  /** An id that nobody has yet. */
  freePersonId(wanted: string): string {
    return freeId(wanted, (id) => this.personById(id) !== undefined);
  }

  peopleCalled(name: PersonName | string): readonly DraftPerson[] {
    const plain = typeof name === 'string' ? plainName(name) : namesOf(name)[0];
    return this.byPerson.name.get(plain) ?? [];
  }

  personById(id: string): DraftPerson | undefined {
    return this.byPerson.id.get(key(id))?.[0];
  }

  personByEmail(email: string): DraftPerson | undefined {
    const found = this.byPerson.email.get(key(email));
    return found?.length === 1 ? found[0] : undefined;
  }

  /**
   * The person of a row: by id, by address, else by a name that only one has ([F5]). Throws `RefusedRow`; `columns` name the cells.
   */
  person(cells: PersonCells, column: (field: string) => string | null): DraftPerson {
    const { id = '', email = '', name: whole = '' } = cells;
    if (id !== '' && !cells.otherIds?.length) {
      const known = this.personById(id) ?? this.personByEmail(id);
      if (known) return known;
    }
    const brackets = bracketsOf(whole).within;
    const ids = [id, ...(cells.otherIds ?? [])].filter((text) => text !== '');
    const byIds = new Set(ids.flatMap((text) => this.personById(text) ?? this.personByEmail(text) ?? []));
    if (byIds.size > 1) {
      const message = `${ids.map((text) => `“${text}”`).join(' and ')} are two people of this course`;
      throw new RefusedRow(column('person') ?? column('id'), 'twoPeople', message);
    }
    const inName = (ids.length === 0 ? [whole, ...brackets] : brackets).filter((text) => text !== '');
    const [found] = byIds;
    const known =
      found ??
      (email === '' ? undefined : this.personByEmail(email)) ??
      inName.map((text) => this.personById(text) ?? this.personByEmail(text)).find((p) => p !== undefined);
    if (known) return known;
    const said = saidOf(cells);
    const picked = this.chosenPerson(cells);
    if (picked) return picked;
    // A column that is called “Student” holds ids in one file and names in the next.
    const name = nameOf(cells) ?? nameOf({ name: id });
    const byName = name ? this.peopleCalled(name) : [];
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

  /** Whom somebody chose for what the row says. */
  chosenPerson(cells: PersonCells): DraftPerson | undefined {
    const said = saidOf(cells);
    const choice = said === undefined ? undefined : chosen(this.choices.people, said);
    return choice === undefined ? undefined : this.personById(choice);
  }

  /** Whether somebody said that the row is about nobody. */
  isNobody(cells: PersonCells): boolean {
    const said = saidOf(cells);
    return said !== undefined && chosen(this.choices.people, said) === '';
  }

  /** What dates without a year are read by; the same for every cell of a file. */
  frame(asOf: Instant): DateFrame {
    if (this.lastFrame?.asOf === asOf) return this.lastFrame;
    const day = (date: string, after: number) => this.zone.toInstant(Date.parse(`${date}T00:00:00Z`) + after * DAY);
    const { start, end } = this.json.course;
    return (this.lastFrame = { start: day(start, 0), end: day(end, 1), asOf });
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

  /** What somebody chose for a text that is no item. */
  itemChoice(text: string): ItemChoice | undefined {
    return chosen(this.choices.items, text);
  }

  /** By what somebody chose, by id, else by a title that only one has. Null: it is to be left out. */
  item(text: string): DraftItem | null | undefined {
    const choice = chosen(this.choices.items, text);
    if (choice === 'nothing') return null;
    if (typeof choice === 'object') return this.knownItem(choice.item);
    const known = this.knownItem(text);
    return !known && choice === 'new' ? this.newItem(text) : known;
  }

  /** The item of an id, or of a title that only one has. */
  knownItem(text: string): DraftItem | undefined {
    this.items ??= { id: indexBy(this.json.items!, (i) => i.id), title: indexBy(this.json.items!, (i) => i.title) };
    const byTitle = this.items.title.get(key(text));
    return this.items.id.get(key(text))?.[0] ?? (byTitle?.length === 1 ? byTitle[0] : undefined);
  }

  private newItem(title: string): DraftItem {
    const item: DraftItem = { id: this.freeId(slugOf(title)), title, kind: 'assignment' };
    this.addItem(item);
    return item;
  }

  /** An id that no item has yet. */
  freeId(wanted: string): string {
    this.knownItem(wanted);
    const { id: known } = this.items!;
    return freeId(wanted, (id) => known.has(key(id)));
  }

  /** The refusal of an item that the course does not have. */
  unknownItem(said: string, column: string | null): RefusedRow {
    const message = `There is no item “${said}” in this course`;
    return new RefusedRow(column, 'unknownItem', message, { about: 'item', said });
  }
}

/** The identity in a row: the first of its id, address and name that is filled. */
const saidOf = (cells: PersonCells): string | undefined =>
  [cells.id, cells.email, cells.name, `${cells.firstName ?? ''} ${cells.lastName ?? ''}`.trim()].find(Boolean);

/** A title as an id: small letters, digits and hyphens. */
export const slugOf = (title: string): string =>
  title
    .normalize('NFD')
    .replace(/\p{M}+/gu, '')
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter((word) => word !== '')
    .join('-') || 'item';

const eventOf = (e: DraftEvent) => ({ person: e.person, kind: e.kind, item: e.item ?? null, at: parseInstant(e.at) });
const gradeOf = (g: DraftGrade) => ({ ...g, criterion: g.criterion ?? null, at: parseInstant(g.at) });
