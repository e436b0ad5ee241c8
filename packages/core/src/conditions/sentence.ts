/** A condition in words: "have not visited the course for 5 days and scored 50% or less on Tide tables quiz". */
import type { Course } from '../course/course.ts';
import { CATALOGUE } from '../measures/catalogue.ts';
import { callKey } from '../measures/callKey.ts';
import type { Clause, MeasureCall, Unit } from '../measures/measure.ts';
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

/** Stands for a value in a clause while its words are made. */
const HOLE = '\uFFFC';

/**
 * Two bounds of one measure as one clause, “a course grade between 50% and 70%”; null where the two are no such pair, or the
 * measure says its bounds in words of its own.
 */
export function betweenClause(a: Condition, b: Condition, course: Course): Clause | null {
  if (!isLeaf(a) || !isLeaf(b) || callKey(callOf(a)) !== callKey(callOf(b))) return null;
  const [low, high] = a.is === '>=' ? [a, b] : [b, a];
  if (low.is !== '>=' || high.is !== '<=') return null;
  const measure = CATALOGUE[low.measure];
  const value = (leaf: Leaf) => {
    const threshold = thresholdOf(leaf, course.marks);
    if (typeof leaf.value === 'object') return `the ${leaf.value.mark} mark`;
    return typeof threshold === 'number' ? valueWords(threshold, measure.unit) : String(threshold ?? '');
  };
  const raw = thresholdOf(low, course.marks);
  const { lead, marked } = measure.clause({ is: '>=', value: HOLE, raw }, low, course);
  const said = `${HOLE} or more`;
  return marked.includes(said)
    ? { lead, marked: marked.replace(said, `between ${value(low)} and ${value(high)}`) }
    : null;
}

const callOf = ({ is: _is, value: _value, ...call }: Leaf): MeasureCall => call;

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

const clauseParts = ({ lead, marked }: Clause): SentencePart[] => [plainPart(`${lead} `), markedPart(marked)];

/** The same, piece by piece. Brackets show what a nested group holds together. */
export function conditionParts(condition: Condition, course: Course, nested = false): readonly SentencePart[] {
  if (isLeaf(condition)) return clauseParts(leafClause(condition, course));
  const { kind, children } = groupOf(condition);
  const said: (readonly SentencePart[])[] = [];
  for (let i = 0; i < children.length; i++) {
    const pair =
      kind === 'all' && i + 1 < children.length ? betweenClause(children[i]!, children[i + 1]!, course) : null;
    if (pair) i++;
    said.push(pair ? clauseParts(pair) : conditionParts(children[i]!, course, true));
  }
  const joined = said.flatMap((parts, i) => (i === 0 ? parts : [plainPart(` ${JOINER[kind]} `), ...parts]));
  if (kind === 'none') return [plainPart('do not match ('), ...joined, plainPart(')')];
  return nested && children.length > 1 ? [plainPart('('), ...joined, plainPart(')')] : joined;
}
