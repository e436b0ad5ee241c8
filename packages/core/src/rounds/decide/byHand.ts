/**
 * Nudges by hand: no rule and no condition. The budget applies, which the instructor may pass; so do a student's own pause, quiet
 * hours, the course's end and the address (engine R10).
 */
import type { Course } from '../../course/course.ts';
import type { Person } from '../../course/person.ts';
import type { RecipientSpec } from '../../rules/rule.ts';
import type { Instant } from '../../time/instant.ts';
import { countingForBudget } from './limits.ts';
import type { NudgeLog } from './log.ts';
import { firstOpen } from './quietHours.ts';
import { recipientsOf, type Recipient } from './recipients.ts';

export const NOT_BY_HAND = ['inactive', 'paused', 'budget', 'noAddress', 'courseOver'] as const;
export type ReasonNotByHand = (typeof NOT_BY_HAND)[number];

export interface HandCase {
  readonly course: Course;
  readonly log: NudgeLog;
  readonly to: readonly RecipientSpec[];
  /** The instructor writes although the budget is used up. */
  readonly passBudget: boolean;
  /** Not before this instant; at once when it is now or earlier. */
  readonly notBefore: Instant;
  readonly now: Instant;
}

/** From more readers than this on, a message by hand asks first, as one to much of the class does: common practice, no source. */
export const ASK_BY_HAND_ABOVE = 20;

/** Whether a message by hand to so many asks first: above the course's share of the class, or above 20 people. */
export const needsConfirmationByHand = (readers: number, students: number, askAbove: number): boolean =>
  readers > ASK_BY_HAND_ABOVE || (readers > 1 && readers > askAbove * students);

export type HandDecision =
  | {
      readonly outcome: 'sent';
      readonly sendAt: Instant;
      readonly to: readonly Recipient[];
      /** The budget would have refused it. */
      readonly passedBudget: boolean;
    }
  | { readonly outcome: 'withheld'; readonly reason: ReasonNotByHand };

/** What becomes of a message by hand about one person. */
export function decideByHand(person: Person, c: HandCase): HandDecision {
  const not = (reason: ReasonNotByHand): HandDecision => ({ outcome: 'withheld', reason });
  if (!person.active) return not('inactive');
  if (person.paused) return not('paused');
  const recipients = recipientsOf({ to: c.to }, person, c.course);
  const toStudent = c.to.includes('student');
  if ((toStudent && !person.email) || recipients.length === 0) return not('noAddress');
  const rule = { id: '', weight: 'strong' } as const;
  const counted = countingForBudget({ course: c.course, rule, round: c.now, all: c.log.of(person.id) });
  const { budget } = c.course.settings;
  const isUsedUp = toStudent && budget !== null && counted.length >= budget.count;
  if (isUsedUp && !c.passBudget) return not('budget');
  const sendAt = firstOpen(Math.max(c.now, c.notBefore), c.course.settings.quietHours, c.course);
  if (sendAt >= c.course.calendar.end) return not('courseOver');
  return { outcome: 'sent', sendAt, to: recipients, passedBudget: isUsedUp };
}
