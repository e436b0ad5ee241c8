/** What is asked before a rule may write: not to more of the class than its course lets pass without a question. */
import {
  decide,
  domainsOf,
  isActiveStudent,
  matchesAt,
  nextRound,
  logOf,
  outsideOf,
  type Decision,
  type Instant,
  type LoggedFacts,
  type Rule,
} from '@zest-bell/core';
import type { LiveCourse } from '../activity/live.ts';
import { AppError } from '../platform/errors.ts';
import type { RuleRow } from './entity.ts';

/** What a rule would decide at an instant as things stand, with no effect. */
export function decisionsAt(
  rule: Rule,
  course: LiveCourse,
  logged: LoggedFacts,
  at: Instant,
): { matching: number; decisions: Decision[] } {
  return {
    matching: matchesAt(rule, course.facts, at).length,
    decisions: decide([rule], course.facts, logOf(logged), at),
  };
}

/** Throws `reachesMany` when a rule would write about more than the set share of the active students. */
export function mustNotReachMany(rule: Rule, course: LiveCourse, logged: LoggedFacts, at: Instant): void {
  const { decisions } = decisionsAt(rule, course, logged, at);
  const written = decisions.filter((d) => d.outcome === 'sent' || d.outcome === 'held');
  const klass = course.course.people.filter(isActiveStudent).length;
  const { askAbove } = course.row.guards;
  if (written.length <= askAbove * klass) return;
  throw new AppError('reachesMany', [
    {
      path: 'confirmed',
      code: 'reachesMany',
      message: `“${rule.name}” would write to ${written.length} of ${klass} students; more than ${Math.round(askAbove * 100)}% of the class needs a yes`,
    },
  ]);
}

/**
 * Throws `outsideAddresses` when a rule may write about students to addresses outside the institution that got no yes; a yes
 * is kept with the rule.
 */
export function mustKnowOutside(rule: Rule, { course, row }: LiveCourse, of: RuleRow, yes: readonly string[]): void {
  const said = new Set([...of.outside, ...yes.map((a) => a.toLowerCase())]);
  const needed = outsideOf(rule, course, domainsOf(row.sender)).map((to) => to.address.toLowerCase());
  const open = needed.filter((a) => !said.has(a));
  if (open.length > 0) {
    throw new AppError(
      'outsideAddresses',
      open.map((address) => ({
        path: 'outside',
        code: 'outsideAddress',
        message: `“${rule.name}” would write about students to ${address}, outside your institution`,
      })),
    );
  }
  // A yes to what the rule does not write to says nothing.
  of.outside = [...new Set([...of.outside, ...needed])];
}

/** Where a rule that is on looks next; with none left, right now. */
export const nextLook = (rule: Rule, course: LiveCourse, now: Instant): Instant =>
  nextRound(rule.rhythm, course.course.calendar, now) ?? now;
