/** Whom an instructor may want to write to in this week of the term. Each hint is about students, and most are a condition. */
import type { Condition } from '../conditions/condition.ts';
import type { HistoryFacts } from '../measures/facts/facts.ts';
import { matchesAt } from '../rounds/decide/matches.ts';
import { DAY, type Instant } from '../time/instant.ts';
import type { Item } from '../course/item.ts';
import { Gradebook } from './gradebook.ts';

export const HINT_KINDS = ['neverVisited', 'repliesWait', 'didWell', 'middle', 'lastWeeks'] as const;
export type HintKind = (typeof HINT_KINDS)[number];

export interface Hint {
  readonly kind: HintKind;
  /** Ids in roster order; never empty. */
  readonly students: readonly string[];
  /** The condition that finds them, if there is one. Students opens showing it. */
  readonly when: Condition | null;
  /** The title of the item it is about. */
  readonly item: string | null;
}

/** What the log knows, for hints. */
export interface HintFacts {
  /** When each student last got a message; anyone who is not in it never did. */
  readonly lastSent: ReadonlyMap<string, Instant>;
  /** Students with a reply that waits for an answer. */
  readonly waiting: ReadonlySet<string>;
}

/** Weeks in which the one or the other says something, counted from 1. */
const NEVER_VISITED_UNTIL = 4;
const MIDDLE_FROM = 5;
const LAST_WEEKS = 3;
/** Days without a message after which praise is no second letter. */
const QUIET_DAYS = 28;

export function hintsFor(facts: HistoryFacts, { lastSent, waiting }: HintFacts, t: Instant): Hint[] {
  const { course } = facts;
  const { calendar } = course;
  if (t < calendar.start || t >= calendar.end) return [];
  const week = Math.floor((calendar.dayNumber(t) - calendar.dayNumber(calendar.start)) / 7) + 1;
  const weeksLeft = Math.ceil((calendar.end - t) / (7 * DAY));
  const found = (when: Condition, keep: (student: string) => boolean = () => true): string[] =>
    matchesAt({ when, audience: { roles: ['student'], sections: [], except: [] } }, facts, t)
      .map((i) => course.people[i]!.id)
      .filter(keep);
  const hints: Hint[] = [];
  const add = (kind: HintKind, students: readonly string[], when: Condition | null, item: string | null = null) => {
    if (students.length > 0) hints.push({ kind, students, when, item });
  };
  if (week <= NEVER_VISITED_UNTIL) {
    const when: Condition = { measure: 'visits', is: 'equals', value: 0 };
    add('neverVisited', found(when), when);
  }
  add(
    'repliesWait',
    course.people.flatMap((p) => (waiting.has(p.id) ? [p.id] : [])),
    null,
  );
  const quiet = (student: string) => (lastSent.get(student) ?? -Infinity) <= calendar.addDays(t, -QUIET_DAYS);
  const item = latestGraded(facts, t);
  if (item !== null) {
    const when: Condition = { measure: 'score', item: item.id, is: '>=', value: 90 };
    add('didWell', found(when, quiet), when, item.title);
  }
  if (week >= MIDDLE_FROM) {
    const when: Condition = {
      all: [
        { measure: 'courseGrade', is: '>=', value: 70 },
        { measure: 'courseGrade', is: '<=', value: 85 },
      ],
    };
    add(
      'middle',
      found(when, (student) => !lastSent.has(student)),
      when,
    );
  }
  if (weeksLeft <= LAST_WEEKS) {
    const when: Condition = { measure: 'missing', is: '>=', value: 2 };
    add('lastWeeks', found(when), when);
  }
  return hints;
}

/** The item with the latest due instant of which at least half of those whom it counts for have a grade. */
function latestGraded(facts: HistoryFacts, t: Instant): Item | null {
  const { course } = facts;
  const due = course.items
    .filter((i): i is Item & { dueAt: Instant } => Boolean(i.points) && i.dueAt !== null && i.dueAt <= t)
    .sort((a, b) => b.dueAt - a.dueAt);
  const isGraded = (item: Item) => {
    const { graded, counted } = Gradebook.of(course, facts.students(), t, (i) => i === item).summary(0);
    return counted > 0 && graded >= counted / 2;
  };
  return due.find(isGraded) ?? null;
}
