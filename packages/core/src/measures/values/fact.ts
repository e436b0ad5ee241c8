/** What a measure rests on, for the sentence that gives a reason: the last visit, the items that are missing. */
import { dayWords, instantWords, listWords, numberWords, oneDecimal, percentWords, plural } from '../../time/words.ts';
import { assertNever } from '../../problem/problem.ts';
import type { Instant } from '../../time/instant.ts';

/** The fact behind a measure's value (engine C5): never a bare flag, always what happened and when. */
export type Fact =
  | { readonly kind: 'last'; readonly what: LastWhat; readonly at: Instant | null }
  /** No visit is recorded; a list says when the student was last seen (engine M5). */
  | { readonly kind: 'lastSeenOnly'; readonly what: 'visit' | 'signIn'; readonly at: Instant }
  | { readonly kind: 'items'; readonly what: ItemsWhat; readonly items: readonly FactItem[] }
  | { readonly kind: 'gap'; readonly days: number; readonly from: Instant; readonly until: Instant }
  | { readonly kind: 'class'; readonly own: number; readonly mean: number; readonly asOf: Instant }
  | { readonly kind: 'grades'; readonly grades: readonly FactGrade[] }
  | { readonly kind: 'change'; readonly before: number; readonly now: number }
  | {
      readonly kind: 'counts';
      readonly what: 'visit' | 'post';
      readonly days: number;
      readonly now: number;
      readonly before: number;
    }
  | { readonly kind: 'column'; readonly name: string; readonly text: string | null }
  | { readonly kind: 'score'; readonly points: number; readonly of: number | null; readonly at: Instant }
  | { readonly kind: 'ungraded' }
  | { readonly kind: 'done'; readonly what: 'submission' | 'completion'; readonly at: Instant | null }
  | { readonly kind: 'due'; readonly at: Instant | null }
  | {
      readonly kind: 'total';
      readonly earned: number;
      readonly possible: number;
      readonly graded: number;
      /** Where groups have weights: the percentage in each that has a grade, beside its weight. */
      readonly groups?: readonly { readonly name: string; readonly percent: number; readonly weight: number }[];
    }
  | { readonly kind: 'doesNotCount' }
  /** The item or mark that the rule names is no longer in the course. */
  | { readonly kind: 'gone' };

export type LastWhat =
  'signIn' | 'visit' | 'participation' | 'open' | 'post' | 'grade' | 'absence' | 'enrollment' | 'submission';
export type ItemsWhat =
  'missing' | 'late' | 'dueSoon' | 'onTime' | 'run' | 'touched' | 'opened' | 'practiced' | 'submitted' | 'posted';
export interface FactItem {
  readonly title: string;
  readonly dueAt: Instant | null;
}
export interface FactGrade {
  readonly title: string;
  readonly score: number | null;
  readonly at: Instant;
}

/** "3.5 below", "12 above", "the same as": a difference always says which way. */
const directionWords = (difference: number): string => {
  const size = oneDecimal(Math.abs(difference));
  return size === '0' ? 'the same as' : `${size} ${difference < 0 ? 'below' : 'above'}`;
};

const LAST: Readonly<Record<LastWhat, readonly [some: string, none: string]>> = {
  signIn: ['last signed in', 'never signed in'],
  visit: ['last visit', 'no visit yet'],
  participation: ['last took part', 'has not taken part yet'],
  open: ['last opened', 'never opened'],
  post: ['last post', 'no post yet'],
  grade: ['last grade', 'nothing graded yet'],
  absence: ['last absent', 'never absent'],
  enrollment: ['enrolled', 'enrolled'],
  submission: ['submitted', 'not submitted'],
};

