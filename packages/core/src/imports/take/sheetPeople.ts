/** Whom each row of a sheet is about, and what it says of them ([F5], [F6]): found, added, or refused. */
import type { Instant } from '../../time/instant.ts';
import type { DayOrder } from '../read/dates.ts';
import { slugOf, type ImportDraft, type DraftPerson, type PersonCells } from './draft.ts';
import { CONTACT, zoneIn, type FieldName } from '../read/headers.ts';
import { bracketsOf, looksLikeId, nameOf, namesOf, plainName, type PersonName } from '../read/names.ts';
import { activeOf, addressOf, enrolledOf, roleOf } from './personCells.ts';
import { RefusedRow } from '../read/refused.ts';
import { mustBeNoError } from './sheetCells.ts';
import type { Survey } from './survey.ts';
import type { TableRow } from '../read/table.ts';

/** What a row says of its person, read before anything of it is written: a row is taken whole or not at all. */
interface PersonInRow {
  readonly name: PersonName | null;
  readonly email: string;
  readonly role: string | null;
  readonly section: string;
  readonly active: boolean | null;
  readonly enrolledAt: Instant | null;
  readonly contacts: readonly { readonly kind: string; readonly name: string; readonly email: string }[];
}

export interface FoundPerson {
  readonly person: DraftPerson;
  readonly outcome: 'new' | 'changed' | 'same';
  /** A later row of somebody: it says nothing more about them. */
  readonly isLater: boolean;
}

export interface PeopleToFind {
  readonly draft: ImportDraft;
  readonly headers: readonly string[];
  readonly fields: readonly (FieldName | null)[];
  readonly survey: Survey;
  readonly orderOf: (place: number) => DayOrder;
  readonly asOf: Instant;
  /** In a roster what is filled replaces what is known. */
  readonly isRoster: boolean;
  /** People whom the course lacks are added. */
  readonly mayAdd: boolean;
  /** Nothing is written: the rows are wrong. */
  readonly isCorrection: boolean;
}

export class SheetPeople {
  /** Fields that differ from what is known, and stay as they are known. */
  differs = 0;
  /** Rows of people whom the course lacks, who could be added. */
  offered = 0;
  private readonly order: PeopleToFind;
  private readonly places = new Map<FieldName, number>();
  private readonly ids: readonly number[];
  /** By person, the name of their first row. */
  private readonly seen = new Map<DraftPerson, string>();

  constructor(order: PeopleToFind) {
    this.order = order;
    order.fields.forEach((field, place) => field !== null && !this.places.has(field) && this.places.set(field, place));
    this.ids = order.fields.flatMap((field, place) => (field === 'id' ? [place] : []));
  }

  private cell(row: TableRow, field: FieldName): string {
    const place = this.places.get(field);
    return place === undefined ? '' : row.cells[place]!;
  }

  private readonly column = (field: FieldName): string | null => {
    const place = this.places.get(field === 'person' ? 'id' : field);
    return place === undefined ? null : this.order.headers[place]!;
  };

  /** Where a field of a person is in the sheet; both parts of a name may stand in one column. */
  private readonly fieldColumn = (field: string): string | null =>
    this.column(field) ?? (/Name$/.test(field) ? this.column('name') : null);

  who(row: TableRow): PersonCells {
    const ids = this.ids.map((place) => row.cells[place]!).filter((id) => id !== '');
    const [id = '', ...otherIds] = ids;
    const { name, firstName, lastName, email } = Object.fromEntries(
      (['name', 'firstName', 'lastName', 'email'] as const).map((field) => [field, this.cell(row, field)]),
    ) as Record<'name' | 'firstName' | 'lastName' | 'email', string>;
    return { id, otherIds, email, name, firstName, lastName };
  }

