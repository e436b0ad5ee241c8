/** Whether a rule treats groups of students alike: hindsight within each, and where two differ by more than chance would (engine S8). */
import { quantile } from './quantile.ts';
import type { Course } from '../course/course.ts';
import { grouped } from '../course/grouped.ts';
import { isActiveStudent } from '../course/person.ts';
import { cellOf, type Hindsight, type HindsightCell } from './hindsight.ts';
import { differenceOf, wilson, type Proportion } from './proportion.ts';

/** By section, or by an own column. */
export type GroupBy = { readonly of: 'section' } | { readonly of: 'field'; readonly name: string };

export interface GroupHindsight {
  /** Null for students with a blank section or column. */
  readonly group: string | null;
  readonly counts: Readonly<Record<HindsightCell, number>>;
  /** Found, of those with the outcome; null when there are none. */
  readonly shareFound: Proportion | null;
  /** Found, of those who are well; null when there are none. */
  readonly shareNeedless: Proportion | null;
  /** Groups that were too small to stand alone. */
  readonly isSmaller: boolean;
}

const DIFFERING = ['found', 'needless'] as const;
export interface Difference {
  /** Places in `groups`. */
  readonly between: readonly [number, number];
  readonly share: (typeof DIFFERING)[number];
}

export interface ByGroup {
  readonly groups: readonly GroupHindsight[];
  readonly differ: readonly Difference[];
}

/** A column that more values fill makes no groups. */
export const MOST_GROUPS = 12;
/** Groups of fewer are put together, where people read them. */
const SMALLER_THAN = 5;

type CoursePerson = Course['people'][number];
const textOf = (by: GroupBy, { section, fields }: CoursePerson): string | null => {
  const said = by.of === 'section' ? section : Object.hasOwn(fields, by.name) ? fields[by.name] : null;
  const text = said == null ? '' : String(said).trim();
  return text === '' ? null : text;
};

/** Values that fill a column of the roster, without regard to blanks. */
const valuesOf = (course: Course, name: string): ReadonlySet<string> =>
  new Set(course.people.flatMap((p) => textOf({ of: 'field', name }, p) ?? []));

/** Whether a column can make groups: somebody has it, and at most 12 values fill it. */
export function mayGroupBy(course: Course, by: GroupBy): boolean {
  if (by.of === 'section') return true;
  const { size } = valuesOf(course, by.name);
  return size > 0 && size <= MOST_GROUPS;
}

/** The key of those who have no text: no text is empty. */
const BLANK = '';

/** A group with those who are in it. */
interface GroupMembers<T> {
  /** Null for a blank, and for those that were too small. */
  readonly group: string | null;
  readonly isSmaller: boolean;
  readonly members: readonly T[];
}

/** Texts in their order without regard to case, blank last. `together`: groups of fewer than five stand as one. */
function inGroups<T>(all: readonly T[], nameOf: (one: T) => string | null, together: boolean): GroupMembers<T>[] {
  const members = grouped(all, (one) => nameOf(one) ?? BLANK);
  const folded = (text: string) => text.toLowerCase();
  const names = [...members.keys()].sort((a, b) => {
    if (a === BLANK || b === BLANK) return Number(a === BLANK) - Number(b === BLANK);
    return folded(a) < folded(b) ? -1 : folded(a) > folded(b) ? 1 : a < b ? -1 : 1;
  });
  const isSmall = (name: string) => together && members.get(name)!.length < SMALLER_THAN;
  const groups = names
    .filter((n) => !isSmall(n))
    .map((name) => ({ group: name === BLANK ? null : name, isSmaller: false, members: members.get(name)! }));
  const small = names.filter(isSmall).flatMap((n) => members.get(n)!);
  return small.length === 0 ? groups : [...groups, { group: null, isSmaller: true, members: small }];
}

/** Active students by group; those of fewer than five together. */
export const studentGroups = (course: Course, by: GroupBy): readonly GroupMembers<CoursePerson>[] =>
  inGroups(course.people.filter(isActiveStudent), (p) => textOf(by, p), true);

/** `together`: groups of fewer than five stand as one. */
export function byGroup(hindsight: Hindsight, course: Course, by: GroupBy, together = false): ByGroup {
  const nameOf = ({ student }: Hindsight['students'][number]) =>
    textOf(by, course.people[course.personIndex.get(student)!]!);
  const groups = inGroups(hindsight.students, nameOf, together).map((g) => groupOf(g.group, g.members, g.isSmaller));
  return { groups, differ: differing(groups) };
}

function groupOf(group: string | null, students: Hindsight['students'], isSmaller: boolean): GroupHindsight {
  const counts = { found: 0, missed: 0, needless: 0, leftAlone: 0 };
  for (const s of students) counts[cellOf(s)]++;
  const share = (part: number, of: number) => (of === 0 ? null : wilson(part, of));
  return {
    group,
    counts,
    isSmaller,
    shareFound: share(counts.found, counts.found + counts.missed),
    shareNeedless: share(counts.needless, counts.needless + counts.leftAlone),
  };
}

/** Two groups of many differ by chance now and then: at 95% divided by the number of pairs. */
function differing(groups: readonly GroupHindsight[]): Difference[] {
  const pairs = (groups.length * (groups.length - 1)) / 2;
  if (pairs === 0) return [];
  const z = quantile(1 - 0.05 / pairs / 2);
  const found: Difference[] = [];
  for (let a = 0; a < groups.length; a++)
    for (let b = a + 1; b < groups.length; b++)
      for (const share of DIFFERING) {
        const of = (g: GroupHindsight) => (share === 'found' ? g.shareFound : g.shareNeedless);
        const [one, two] = [of(groups[a]!), of(groups[b]!)];
        if (!one || !two) continue;
        const { low, high } = differenceOf(one, two, z);
        if (low > 0 || high < 0) found.push({ between: [a, b], share });
      }
  return found;
}
