/** A replay told: day by day, student by student, in totals. */
import { daysBetween } from '../measures/catalogue/days.ts';
import type { Facts } from '../measures/facts/facts.ts';
import { inAudience } from '../rounds/decide/decide.ts';
import type { Decision } from '../rounds/decide/decision.ts';
import { replayInParts, type ReplaySpan } from '../rounds/whatIf/replay.ts';
import { type WorkInParts } from '../time/inParts.ts';
import { spellsUpTo } from '../rounds/decide/standing.ts';
import { isAlert, type Rule } from '../rules/rule.ts';
import { dateOf, type CourseCalendar } from '../time/calendar.ts';
import { DAY, type Instant } from '../time/instant.ts';
import { quartilesOf, type Quartiles } from './quartiles.ts';

export interface ReplayMark {
  readonly rule: string;
  readonly round: Instant;
  readonly step: number;
  readonly outcome: Decision['outcome'];
  readonly reason: Decision['reason'];
  readonly spellStart: Instant;
  /** It goes to others alone: about the student, and never counted as written to them (engine R11b). */
  readonly alert: boolean;
}

export interface ReplayedStudent {
  readonly student: string;
  /** In the order of the rounds. */
  readonly marks: readonly ReplayMark[];
  /** Of every rule that was replayed; the last has no end while it goes on. */
  readonly spells: readonly { readonly rule: string; readonly from: Instant; readonly to: Instant | null }[];
}

export interface ReplayedDay {
  /** Local date. */
  readonly day: string;
  /** Nudges that write to a student. */
  readonly nudges: number;
  /** Those of them that would wait for the instructor. */
  readonly held: number;
  readonly heldBack: number;
  /** Nudges about a student that go to others alone, sent or waiting. */
  readonly alerts: number;
}

export interface ReplayResult {
  /** Students of the audience of any of the rules. */
  readonly audience: number;
  /** Days with a round, in order. */
  readonly days: readonly ReplayedDay[];
  /** Students with a decision, in roster order. */
  readonly students: readonly ReplayedStudent[];
  readonly nudges: number;
  readonly held: number;
  readonly heldBack: number;
  readonly alerts: number;
  /** Students whom an alert is about. */
  readonly alerted: number;
  /** Students with at least one nudge that writes to them, sent or waiting. */
  readonly reached: number;
  readonly busiest: { readonly day: string; readonly nudges: number } | null;
  /** The first of those with the most nudges, and how many students got as many. */
  readonly most: { readonly student: string; readonly nudges: number; readonly students: number } | null;
  /** Whole calendar days from the start of a spell to its first nudge; null without one. */
  readonly notice: Quartiles | null;
}

/** `until` bounds the spells as well. */
export function* replayedInParts(
  rules: readonly Rule[],
  facts: Facts,
  span: ReplaySpan & { readonly until: Instant },
): WorkInParts<ReplayResult> {
  return decisionsTold(yield* replayInParts(rules, facts, span), rules, facts, span.until);
}

/** Decisions of these rules, told. */
export function decisionsTold(
  decisions: readonly Decision[],
  rules: readonly Rule[],
  facts: Facts,
  until: Instant,
): ReplayResult {
  const { course } = facts;
  const byStudent = new Map<string, ReplayMark[]>();
  const alerts = new Map(rules.map((r) => [r.id, r.steps.map(isAlert)]));
  for (const { rule, round, step, outcome, reason, spellStart, student } of decisions) {
    const alert = alerts.get(rule)?.[step] ?? false;
    const mark = { rule, round, step, outcome, reason, spellStart, alert };
    const marks = byStudent.get(student);
    if (marks) marks.push(mark);
    else byStudent.set(student, [mark]);
  }
  const students: ReplayedStudent[] = [];
  for (const [i, person] of course.people.entries()) {
    const marks = byStudent.get(person.id);
    if (!marks) continue;
    const of = rules.filter((r) => inAudience(person, r.audience, course, until));
    const spells = of.flatMap((r) => spellsUpTo(r, i, facts, until).map((s) => ({ rule: r.id, ...s })));
    students.push({ student: person.id, marks, spells });
  }
  const audience = course.people.filter((p) => rules.some((r) => inAudience(p, r.audience, course, until)));
  return { audience: audience.length, ...totals(students, course.calendar) };
}

/** The same as it would have been told at `t`: what was decided until then, and spells as far as they went. */
export function replayedUntil(
  { audience, students }: ReplayResult,
  t: Instant,
  calendar: CourseCalendar,
): ReplayResult {
  const cut = students.flatMap(({ student, marks, spells }): ReplayedStudent[] => {
    const known = marks.filter((m) => m.round <= t);
    if (known.length === 0) return [];
    const begun = spells.filter((s) => s.from <= t);
    return [{ student, marks: known, spells: begun.map((s) => (s.to !== null && s.to > t ? { ...s, to: null } : s)) }];
  });
  return { audience, ...totals(cut, calendar) };
}