  /** Finds or adds the person of a row, and writes what it says of them. Throws `RefusedRow`. */
  take(row: TableRow): FoundPerson {
    const { draft, headers, fields, isRoster, mayAdd, isCorrection } = this.order;
    fields.forEach((field, place) => field !== null && mustBeNoError(row.cells[place]!, headers[place]!));
    const who = this.who(row);
    const said = this.saidOf(row, who);
    const known = this.find(who, said);
    const name = said.name ? plainName(`${said.name.firstName} ${said.name.lastName}`) : '';
    if (known) {
      const before = this.seen.get(known);
      if (before !== undefined) {
        if (before === name || before === '' || name === '') return { person: known, outcome: 'same', isLater: true };
        const message = `This is the id or address of “${known.firstName} ${known.lastName}”, who is in a row above`;
        throw new RefusedRow(this.column('id') ?? this.column('email'), 'twice', message);
      }
      this.seen.set(known, name);
      if (isCorrection) return { person: known, outcome: 'same', isLater: false };
      const changed = isRoster ? this.replace(known, said) : this.fill(known, said);
      if (isRoster) draft.named.add(known.id);
      return { person: known, outcome: changed ? 'changed' : 'same', isLater: false };
    }
    if (!said.name)
      throw new RefusedRow(this.column('name') ?? this.column('lastName'), 'noName', 'This row has no name');
    if (!mayAdd || isCorrection) {
      this.offered++;
      // Nobody is found: this names the cell and asks who it may be.
      draft.person(who, this.column);
    }
    const person = this.add(who, said, said.name);
    this.seen.set(person, name);
    if (isRoster) draft.named.add(person.id);
    return { person, outcome: 'new', isLater: false };
  }

  /** The person whom a row names, or undefined where it could be a new one. Throws `RefusedRow`. */
  private find(who: PersonCells, { name, email }: PersonInRow): DraftPerson | undefined {
    const { draft, survey, isRoster } = this.order;
    const isBare = who.id === '' && who.email === '';
    if (
      isBare &&
      name &&
      survey.namesakes.has(plainName(`${name.firstName} ${name.lastName}`)) &&
      !draft.chosenPerson(who)
    ) {
      const candidates = draft.peopleCalled(name).map((p) => p.id);
      const text = who.name === '' ? `${name.firstName} ${name.lastName}` : who.name!;
      const message = `Several rows are called “${text}”. Add an id or an address to each`;
      throw new RefusedRow(this.column('name') ?? this.column('lastName'), 'ambiguousPerson', message, {
        about: 'person',
        said: text,
        candidates,
      });
    }
    let found: DraftPerson;
    try {
      found = draft.person(who, this.column);
    } catch (error) {
      if (error instanceof RefusedRow && error.code === 'unknownPerson') return undefined;
      throw error;
    }
    return isRoster && this.isNamesake(found, who, email) ? undefined : found;
  }

  /** In a roster an id and an address of their own tell somebody from another of the same name. */
  private isNamesake(found: DraftPerson, { id = '', otherIds = [] }: PersonCells, email: string): boolean {
    const same = (a: string, b: string | null | undefined) => a.toLowerCase() === (b ?? '').toLowerCase();
    const ids = [id, ...otherIds].filter((text) => text !== '');
    if (
      ids.some((text) => same(text, found.id) || same(text, found.email)) ||
      (email !== '' && same(email, found.email))
    )
      return false;
    const isMade = same(found.id, found.email) || found.id.startsWith(slugOf(`${found.firstName} ${found.lastName}`));
    return (email !== '' && !!found.email) || (ids.length > 0 && !isMade);
  }

  private add(who: PersonCells, said: PersonInRow, name: PersonName): DraftPerson {
    const { draft } = this.order;
    const inBrackets = bracketsOf(who.name ?? '').within.find(looksLikeId);
    const wanted = who.id || inBrackets || said.email.toLowerCase() || slugOf(`${name.firstName} ${name.lastName}`);
    const person: DraftPerson = {
      id: draft.freePersonId(wanted),
      ...name,
      role: said.role ?? 'student',
      enrolledAt: draft.write(said.enrolledAt ?? draft.frame(0).start),
    };
    if (said.email !== '') person.email = said.email;
    if (said.section !== '') person.section = said.section;
    if (said.active !== null) person.active = said.active;
    if (said.contacts.length > 0) person.contacts = said.contacts.map((c) => ({ ...c }));
    draft.addPerson(person, this.fieldColumn);
    return person;
  }