const ITEMS: Readonly<Record<ItemsWhat, readonly [some: string, none: string]>> = {
  missing: ['missing', 'nothing missing'],
  late: ['late:', 'nothing late'],
  dueSoon: ['due soon:', 'nothing due soon'],
  onTime: ['on time:', 'nothing on time'],
  // As it was stored before 0.20, which does not say by what act.
  touched: ['so far:', 'none of them yet'],
  opened: ['has opened', 'opened none of them yet'],
  practiced: ['has practiced', 'practiced none of them yet'],
  submitted: ['has submitted', 'submitted none of them yet'],
  posted: ['has posted in', 'posted in none of them yet'],
  run: ['in a row:', 'none in a row'],
};

const WEEKS = [
  'week',
  'two weeks',
  'three weeks',
  'four weeks',
  'five weeks',
  'six weeks',
  'seven weeks',
  'eight weeks',
];

/** "two weeks", "10 days" */
const spanWords = (days: number): string => (days % 7 === 0 && WEEKS[days / 7 - 1]) || plural(days, 'day');

/** More items than this are counted where a fact is told in brief. */
const NAMED = 2;

/**
 * The fact in a few words: "last visit Tue Oct 20, 9:14 PM". In brief by its day, and with the first of many items: "missing Quiz 1,
 * Quiz 2 and 3 more".
 */
export function factWords(fact: Fact, zone: string, isBrief = false): string {
  const momentWords = isBrief ? dayWords : instantWords;
  switch (fact.kind) {
    case 'last':
      return fact.at === null ? LAST[fact.what][1] : `${LAST[fact.what][0]} ${momentWords(fact.at, zone)}`;
    case 'lastSeenOnly':
      return `only the last ${fact.what === 'visit' ? 'visit' : 'sign-in'} is known, ${momentWords(fact.at, zone)}`;
    case 'items': {
      const [some, none] = ITEMS[fact.what];
      const titles = fact.items.map((i) => i.title);
      const more = titles.length - NAMED;
      if (titles.length === 0) return none;
      return `${some} ${listWords(isBrief && more > 1 ? [...titles.slice(0, NAMED), `${more} more`] : titles)}`;
    }
    case 'gap':
      return `away ${plural(fact.days, 'day')} from ${dayWords(fact.from, zone)} to ${dayWords(fact.until, zone)}`;
    case 'class':
      return `${oneDecimal(fact.own)}, ${directionWords(fact.own - fact.mean)} the class mean of ${oneDecimal(fact.mean)} on ${dayWords(fact.asOf, zone)}`;
    case 'grades':
      if (fact.grades.length === 0) return 'nothing like that graded';
      return fact.grades
        .map((g) => `${g.title} ${g.score === null ? 'graded' : percentWords(g.score)} ${dayWords(g.at, zone)}`)
        .join('; ');
    case 'change':
      return `the course grade went from ${percentWords(fact.before)} to ${percentWords(fact.now)}`;
    case 'counts':
      return `${plural(fact.now, fact.what)}, ${numberWords(fact.before)} in the ${spanWords(fact.days)} before`;
    case 'column':
      return fact.text === null ? `${fact.name}: blank` : `${fact.name}: ${fact.text}`;
    case 'score':
      return `${numberWords(fact.points)}${fact.of === null ? '' : ` of ${numberWords(fact.of)}`} points, graded ${momentWords(fact.at, zone)}`;
    case 'ungraded':
      return 'not graded yet';
    case 'done':
      if (fact.at !== null) return `${fact.what === 'completion' ? 'completed' : 'done'} ${momentWords(fact.at, zone)}`;
      return fact.what === 'completion' ? 'not completed' : 'not submitted';
    case 'due':
      return fact.at === null ? 'no due date' : `due ${momentWords(fact.at, zone)}`;
    case 'total':
      if (fact.groups && fact.groups.length > 0)
        return `weighted: ${fact.groups.map((g) => `${g.name} ${percentWords(g.percent)} × ${numberWords(g.weight)}`).join(', ')}`;
      return `${numberWords(fact.earned)} of ${numberWords(fact.possible)} points in ${fact.graded} graded`;
    case 'doesNotCount':
      return 'does not count for this student';
    case 'gone':
      return 'no longer in the course';
    default:
      return assertNever(fact);
  }
}