/** Whole days from the start of each spell to its first nudge, of one student's nudges in their order. */
export function noticesOf(
  nudges: Iterable<Pick<ReplayMark, 'rule' | 'spellStart' | 'round'>>,
  calendar: CourseCalendar,
): number[] {
  const reached = new Set<string>();
  const notices: number[] = [];
  for (const { rule, spellStart, round } of nudges) {
    const spell = `${rule} ${spellStart}`;
    if (reached.has(spell)) continue;
    reached.add(spell);
    notices.push(daysBetween(calendar, spellStart, round));
  }
  return notices;
}

function totals(students: readonly ReplayedStudent[], calendar: CourseCalendar): Omit<ReplayResult, 'audience'> {
  const days = new Map<number, { nudges: number; held: number; heldBack: number; alerts: number }>();
  const notices: number[] = [];
  for (const { marks } of students) {
    notices.push(...noticesOf(marks.filter(isNudge), calendar));
    for (const mark of marks) {
      const day = calendar.dayNumber(mark.round);
      let of = days.get(day);
      if (!of) days.set(day, (of = { nudges: 0, held: 0, heldBack: 0, alerts: 0 }));
      if (mark.outcome === 'withheld') of.heldBack++;
      else if (mark.alert && isNudge(mark)) of.alerts++;
      else if (mark.outcome === 'sent') of.nudges++;
      else if (mark.outcome === 'held') of.held++;
    }
  }
  const told = [...days].sort(([a], [b]) => a - b).map(([day, of]): ReplayedDay => ({ day: dateOf(day), ...of }));
  const sum = (key: 'nudges' | 'held' | 'heldBack' | 'alerts') => told.reduce((all, d) => all + d[key], 0);
  const counts = students.map((s) => ({ student: s.student, nudges: s.marks.filter(isWrittenTo).length }));
  const most = greatest(counts);
  return {
    days: told,
    students,
    nudges: sum('nudges'),
    held: sum('held'),
    heldBack: sum('heldBack'),
    alerts: sum('alerts'),
    alerted: students.filter((s) => s.marks.some((m) => m.alert && isNudge(m))).length,
    reached: counts.filter((c) => c.nudges > 0).length,
    busiest: greatest(told.map((d) => ({ day: d.day, nudges: d.nudges + d.held }))),
    most: most && { ...most, students: counts.filter((c) => c.nudges === most.nudges).length },
    notice: quartilesOf(notices.sort((a, b) => a - b)),
  };
}

/** What another version of a rule would have done beside the first. */
export interface ReplayDifference {
  /** Nudges more; below zero, fewer. */
  readonly more: number;
  /** Students reached by the second alone, and by the first alone. */
  readonly gained: readonly string[];
  readonly lost: readonly string[];
  /** Days of 24 hours by which first nudges come earlier, on average over those reached by both; null when there are none. */
  readonly earlier: number | null;
  /** Alerts more; below zero, fewer. */
  readonly alerts: number;
}

type ReplayFigures = Pick<ReplayResult, 'students' | 'nudges' | 'held' | 'alerts'>;

export function compareReplays(before: ReplayFigures, after: ReplayFigures): ReplayDifference {
  const [was, is] = [firstNudges(before), firstNudges(after)];
  const shifts = [...is].flatMap(([student, round]) => (was.has(student) ? [(was.get(student)! - round) / DAY] : []));
  return {
    more: after.nudges + after.held - before.nudges - before.held,
    gained: [...is.keys()].filter((s) => !was.has(s)),
    lost: [...was.keys()].filter((s) => !is.has(s)),
    earlier: shifts.length === 0 ? null : shifts.reduce((a, b) => a + b, 0) / shifts.length,
    alerts: after.alerts - before.alerts,
  };
}

const firstNudges = ({ students }: ReplayFigures): ReadonlyMap<string, Instant> =>
  new Map(
    students.flatMap((s) => {
      const first = s.marks.find(isWrittenTo);
      return first ? [[s.student, first.round] as const] : [];
    }),
  );

/** Sent, or waiting for the instructor. */
export const isNudge = ({ outcome }: Pick<Decision, 'outcome'>): boolean => outcome === 'sent' || outcome === 'held';

/** Sent to the student, or waiting to be; an alert is about them and not to them (engine R11b). */
export const isWrittenTo = (mark: Pick<ReplayMark, 'outcome' | 'alert'>): boolean => isNudge(mark) && !mark.alert;

/** The first of those with the most nudges; null when there are none. */
function greatest<T extends { readonly nudges: number }>(all: readonly T[]): T | null {
  let found: T | null = null;
  for (const one of all) if (one.nudges > (found?.nudges ?? 0)) found = one;
  return found;
}
