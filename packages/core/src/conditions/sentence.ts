/** A condition in words: "have not visited the course for 5 days and scored 50% or less on Tide tables quiz". */
import type { Course } from '../course/course.ts';
import { CATALOGUE } from '../measures/catalogue.ts';
import type { Clause, Unit } from '../measures/measure.ts';
import { numberWords, percentWords, plural } from '../time/words.ts';
import { groupOf, isLeaf, type Condition, type GroupKind, type Leaf } from './condition.ts';
import { thresholdOf } from './compare.ts';

/** A number with its unit: "5 days", "50%". A threshold that stands beside it is never made to look reached. */
export function valueWords(value: number, unit: Unit, threshold?: number): string {
  switch (unit) {
    case 'days':
      return plural(value, 'day');
    case 'hours':
      return plural(value, 'hour');
    case 'percent':
      return percentWords(value, threshold);
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
  if (typeof leaf.value === 'object') value = `the ${leaf.value.mark} mark (${value || 'gone'})`;
  return measure.clause({ is: leaf.is, value, raw: threshold }, leaf, course);
}

export const JOINER: Readonly<Record<GroupKind, string>> = { all: 'and', any: 'or', none: 'or' };

/** A piece of a sentence about a rule. `marked` for what the instructor has set and changes in the composer. */
export interface SentencePart {
  readonly words: string;
  readonly marked: boolean;
}
export const plainPart = (words: string): SentencePart => ({ words, marked: false });
export const markedPart = (words: string): SentencePart => ({ words, marked: true });
export const wordsOf = (parts: readonly SentencePart[]): string => parts.map((p) => p.words).join('');

/** The whole tree as one line, for lists and the log. */
export const conditionSentence = (condition: Condition, course: Course): string =>
  wordsOf(conditionParts(condition, course));

/** The same, piece by piece. Brackets show what a nested group holds together. */
export function conditionParts(condition: Condition, course: Course, nested = false): readonly SentencePart[] {
  if (isLeaf(condition)) {
    const clause = leafClause(condition, course);
    return [plainPart(`${clause.lead} `), markedPart(clause.marked)];
  }
  const { kind, children } = groupOf(condition);
  const joined = children.flatMap((child, i) => {
    const parts = conditionParts(child, course, true);
    return i === 0 ? parts : [plainPart(` ${JOINER[kind]} `), ...parts];
  });
  if (kind === 'none') return [plainPart('do not match ('), ...joined, plainPart(')')];
  return nested && children.length > 1 ? [plainPart('('), ...joined, plainPart(')')] : joined;
}