  private saidOf(row: TableRow, who: PersonCells): PersonInRow {
    const { draft, asOf, orderOf } = this.order;
    const role = this.cell(row, 'role');
    const active = this.cell(row, 'active');
    const enrolled = this.cell(row, 'enrolledAt');
    const inBrackets = bracketsOf(who.name ?? '').within.find((text) => text.includes('@')) ?? '';
    const email = who.email !== '' ? who.email! : inBrackets;
    return {
      name: nameOf(who),
      email: email === '' ? '' : addressOf(email, this.column('email') ?? this.column('name')),
      role: role === '' ? null : roleOf(role, this.column('role')),
      section: this.cell(row, 'section'),
      active: active === '' ? null : activeOf(active, this.column('active')),
      enrolledAt:
        enrolled === ''
          ? null
          : enrolledOf(enrolled, this.column('enrolledAt')!, {
              zone: zoneIn(this.column('enrolledAt')!) ?? draft.zone,
              order: orderOf(this.places.get('enrolledAt')!),
              frame: draft.frame(asOf),
            }),
      contacts: this.contactsIn(row),
    };
  }

  private contactsIn(row: TableRow): PersonInRow['contacts'] {
    const kinds = new Map<string, { name: string; email: string }>();
    for (const [field, place] of this.places) {
      const cell = row.cells[place]!;
      const [, kind, isEmail] = CONTACT.exec(field) ?? [];
      if (kind === undefined || cell === '') continue;
      const contact = kinds.get(kind) ?? { name: '', email: '' };
      kinds.set(
        kind,
        isEmail ? { ...contact, email: addressOf(cell, this.order.headers[place]!) } : { ...contact, name: cell },
      );
    }
    return [...kinds].flatMap(([kind, contact]) => (contact.email === '' ? [] : [{ kind, ...contact }]));
  }

  /** In a roster what is filled replaces what is known. Returns whether anything changed. */
  private replace(person: DraftPerson, said: PersonInRow): boolean {
    const { draft } = this.order;
    const write = (next: DraftPerson) => {
      // What differs only in what is overlooked is kept as it is, and is said again.
      if (said.name) Object.assign(next, isSameName(next, said.name) ? nameIn(next) : filledOf(said.name));
      if (said.email !== '') next.email = said.email;
      if (said.role !== null) next.role = said.role;
      if (said.section !== '') next.section = said.section;
      if (said.active !== null) next.active = said.active;
      if (said.enrolledAt !== null) next.enrolledAt = draft.write(said.enrolledAt);
      for (const contact of said.contacts) {
        const known = next.contacts ?? [];
        const place = known.findIndex((c) => c.kind === contact.kind);
        next.contacts = place < 0 ? [...known, contact] : known.with(place, contact);
      }
    };
    return draft.changePerson(person, write, this.fieldColumn);
  }

  /** Elsewhere a field is written only where the person has none; those that differ are counted. */
  private fill(person: DraftPerson, said: PersonInRow): boolean {
    const same = (a: string, b: string) => a.toLowerCase() === b.toLowerCase();
    if (said.name && !isSameName(person, said.name)) this.differs++;
    if (said.role !== null && said.role !== person.role) this.differs++;
    if (said.active !== null && said.active !== (person.active ?? true)) this.differs++;
    const write = (next: DraftPerson) => {
      for (const field of ['email', 'section'] as const) {
        if (said[field] === '') continue;
        if (next[field] && !same(next[field], said[field])) this.differs++;
        else next[field] ||= said[field];
      }
      for (const contact of said.contacts) {
        const known = next.contacts?.find((c) => c.kind === contact.kind);
        if (!known) next.contacts = [...(next.contacts ?? []), contact];
        else if (!same(known.email, contact.email)) this.differs++;
      }
    };
    return this.order.draft.changePerson(person, write, this.fieldColumn);
  }
}

const nameIn = ({ firstName, lastName }: PersonName): PersonName => ({ firstName, lastName });

/** What a name says: a part that is blank changes nothing. */
const filledOf = (name: PersonName): Partial<PersonName> =>
  Object.fromEntries(Object.entries(name).filter(([, part]) => part !== ''));

/** Whether two names differ only in ignored details; a part that the second leaves blank is ignored. */
function isSameName(known: PersonName, said: PersonName): boolean {
  const whole = { ...known, ...filledOf(said) };
  const [own, turned] = namesOf(known);
  const [first] = namesOf(whole);
  return first === own || first === turned;
}
