/** A condition in words: "have not visited the course for 5 days and scored 50% or less on Tide tables quiz". */
import type { Course } from '../course/course.ts';
import { CATALOGUE } from '../measures/catalogue/catalogue.ts';
import { callKey } from '../measures/values/callKey.ts';
import type { Clause, MeasureCall, MeasureUnit } from '../measures/values/measure.ts';
import { spokenName } from '../course/spokenName.ts';
import { exactWords, numberWords, percentWords, plural } from '../time/words.ts';
import { groupOf, isLeaf, type Condition, type GroupKind, type Leaf } from './condition.ts';
import { thresholdOf } from './compare.ts';

/** A number with its unit: "5 days", "50%". A threshold that is beside it is never made to look reached. */
export function valueWords(value: number, unit: MeasureUnit, threshold?: number): string {
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

/** A threshold as a sentence says it: in full, as it is compared. */
const thresholdWords = (value: number, unit: MeasureUnit): string => {
  switch (unit) {
    case 'days':
    case 'hours':
      return `${exactWords(value)} ${value === 1 ? unit.slice(0, -1) : unit}`;
    case 'percent':
      return `${exactWords(value)}%`;
    case 'points':
      return `${exactWords(value)} ${value === 1 ? 'point' : 'points'}`;
    case 'text':
    case 'count':
    case 'yesNo':
      return exactWords(value);
  }
};

/** "50%", "the mastery score (80%)" */
function saidValue(leaf: Leaf, course: Course): string {
  const threshold = thresholdOf(leaf, course.marks);
  const value =
    typeof threshold === 'number' ? thresholdWords(threshold, CATALOGUE[leaf.measure].unit) : String(threshold ?? '');
  if (typeof leaf.value !== 'object') return value;
  return `the ${spokenName(course, 'mark', leaf.value.mark)} score (${value || 'gone'})`;
}

export function leafClause(leaf: Leaf, course: Course): Clause {
  const measure = CATALOGUE[leaf.measure];
  const { is } = leaf;
  if (is === 'empty' || is === 'filled') {
    const [empty, filled] = measure.known(leaf, course);
    return { lead: 'have', marked: is === 'empty' ? empty : filled };
  }
  const raw = typeof leaf.value === 'object' ? undefined : leaf.value;
  return measure.clause({ is, value: saidValue(leaf, course), raw }, leaf, course);
}

/** Represents a value in a clause while its words are made. */
const HOLE = '\uFFFC';

/** Two bounds of one measure as one clause: its lead, what comes before the lower bound, both bounds, and what is behind. */
export interface RangeClause {
  readonly lead: string;
  readonly before: string;
  readonly low: string;
  readonly high: string;
  readonly after: string;
  /** Whether the first of the two conditions is the lower bound. */
  readonly inOrder: boolean;
}

/**
 * Two bounds of one measure as “a course grade between 50% and 70%”; null where the two are no such pair, or the measure says its
 * bounds in words of its own.
 */
function betweenIn(a: Condition, b: Condition, course: Course): RangeClause | null {
  if (!isLeaf(a) || !isLeaf(b) || callKey(callOf(a)) !== callKey(callOf(b))) return null;
  const inOrder = a.is === '>=';
  const [low, high] = inOrder ? [a, b] : [b, a];
  if (low.is !== '>=' || high.is !== '<=') return null;
  const raw = typeof low.value === 'object' ? undefined : low.value;
  const { lead, marked } = CATALOGUE[low.measure].clause({ is: '>=', value: HOLE, raw }, low, course);
  const [before, after] = marked.split(`${HOLE} or more`);
  if (before === undefined || after === undefined) return null;
  // “a course grade of 50% or more” is “a course grade between …”.
  return {
    lead,
    before: `${before.replace(/\bof $/, '')}between `,
    low: saidValue(low, course),
    high: saidValue(high, course),
    after,
    inOrder,
  };
}

export const callOf = ({ is: _is, value: _value, ...call }: Leaf): MeasureCall => call;

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

/** The children of a group as a sentence says them: one by one, or two bounds of one measure together. */
export function sentenceGroups(
  kind: GroupKind,
  children: readonly Condition[],
  course: Course,
): { readonly at: number; readonly between: RangeClause | null }[] {
  const said = [];
  for (let at = 0; at < children.length; at++) {
    const [one, next] = [children[at]!, children[at + 1]];
    const between = kind === 'all' && next ? betweenIn(one, next, course) : null;
    said.push({ at, between });
    if (between) at++;
  }
  return said;
}

const betweenParts = ({ lead, before, low, high, after }: RangeClause): SentencePart[] => [
  plainPart(`${lead} `),
  markedPart(`${before}${low} and ${high}${after}`),
];

const clauseParts = ({ lead, marked }: Clause): SentencePart[] => [plainPart(`${lead} `), markedPart(marked)];

/** The same, piece by piece. Brackets show what a nested group holds together. */
export function conditionParts(condition: Condition, course: Course, nested = false): readonly SentencePart[] {
  if (isLeaf(condition)) return clauseParts(leafClause(condition, course));
  const { kind, children } = groupOf(condition);
  const said = sentenceGroups(kind, children, course).map(({ at, between }) =>
    between ? betweenParts(between) : conditionParts(children[at]!, course, true),
  );
  const joined = said.flatMap((parts, i) => (i === 0 ? parts : [plainPart(` ${JOINER[kind]} `), ...parts]));
  if (kind === 'none') return [plainPart('do not match ('), ...joined, plainPart(')')];
  return nested && children.length > 1 ? [plainPart('('), ...joined, plainPart(')')] : joined;
}
