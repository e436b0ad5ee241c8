/** What every measure is made of. The same catalogue serves conditions, evidence, merge fields and charts (engine §3). */
import type { z } from 'zod';
import { formerTitle, type Course } from '../../course/course.ts';
import { spokenName } from '../../course/spokenName.ts';
import type { Item } from '../../course/item.ts';
import type { Person } from '../../course/person.ts';
import type { SeenLog } from '../../activity/seenLog.ts';
import type { Instant } from '../../time/instant.ts';
import type { Window } from '../../time/window.ts';
import { exactWords } from '../../time/words.ts';
import type { Range } from '../../problem/range.ts';
import type { Fact } from './fact.ts';
import type { Timeline } from './timeline.ts';

/** In the order of the engine page, with both measures of posts together. */
export const MEASURE_NAMES = [
  'daysSinceSignIn',
  'daysSinceVisit',
  'daysSinceParticipation',
  'longestGap',
  'visits',
  'visitsVsClass',
  'visitsChange',
  'opens',
  'share',
  'submitted',
  'hoursUntilDue',
  'dueSoon',
  'missing',
  'late',
  'onTimeShare',
  'daysAwaitingGrade',
  'score',
  'points',
  'criterion',
  'latestScore',
  'daysSinceGrade',
  'lowScores',
  'highScores',
  'courseGrade',
  'groupGrade',
  'gradeVsClass',
  'gradeChange',
  'posts',
  'postsChange',
  'streak',
  'absences',
  'daysEnrolled',
  'completed',
  'field',
] as const;
export type MeasureName = (typeof MEASURE_NAMES)[number];

/** The measures of absence. A new one does not compile until it is here, and everything about absences reads this list. */
export const ABSENCES = [
  'daysSinceSignIn',
  'daysSinceVisit',
  'daysSinceParticipation',
] as const satisfies MeasureName[];

export const isAbsence = (measure: MeasureName): boolean => ABSENCES.some((a) => a === measure);

/** A number, or one of the course's named marks: changing the mark changes every rule that uses it. */
export type NumberOrMark = number | { readonly mark: string };

/** A measure with its parameters, as a leaf of a condition writes it. */
export interface MeasureCall {
  readonly measure: MeasureName;
  readonly item?: string | undefined;
  readonly window?: Window | undefined;
  readonly group?: string | undefined;
  readonly items?: readonly string[] | undefined;
  readonly of?: 'open' | 'practice' | 'submit' | 'post' | 'done' | 'missed' | undefined;
  readonly hours?: number | undefined;
  readonly days?: number | undefined;
  readonly than?: NumberOrMark | undefined;
  readonly criterion?: string | undefined;
  /** An imported column. */
  readonly name?: string | undefined;
}

/** One student seen by the measures. */
export interface Subject {
  readonly course: Course;
  readonly person: Person;
  readonly log: SeenLog;
  /** Where their story starts (engine H4); timelines begin here. */
  readonly story: Instant;
  /** Counts of days are laid out this far ahead. */
  readonly horizon: Instant;
  /** For what is compared with the mean of the class. */
  readonly classmates: Classmates;
}

/** What of a class a measure compares with: its grades, or whatever anybody did. */
export type ClassWide = 'grades' | 'activity';

/** The class of a student, for what is computed once for all of them. */
export interface Classmates {
  /** All active students as the measures see them. */
  subjects(): readonly Subject[];
  /** What was computed from the class so far; gone with the next grade, or the next thing that anybody does. */
  memo(classWide: ClassWide): Map<string, unknown>;
}

export const MEASURE_FAMILIES = ['away', 'content', 'work', 'grades', 'discussion', 'attendance', 'columns'] as const;
export type MeasureFamily = (typeof MEASURE_FAMILIES)[number];
export type MeasureUnit = 'days' | 'hours' | 'count' | 'percent' | 'points' | 'yesNo' | 'text';

