/** What can be asked about the items and groups of a course that somebody types. */
import type { Course, Item } from '@zest-bell/core/course';
import { leafClause, type Leaf } from '@zest-bell/core/conditions';

export interface ConditionAbout {
  readonly key: string;
  /** Of the item or the group. */
  readonly name: string;
  /** The condition, after “students who”. */
  readonly words: string;
  readonly leaf: Leaf;
}

/** How many are offered at once. */
const MOST = 12;

/** Conditions on items and groups with every typed word in their title; titles that begin so come first. */
export function conditionsAbout(course: Course, typed: string): ConditionAbout[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (name: string) => words.every((w) => name.toLowerCase().includes(w));
  const first = (name: string) => (name.toLowerCase().startsWith(words[0] ?? '') ? 0 : 1);
  const items = course.items.filter((i) => fits(i.title)).toSorted((a, b) => first(a.title) - first(b.title));
  const groups = [...new Set(course.items.flatMap((i) => i.group ?? []))].filter(fits);
  const all = [
    ...items.flatMap((i) => askedOfItem(i).map((leaf) => ({ name: i.title, leaf }))),
    ...groups.flatMap((g) => askedOfGroup(course, g).map((leaf) => ({ name: g, leaf }))),
  ];
  return all.slice(0, MOST).map(({ name, leaf }, i) => {
    const { lead, marked } = leafClause(leaf, course);
    return { key: `about ${i} ${name}`, name, words: `${lead} ${marked}`, leaf };
  });
}

function askedOfItem({ id: item, kind, points }: Item): Leaf[] {
  if (kind === 'page') return [{ measure: 'opens', item, is: 'equals', value: 0 }];
  if (kind === 'session') return [{ measure: 'completed', item, is: 'equals', value: false }];
  return [
    { measure: 'submitted', item, is: 'equals', value: false },
    ...(points === null ? [] : [{ measure: 'score', item, is: '<=', value: 50 } as const]),
    { measure: 'opens', item, is: 'equals', value: 0 },
  ];
}

function askedOfGroup(course: Course, group: string): Leaf[] {
  const graded = course.items.some((i) => i.group === group && i.points !== null && i.kind !== 'session');
  return [
    { measure: 'missing', group, is: '>=', value: 1 },
    ...(graded ? [{ measure: 'groupGrade', group, is: '<', value: 60 } as const] : []),
  ];
}
