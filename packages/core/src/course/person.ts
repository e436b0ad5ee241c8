/** The people of a course: students, instructors, assistants, and observers. */
import { grouped } from './grouped.ts';
import type { Instant } from '../time/instant.ts';
import { dateWords } from '../time/words.ts';

export const ROLES = ['student', 'instructor', 'assistant', 'observer'] as const;
export type Role = (typeof ROLES)[number];

/** Somebody else who may hear about a student: an advisor, a guardian, a counsellor. */
export interface Contact {
  readonly kind: string;
  readonly name: string;
  readonly email: string;
}

export interface Person {
  readonly id: string;
  readonly firstName: string;
  readonly lastName: string;
  readonly email: string | null;
  readonly role: Role;
  readonly section: string | null;
  readonly active: boolean;
  readonly enrolledAt: Instant;
  /** True while the person asked to get no nudges. */
  readonly paused: boolean;
  readonly contacts: readonly Contact[];
  /** Imported columns. */
  readonly fields: Readonly<Record<string, string | number>>;
}

export const fullName = (p: Person): string => `${p.firstName} ${p.lastName}`.trim();
export const isActiveStudent = (p: Person): boolean => p.active && p.role === 'student';

const apart = new WeakMap<readonly Person[], ReadonlyMap<string, string>>();

/** Everybody's name by id, two of one name told apart: by their section, else their address, else their id. */
function namesApart(people: readonly Person[]): ReadonlyMap<string, string> {
  let names = apart.get(people);
  if (names) return names;
  const alike = grouped(people, (p) => fullName(p).toLowerCase());
  names = new Map(people.map((p) => [p.id, nameAmong(p, alike.get(fullName(p).toLowerCase())!)]));
  apart.set(people, names);
  return names;
}

function nameAmong(person: Person, alike: readonly Person[]): string {
  const name = fullName(person);
  if (alike.length === 1) return name;
  const isOwn = (of: (p: Person) => string | null): boolean =>
    of(person) !== null && alike.filter((p) => of(p) === of(person)).length === 1;
  if (isOwn((p) => p.section)) return `${name} (section ${person.section})`;
  return `${name} (${isOwn((p) => p.email) ? person.email : person.id})`;
}

/** The name of somebody of a course, told apart from others of the same name; the id itself for somebody who is not there. */
/** The id of an erased student in the rows that keep counts true: a number of their own, and the day. */
export const erasedId = (n: number, date: string): string => `erased:${n}:${date}`;

function erasedName(id: string): string | null {
  const [, date] = /^erased:\d+:(\d{4}-\d{2}-\d{2})$/.exec(id) ?? [];
  return date === undefined ? null : `a student, erased on ${dateWords(date)}`;
}

export const nameIn = (course: { readonly people: readonly Person[] }, id: string): string =>
  namesApart(course.people).get(id) ?? erasedName(id) ?? id;
