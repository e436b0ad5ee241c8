/**
 * Objects of OneRoster over REST (1EdTech, 1.1 and 1.2, typed from memory of the published bindings) as what a platform tells. Asked of an
 * object is what is used; whatever else is missing or of another type refuses nothing.
 */
import type { Instant } from '../time/instant.ts';
import type { Zone } from '../time/zone.ts';
import { readDate } from '../imports/read/dates.ts';
import type { RefusedTold, DataFromSource, GradeFromSource, ItemFromSource, PersonFromSource } from './sourceData.ts';

/** Lists as they came, each of whatever its pages held. */
export interface OneRosterLists {
  readonly students: readonly unknown[];
  readonly teachers: readonly unknown[];
  readonly enrollments: readonly unknown[];
  readonly lineItems: readonly unknown[];
  readonly results: readonly unknown[];
  readonly categories: readonly unknown[];
}

type LooseRecord = Readonly<Record<string, unknown>>;
const looseOf = (value: unknown): LooseRecord =>
  typeof value === 'object' && value !== null ? (value as LooseRecord) : {};
const text = (value: unknown): string =>
  typeof value === 'string' ? value.trim() : typeof value === 'number' ? String(value) : '';
const idOf = (value: unknown): string => text(looseOf(value)['sourcedId']);
const isGone = (value: LooseRecord): boolean => text(value['status']).toLowerCase() === 'tobedeleted';

/** Scores that are told of a result that is graded; an exempt one or one that was not submitted has none. */
const GRADED = new Set(['fully graded', 'partially graded']);

/** `wanted`: the class that the course is. */
export function oneRosterTold(
  lists: OneRosterLists,
  { wanted, zone }: { readonly wanted: string; readonly zone: Zone },
): { readonly told: DataFromSource; readonly refused: readonly RefusedTold[]; readonly unknown: ReadonlySet<string> } {
  const refused: RefusedTold[] = [];
  const people = new Map<string, PersonFromSource>();
  const person = (role: PersonFromSource['role']) => (value: unknown) => {
    const user = looseOf(value);
    const id = idOf(user);
    if (id === '')
      return void refused.push({ what: 'person', id: '', code: 'noId', message: 'This user has no sourcedId' });
    const email = text(user['email']);
    people.set(id, {
      id,
      firstName: text(user['preferredFirstName']) || text(user['givenName']),
      lastName: text(user['familyName']),
      email: email === '' ? null : email,
      role,
      active: !isGone(user),
    });
  };
  lists.teachers.forEach(person('instructor'));
  lists.students.forEach(person('student'));
  const unknown = new Set<string>();
  const ours = lists.enrollments
    .map(looseOf)
    .map((e) => ({ user: idOf(e['user']), of: idOf(e['class']), gone: isGone(e) }))
    .filter((e) => e.user !== '' && (e.of === '' || e.of === wanted));
  // Somebody who left one section may have another enrollment in the same class.
  const staying = new Set(ours.filter((e) => !e.gone).map((e) => e.user));
  for (const { user } of ours) {
    const known = people.get(user);
    if (!staying.has(user)) people.set(user, { ...(known ?? nobody(user)), active: false });
    else if (!known) unknown.add(user);
  }
  const titles = new Map(lists.categories.map((c) => [idOf(c), text(looseOf(c)['title'])]));
  const date = (value: unknown, endOfDay = false): Instant | null => {
    const said = text(value);
    if (said === '') return null;
    const read = readDate(said, { zone, order: 'unknown', endOfDay });
    return read.ok ? read.at : null;
  };
  const items = lists.lineItems.flatMap((value): ItemFromSource[] => {
    const line = looseOf(value);
    const id = idOf(line);
    if (id === '') {
      refused.push({ what: 'item', id: '', code: 'noId', message: 'This line item has no sourcedId' });
      return [];
    }
    const points = line['resultValueMax'];
    return [
      {
        id,
        title: text(line['title']),
        group: titles.get(idOf(line['category'])) || undefined,
        points: typeof points === 'number' && points > 0 ? points : undefined,
        opensAt: date(line['assignDate']),
        dueAt: date(line['dueDate'], true),
        gone: isGone(line),
      },
    ];
  });
  const grades = lists.results.flatMap((value): GradeFromSource[] => {
    const result = looseOf(value);
    const score = result['score'];
    const points = typeof score === 'number' ? score : text(score) === '' ? null : Number(text(score));
    if (isGone(result) || points === null || !GRADED.has(text(result['scoreStatus']).toLowerCase())) return [];
    const id = idOf(result);
    if (Number.isNaN(points)) {
      refused.push({ what: 'grade', id, code: 'number', message: `“${text(score)}” is not a number` });
      return [];
    }
    const [student, item] = [idOf(result['student']), idOf(result['lineItem'])];
    return [{ id, person: student, item, points, at: date(result['scoreDate']) }];
  });
  return { told: { people: [...people.values()], items, grades, isWhole: false }, refused, unknown };
}

const nobody = (id: string): PersonFromSource => ({
  id,
  firstName: '',
  lastName: '',
  email: null,
  role: 'student',
  active: false,
});
