/**
 * A made-up student in whom a rule's repeat limit and steps are seen at work: they match for a while, no longer do, and
 * match again where that can be. The rounds are the rule's own and decided by the very function that rings it.
 */
import { makeCourse, type Course } from '../../course/course.ts';
import { leavesOf, type Leaf } from '../../conditions/condition.ts';
import type { Facts } from '../../measures/facts/facts.ts';
import { GRADE_MEASURES, type MeasureName } from '../../measures/values/measure.ts';
import type { Timeline } from '../../measures/values/timeline.ts';
import { durationHours } from '../../time/duration.ts';
import { DAY, HOUR, type Instant } from '../../time/instant.ts';
import { roundInstants } from '../../time/rhythm.ts';
import type { Rule } from '../../rules/rule.ts';
import type { WithheldReason } from '../decide/withheld.ts';
import { absenceAsked } from './noticeWords.ts';
import { replay } from '../whatIf/replay.ts';

/**
 * What happens to the student, so that it is possible for the rule at hand: somebody who is away for days cannot slip again a day
 * later, what is turned in stays turned in, and a praised student comes back from nowhere.
 */
export type ExampleStory = 'away' | 'missing' | 'notDone' | 'graded' | 'dated' | 'other';

export interface ExampleLine {
  readonly story: ExampleStory;
  /** Of an absence: the last act before the first spell; null of others. */
  readonly lastSeen: Instant | null;
  readonly from: Instant;
  readonly until: Instant;
  /** Whether the first spell ends while the rule still runs. */
  readonly isOver: boolean;
  /** One or two spells, `[start, end)`. */
  readonly spells: readonly (readonly [start: Instant, end: Instant])[];
  readonly rounds: readonly Instant[];
  /** What the student hears of, and what a limit keeps back. */
  readonly marks: readonly ExampleMark[];
}

export interface ExampleMark {
  readonly at: Instant;
  readonly kind: 'heard' | 'held' | 'withheld';
  readonly step: number;
  readonly reason: WithheldReason | null;
}

const LEAF: Leaf = { measure: 'completed', is: 'equals', value: true };
const STUDENT = 'example';
const AWAY_FROM_ROUND = 3 * HOUR;

/** Null where the rule has fewer than two rounds from `now` on, or from the course's start, and where what it counts down to is over. */
export function exampleLine(rule: Rule, course: Course, now: Instant): ExampleLine | null {
  let rounds = roundInstants(rule.rhythm, course.calendar, now);
  if (rounds.length < 2) rounds = roundInstants(rule.rhythm, course.calendar);
  const [first] = rounds;
  if (first === undefined || rounds.length < 2) return null;
  const lastAfter = Math.max(...rule.steps.map((s) => durationHours(s.after))) * HOUR;
  // Long enough to see the last step and a few rounds more.
  const usual = rounds[1]! - first;
  const long = Math.max(9 * DAY, lastAfter + 3 * usual);
  const start = first - AWAY_FROM_ROUND;
  const story = storyOf(rule, course);
  const away = absenceAsked(rule.when, course)?.days ?? 0;
  const { calendar } = course;
  const lastRound = rounds.at(-1)!;
  // A student who has not turned something in does so by its due date or not at all.
  const due = story === 'notDone' || story === 'dated' ? lastDue(rule, course) : null;
  // Nobody matches any more.
  if (story === 'dated' && due !== null && due <= start) return null;
  const isDone = due === null || due > start;
  const back = Math.min(start + long, due !== null && isDone ? due : Infinity);
  const isOver = isDone && back <= lastRound;
  // Anyone who came back is away again once as many days are over.
  const again = story === 'away' ? calendar.addCourseDays(back, Math.max(1, away)) : back + Math.max(3 * DAY, usual);
  const twice = isOver && again <= lastRound && story !== 'notDone' && story !== 'dated';
  const after = twice ? again + Math.max(6 * DAY, 2 * usual) : back + 2 * DAY;
  const until = Math.min(after, lastRound + AWAY_FROM_ROUND);
  const spells: ExampleLine['spells'] = twice
    ? [
        [start, back],
        [again, until],
      ]
    : [[start, isOver ? back : until]];
  const shown = rounds.filter((t) => t < until);
  const seen = { ...rule, status: 'on' as const, when: LEAF, audience: EVERYONE, spellsFrom: null };
  const decisions = replay([seen], exampleFacts(course, spells, start), { from: first, until });
  return {
    story,
    lastSeen: story === 'away' ? calendar.addCourseDays(start, -away) : null,
    from: start - AWAY_FROM_ROUND,
    until,
    isOver,
    spells,
    rounds: shown,
    marks: decisions.flatMap((d): ExampleMark[] => {
      if (d.outcome === 'withdrawn') return [];
      const kind = d.outcome === 'sent' ? 'heard' : d.outcome;
      return [{ at: d.sendAt ?? d.round, kind, step: d.step, reason: d.outcome === 'withheld' ? d.reason : null }];
    }),
  };
}

const KINDS: readonly (readonly [ExampleStory, readonly MeasureName[]])[] = [
  ['dated', ['hoursUntilDue', 'dueSoon']],
  ['missing', ['missing', 'late', 'onTimeShare', 'absences']],
  ['notDone', ['submitted', 'opens', 'completed', 'share']],
  ['graded', GRADE_MEASURES],
];

/** When the last of the items is due that the condition names; null where none is. */
function lastDue({ when }: Rule, { items }: Course): Instant | null {
  const named = leavesOf(when).flatMap((leaf) => ('item' in leaf && leaf.item ? [leaf.item] : []));
  const dues = items.flatMap((i) => (named.includes(i.id) && i.dueAt !== null ? [i.dueAt] : []));
  return dues.length === 0 ? null : Math.max(...dues);
}

/** The kind of a condition: that of its first condition that has one. */
function storyOf({ when }: Rule, course: Course): ExampleStory {
  if (absenceAsked(when, course)) return 'away';
  const measures = leavesOf(when).map((leaf) => leaf.measure);
  return KINDS.find(([, of]) => measures.some((m) => of.includes(m)))?.[0] ?? 'other';
}

const EVERYONE = { roles: ['student'], sections: [], except: [] } as const;

/** One student with an address, a contact of every kind, and a condition that is true in the given spells alone. */
function exampleFacts(course: Course, spells: ExampleLine['spells'], start: Instant): Facts {
  const kinds = new Set(course.people.flatMap((p) => p.contacts.map((c) => c.kind)));
  const student = {
    id: STUDENT,
    firstName: 'Example',
    lastName: '',
    email: 'example@course.example',
    role: 'student' as const,
    section: null,
    active: true,
    enrolledAt: Math.min(start, course.calendar.start),
    paused: false,
    contacts: [...kinds].map((kind) => ({ kind, name: kind, email: 'contact@course.example' })),
    fields: {},
  };
  const staff = course.people.filter((p) => p.role === 'instructor');
  const line: Timeline = {
    kind: 'steps',
    at: [-8e15, ...spells.flat()],
    values: [false, ...spells.flatMap(() => [true, false])],
  };
  const timeline = (person: number): Timeline => (person === 0 ? line : { kind: 'none' });
  return {
    course: makeCourse({ ...course, people: [student, ...staff] }),
    timeline,
    timelinesOf: () => timeline,
    fact: () => ({ kind: 'doesNotCount' }),
    sides: new WeakMap(),
    version: () => 0,
  };
}