export interface Measure {
  readonly name: MeasureName;
  readonly family: MeasureFamily;
  readonly unit: MeasureUnit;
  /** In menus: "days since the last visit". */
  readonly title: string;
  /** Where the value depends on the whole class: on what of it. */
  readonly classWide?: ClassWide;
  /** The merge field that carries it: `student.visits`, `item.score`. */
  readonly mergeField: string;
  /** Counts or pairs visits, so it is unknown where only last visits are known (engine M5). */
  readonly countsVisits?: true;
  /** What its value is compared with, where that is not what its unit says. */
  readonly range?: Range;
  /** The parameters a leaf may or must have, beside `measure`, `is` and `value`. */
  readonly parameters: z.ZodRawShape;
  /** The numbers among them. */
  readonly ranges?: Readonly<Partial<Record<'hours' | 'days' | 'than', Range>>>;
  /** Parameters of which a leaf names exactly one. */
  readonly exactlyOneOf?: readonly (keyof MeasureCall)[];
  timeline(subject: Subject, call: MeasureCall): Timeline;
  /** The value as a sentence says it, where its number and unit do not say which way: "12 points below the class mean". */
  valueWords?(value: number, call: MeasureCall): string;
  /** What lies behind the value at t. */
  fact(subject: Subject, call: MeasureCall, t: Instant): Fact;
  /** The measure named over its axis: "days since last visit". */
  label(call: MeasureCall, course: Course): string;
  /** A condition on it after "students who …": a lead and the part that is marked. Not for `empty` and `filled`. */
  clause(test: ClauseTest, call: MeasureCall, course: Course): Clause;
  /** What students "have" if their value is not known (`empty`), and if it is (`filled`). */
  known(call: MeasureCall, course: Course): readonly [empty: string, filled: string];
  /** What people type, after "students who" and any form of "have" or "are": what the clause prints, then what else they say. */
  readonly phrases: readonly Phrase[];
}

/**
 * Words of which each is said as it is, `a|b` for one or the other, `[a b]` for what may be left out, and names, numbers and windows in
 * braces: `saying/slots.ts` has them all.
 */
export type Phrase = string | PhraseWithMeaning;

/** A phrase that already says how, or with what, something is compared. */
export interface PhraseWithMeaning {
  readonly say: string;
  readonly is?: Comparator;
  readonly value?: number | boolean;
  readonly of?: MeasureCall['of'];
  /** Its number counts downward: "10 points below" is −10. */
  readonly isBelow?: true;
}

export type Comparator = '>=' | '<=' | '>' | '<' | 'equals' | 'differs' | 'contains' | 'empty' | 'filled';

export interface Clause {
  readonly lead: string;
  readonly marked: string;
}

/** A comparison ready for words: `value` already has its unit ("50%", "5 days", "the mastery mark (80%)"). */
export interface ClauseTest {
  readonly is: Exclude<Comparator, 'empty' | 'filled'>;
  readonly value: string;
  /** The value itself; undefined for a named score. */
  readonly raw: number | boolean | string | undefined;
}

/** Whether a measure works without one of its parameters. */
export const mayBeLeftOut = (measure: Measure, parameter: string): boolean =>
  (measure.parameters[parameter] as z.ZodType).safeParse(undefined).success;

/** Represents an item that a rule still names after it was taken out of the course: it counts for nobody. */
const GONE: Omit<Item, 'id'> = {
  title: 'an item that is gone',
  kind: 'assignment',
  group: null,
  points: null,
  opensAt: null,
  dueAt: null,
  topics: [],
  excused: [],
  extensions: [],
};

/** Whether the course no longer has the item or the mark that a call names. Its measure says nothing then. */
export const isGone = (course: Course, call: MeasureCall): boolean =>
  (call.item !== undefined && !course.itemIndex.has(call.item)) ||
  (typeof call.than === 'object' && !Object.hasOwn(course.marks, call.than.mark));

/** The item a call names, for words; one that is gone has a title that says so. */
export const itemOf = (course: Course, call: MeasureCall): Item =>
  course.items[course.itemIndex.get(call.item ?? '') ?? -1] ?? goneItem(course, call.item ?? '');

