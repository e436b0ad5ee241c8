/** Rows of a sheet as readers of a message: whom each names, and the course in which its columns are fields. */
import { isAddress } from '../../course/address.ts';
import { makeCourse, type Course } from '../../course/course.ts';
import type { Person } from '../../course/person.ts';
import { courseDraft } from './courseDraft.ts';
import type { ImportDraft } from './draft.ts';
import { knownFrom } from './facts.ts';
import { fieldsOf } from '../read/headers.ts';
import { nameOf } from '../read/names.ts';
import { RefusedRow } from '../read/refused.ts';

/** Somebody who is not in the course and is written to at an address of their own. */
export interface Guest {
  readonly firstName: string;
  readonly lastName: string;
  readonly email: string;
}

/** What a message has of each reader, by the id of a person, or by the address of a guest. */
export type MailingRows = Readonly<
  Record<string, { readonly values: Readonly<Record<string, string>>; readonly guest: Guest | null }>
>;

export type SheetReader =
  | { readonly kind: 'person'; readonly id: string }
  | { readonly kind: 'guest'; readonly guest: Guest }
  | { readonly kind: 'nobody'; readonly why: string };

/** Whom each row of a sheet is about: a person by id, address or name, else the owner of the row’s own address. */
export function readersOf(
  headers: readonly string[],
  rows: readonly (readonly string[])[],
  course: Course,
): SheetReader[] {
  const draft: ImportDraft = courseDraft(course, knownFrom([], []), Infinity);
  const fields = fieldsOf(headers, 'columns');
  return rows.map((cells): SheetReader => {
    const get = (field: string) => cells[fields.indexOf(field)]?.trim() ?? '';
    const who = {
      id: get('person'),
      email: get('email'),
      name: get('name'),
      firstName: get('firstName'),
      lastName: get('lastName'),
    };
    try {
      return { kind: 'person', id: draft.person(who, () => null).id };
    } catch (error) {
      if (!(error instanceof RefusedRow)) throw error;
      if (!isAddress(who.email)) return { kind: 'nobody', why: error.message };
      const name = nameOf(who) ?? { firstName: '', lastName: '' };
      return { kind: 'guest', guest: { ...name, email: who.email } };
    }
  });
}

/** A column that holds an address names a contact, who may get a copy. */
const contactsIn = (values: Readonly<Record<string, string>>): Person['contacts'] =>
  Object.entries(values).flatMap(([kind, email]) => (isAddress(email) ? [{ kind, name: '', email }] : []));

/** The course in which the columns of a sheet are everybody’s own, and its guests are people. */
export function courseOfMailing(course: Course, rows: MailingRows): Course {
  const people = course.people.map((person): Person => {
    const row = Object.hasOwn(rows, person.id) ? rows[person.id] : undefined;
    if (!row) return person;
    const contacts = [...person.contacts, ...contactsIn(row.values)];
    return { ...person, contacts, fields: { ...person.fields, ...row.values } };
  });
  const guests = Object.entries(rows).flatMap(([id, { guest, values }]) =>
    guest
      ? [
          {
            id,
            ...guest,
            role: 'student' as const,
            section: null,
            active: true,
            enrolledAt: course.calendar.start,
            paused: false,
            contacts: contactsIn(values),
            fields: values,
          },
        ]
      : [],
  );
  return makeCourse({ ...course, people: [...people, ...guests] });
}
