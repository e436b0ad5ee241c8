/** The platform's OneRoster service (1.2 and 1.1 over REST, from memory of the published bindings): lists of its classes, page by page. */
import { graded, type ClassRoster } from './classRoster.ts';

const ROOT = /^\/ims\/oneroster\/(?:rostering\/v1p2|gradebook\/v1p2|v1p1)(\/.*)$/;
export const isOneRoster = (path: string): boolean => ROOT.test(path);

/** A list under its name, or one object; null for what is not there. */
export type OneRosterAnswer =
  { readonly name: string; readonly list: readonly object[] } | { readonly name: string; readonly one: object } | null;

const statusOf = (isActive: boolean) => ({ status: isActive ? 'active' : 'tobedeleted' });
const day = (at: number) => new Date(at).toISOString().slice(0, 10);

/** What a path names; `classes` by their ids. */
export function oneRosterAnswer(path: string, classes: ReadonlyMap<string, ClassRoster>): OneRosterAnswer {
  const [, where = '', id = '', part = ''] = ROOT.exec(path)?.[1]?.split('/').map(decodeURIComponent) ?? [];
  const known = [...classes].map(([sourcedId, c]) => ({ sourcedId, title: c.title, classCode: c.code }));
  if (where === 'enrollments') return { name: 'enrollments', list: [...classes].flatMap(([c, t]) => enrolled(c, t)) };
  if (where === 'categories' || where === 'scoreScales') return { name: where, list: [] };
  if (where !== 'classes') return null;
  if (id === '') return { name: 'classes', list: known.map((c) => ({ ...c, status: 'active' })) };
  const told = classes.get(id);
  if (!told) return null;
  if (part === '') return { name: 'class', one: { ...known.find((c) => c.sourcedId === id), status: 'active' } };
  if (part === 'students') return { name: 'users', list: usersOf(told, 'student') };
  if (part === 'teachers') return { name: 'users', list: usersOf(told, 'instructor') };
  if (part === 'lineItems') return { name: 'lineItems', list: lineItems(id, told) };
  if (part === 'results') return { name: 'results', list: results(told) };
  return null;
}

const usersOf = (told: ClassRoster, role: 'student' | 'instructor'): object[] =>
  told.people
    .filter((p) => p.role === role)
    .map((p) => ({
      sourcedId: p.id,
      givenName: p.firstName,
      familyName: p.lastName,
      email: p.email ?? undefined,
      // Who left a class is still a user of the institution.
      ...statusOf(true),
    }));

const enrolled = (ofClass: string, told: ClassRoster): object[] =>
  told.people
    .filter((p) => p.role === 'student' || p.role === 'instructor')
    .map((p) => ({
      sourcedId: `${ofClass}-${p.id}`,
      user: { sourcedId: p.id },
      class: { sourcedId: ofClass },
      role: p.role === 'instructor' ? 'teacher' : 'student',
      ...statusOf(p.active),
    }));

const lineItems = (ofClass: string, told: ClassRoster): object[] =>
  graded(told).map((i) => ({
    sourcedId: i.id,
    title: i.title,
    class: { sourcedId: ofClass },
    ...statusOf(true),
    resultValueMin: 0,
    resultValueMax: i.points,
    ...(i.dueAt === null ? {} : { dueDate: new Date(i.dueAt).toISOString() }),
  }));

const results = (told: ClassRoster): object[] =>
  told.grades.map((g) => ({
    sourcedId: g.id,
    lineItem: { sourcedId: g.item },
    student: { sourcedId: g.person },
    scoreStatus: 'fully graded',
    score: g.points,
    scoreDate: day(g.at),
    ...statusOf(true),
  }));
