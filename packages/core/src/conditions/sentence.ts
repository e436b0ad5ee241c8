/** A condition in words: "have not visited the course for 5 days and scored 50% or less on Tide tables quiz". */
import type { Course } from '../course/course.ts';
import { CATALOGUE } from '../measures/catalogue.ts';
import type { Clause, Unit } from '../measures/measure.ts';
import { numberWords, plural } from '../time/words.ts';
import { groupOf, isLeaf, type Condition, type GroupKind, type Leaf } from './condition.ts';
import { thresholdOf } from './compare.ts';

/** A number with its unit: "5 days", "50%". */
export function valueWords(value: number, unit: Unit): string {
  switch (unit) {
    case 'days':
      return plural(value, 'day');
    case 'hours':
      return plural(value, 'hour');
    case 'percent':
      return `${numberWords(value)}%`;
    case 'points':
      return plural(value, 'point');
    case 'text':
    case 'count':
    case 'yesNo':
      return numberWords(value);
  }
}

export function leafClause(leaf: Leaf, course: Course): Clause {
  const measure = CATALOGUE[leaf.measure];
  const threshold = thresholdOf(leaf, course.marks);
  let value = typeof threshold === 'number' ? valueWords(threshold, measure.unit) : String(threshold ?? '');
  if (typeof leaf.value === 'object') value = `the ${leaf.value.mark} mark (${value})`;
  return measure.clause({ is: leaf.is, value, raw: threshold }, leaf, course);
}

export const JOINER: Readonly<Record<GroupKind, string>> = { all: 'and', any: 'or', none: 'or' };

/** The whole tree as one line, for lists and the log. */
export function conditionSentence(condition: Condition, course: Course): string {
  return words(condition, course, true);
}

function words(condition: Condition, course: Course, top: boolean): string {
  if (isLeaf(condition)) {
    const { lead, marked } = leafClause(condition, course);
    return `${lead} ${marked}`;
  }
  const { kind, children } = groupOf(condition);
  const parts = children.map((c) => words(c, course, false));
  const joined = parts.join(` ${JOINER[kind]} `);
  if (kind === 'none') return `do not match (${joined})`;
  return top || parts.length === 1 ? joined : `(${joined})`;
}