function goneItem({ formerItems }: Course, id: string): Item {
  const title = formerTitle(formerItems, id);
  return { ...GONE, id, ...(title === null ? {} : { title: `${title} (not in this course)` }) };
}

/** The place in the course of the item a call names. Throws when it is gone: ask `isGone` before. */
export function itemIndexOf(course: Course, call: MeasureCall): number {
  const index = course.itemIndex.get(call.item ?? '');
  if (index === undefined) throw new Error(`No item “${call.item}” in ${course.code}`);
  return index;
}

/** Measures that are computed from the points of a student. */
export const GRADE_MEASURES: readonly MeasureName[] = [
  'score',
  'points',
  'criterion',
  'latestScore',
  'lowScores',
  'highScores',
  'courseGrade',
  'groupGrade',
  'gradeVsClass',
  'gradeChange',
];

const chosen = new WeakMap<MeasureCall, { course: Course; items: readonly number[] }>();

/** A class that was missed is an absence, not missing work: these leave sessions out unless the call names them (engine M2). */
const ABOUT_WORK: ReadonlySet<MeasureName> = new Set<MeasureName>(['missing', 'late', 'onTimeShare', 'dueSoon']);

/** The items that `group?` or `items?` mean; with neither, all of the course that the measure is about (engine M2). */
export function severalItems(course: Course, call: MeasureCall): readonly number[] {
  const known = chosen.get(call);
  if (known?.course === course) return known.items;
  let items: readonly number[] = course.items.map((_, i) => i);
  if (call.items) items = items.filter((i) => call.items!.includes(course.items[i]!.id));
  else if (call.group !== undefined) items = items.filter((i) => course.items[i]!.group === call.group);
  else if (ABOUT_WORK.has(call.measure)) items = items.filter((i) => course.items[i]!.kind !== 'session');
  chosen.set(call, { course, items });
  return items;
}

/** Whether a count is asked to be none: one says “not posted” rather than “posted exactly 0 times”. */
export const isForNone = (test: ClauseTest): boolean =>
  (test.is === 'equals' && test.raw === 0) || (test.is === '<' && test.raw === 1);

/** The title of the item that a call names, as a sentence says it. */
export const spokenItem = (course: Course, call: MeasureCall): string =>
  spokenName(course, 'item', itemOf(course, call).title);

/** "3 times": the value of a count with what is counted. */
export function counted(test: ClauseTest, one: string, many = `${one}s`): string {
  return typeof test.raw === 'number'
    ? `${exactWords(test.raw)} ${test.raw === 1 ? one : many}`
    : `${test.value} ${many}`;
}

/** "2 or more missing items", "under 3 missing items": a comparison of a count. */
export function countWords(test: ClauseTest, one: string, many = `${one}s`): string {
  const value = typeof test.raw === 'number' ? exactWords(test.raw) : test.value;
  if (test.is === '>=') return `${value} or more ${many}`;
  return comparisonWords({ ...test, value: counted(test, one, many) });
}

/** How far below zero a threshold lies that asks for at least, or for more than, that much less; null for any other. */
export function belowZero(test: ClauseTest): ClauseTest | null {
  if (typeof test.raw !== 'number' || test.raw >= 0 || (test.is !== '<=' && test.is !== '<')) return null;
  const raw = -test.raw;
  return { is: test.is === '<=' ? '>=' : '>', raw, value: test.value.replace(/^-/, '') };
}

/** "of 50% or more", "over 50%": a comparison behind a noun. */
export const ofWords = (test: ClauseTest): string =>
  test.is === '>' || test.is === '<' ? comparisonWords(test) : `of ${comparisonWords(test)}`;

/** "over 5", "5 or more": a comparison around a value that carries its unit. */
export function comparisonWords(test: ClauseTest): string {
  switch (test.is) {
    case '>=':
      return `${test.value} or more`;
    case '<=':
      return `${test.value} or less`;
    case '>':
      return `over ${test.value}`;
    case '<':
      return `under ${test.value}`;
    case 'equals':
      return `exactly ${test.value}`;
    case 'differs':
      return `anything but ${test.value}`;
    case 'contains':
      return `something with ${test.value}`;
  }
}
