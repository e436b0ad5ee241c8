/**
 * One round: what is decided about each student at one instant (engine R2–R8). Pure: the same function rehearses, rings,
 * replays a term, and runs beside the composer in the browser.
 */
import { spellAt, spellsReader, type Spell } from '../conditions/evaluate.ts';
import { evidenceAt, type LeafEvidence } from '../conditions/evidence.ts';
import { storyStart, type Course } from '../course/course.ts';
import type { Person } from '../course/person.ts';
import type { Facts } from '../measures/facts.ts';
import { countsForLimits, type HeldReason, type MessageState } from '../nudges/message.ts';
import type { Audience, Rule } from '../rules/rule.ts';
import type { Instant } from '../time/instant.ts';
import { refusal, type LimitCase, type WithheldReason } from './limits.ts';
import type { LoggedNudge, NudgeLog } from './log.ts';
import { firstOpen } from './quietHours.ts';
import { recipientsOf, type Recipient } from './recipients.ts';
import { stepAt } from './step.ts';

export const WITHDRAWN_REASONS = ['noLongerTrue', 'ruleOff', 'inactive', 'paused', 'noAddress', 'courseOver'] as const;
export type WithdrawnReason = (typeof WITHDRAWN_REASONS)[number];

interface DecisionOf {
  readonly rule: string;
  readonly student: string;
  readonly round: Instant;
  readonly step: number;
  readonly spellStart: Instant;
  readonly evidence: readonly LeafEvidence[];
  readonly to: readonly Recipient[];
}

export type Decision =
  | (DecisionOf & { readonly outcome: 'sent'; readonly reason: null; readonly sendAt: Instant })
  | (DecisionOf & {
      readonly outcome: 'held';
      readonly reason: null;
      readonly sendAt: null;
      readonly heldFor: HeldReason;
    })
  | (DecisionOf & { readonly outcome: 'withheld'; readonly reason: WithheldReason; readonly sendAt: null })
  | (DecisionOf & { readonly outcome: 'withdrawn'; readonly reason: WithdrawnReason; readonly sendAt: Instant });

/** Who a rule is about: active, with a role and section of the audience, not excepted, their story begun (engine R2). */
export function inAudience(person: Person, audience: Audience, course: Course, t: Instant): boolean {
  return (
    person.active &&
    audience.roles.includes(person.role) &&
    (audience.sections.length === 0 || (person.section !== null && audience.sections.includes(person.section))) &&
    !audience.except.includes(person.id) &&
    storyStart(course, person) <= t
  );
}

/** This rule's nudges to a student that count in the spell (engine R3). */
export function sentInSpell(
  rule: Rule,
  student: number,
  spellStart: Instant,
  r: Instant,
  facts: Facts,
  all: readonly LoggedNudge[],
): LoggedNudge[] {
  return all.filter((n) => {
    if (n.rule !== rule.id || !countsForLimits(n.state) || n.round > r) return false;
    if (n.round >= spellStart) return true;
    const since = n.when && spellAt(facts, student, n.when, r);
    return since != null && since.start <= n.round;
  });
}

const STATE_OF: Readonly<Record<'sent' | 'held', MessageState>> = { sent: 'queued', held: 'held' };

/**
 * Decides all `rules` (in their order) at the round instant `r`, each over its audience in roster order, and adds what it
 * decides to `log`, so that a later rule of the same round knows. `log` is changed; hand in a copy to rehearse.
 */
export function decide(rules: readonly Rule[], facts: Facts, log: NudgeLog, r: Instant): Decision[] {
  const { course } = facts;
  const decisions: Decision[] = [];
  for (const rule of rules) {
    const spells = spellsReader(facts, rule.when);
    for (let i = 0; i < course.people.length; i++) {
      const spell = spells(i, r);
      if (spell === null) continue;
      const decision = decideOne(rule, i, spell, facts, log, r);
      if (!decision) continue;
      decisions.push(decision);
      if (decision.outcome === 'sent' || decision.outcome === 'held') {
        log.add({
          rule: rule.id,
          student: decision.student,
          round: r,
          step: decision.step,
          state: STATE_OF[decision.outcome],
          toStudent: rule.steps[decision.step]!.to.includes('student'),
          weight: rule.weight,
        });
      }
    }
  }
  return decisions;
}

function decideOne(rule: Rule, i: number, spell: Spell, facts: Facts, log: NudgeLog, r: Instant): Decision | null {
  const { course } = facts;
  const student = course.people[i]!;
  if (!inAudience(student, rule.audience, course, r)) return null;
  if (rule.spellsFrom !== null && spell.start < rule.spellsFrom) return null;
  const limits = limitCaseOf(rule, i, spell, facts, log, r);
  if (limits === null) return null;
  const { step, recipients } = limits;
  const reason = refusal(limits);
  const about = { rule: rule.id, student: student.id, round: r, step, spellStart: spell.start };
  const decided = (outcome: Outcome): Decision =>
    withEvidence({ ...about, ...outcome }, () => evidenceAt(facts, i, rule.when, r));
  if (reason !== null) return decided({ outcome: 'withheld', reason, sendAt: null, to: [] });
  const to = recipients();
  const replied = step > 0 && log.replied(student.id, spell.start, r);
  const sendAt = firstOpen(r, course.settings.quietHours, course);
  if (sendAt >= course.calendar.end) return decided({ outcome: 'withdrawn', reason: 'courseOver', sendAt, to });
  const heldFor = rule.steps[step]!.deliver === 'hold' ? 'step' : replied ? 'replied' : null;
  if (heldFor) return decided({ outcome: 'held', reason: null, sendAt: null, heldFor, to });
  return decided({ outcome: 'sent', reason: null, sendAt, to });
}

/** What the limits look at for a student in a spell; null while no step is due (engine R4). */
export function limitCaseOf(
  rule: Rule,
  i: number,
  spell: Spell,
  facts: Facts,
  log: NudgeLog,
  r: Instant,
): LimitCase | null {
  const { course } = facts;
  const student = course.people[i]!;
  const all = log.of(student.id);
  const sent = sentInSpell(rule, i, spell.start, r, facts, all);
  const step = stepAt(rule, sent, spell.start, r, course);
  if (step === null) return null;
  const recipients = () => recipientsOf(rule.steps[step]!, student, course);
  return { course, rule, student, step, round: r, sent, all, recipients };
}

/** How one decision comes out, apart from whom and what it is about. */
type Outcome = Decision extends infer D ? (D extends Decision ? Omit<D, keyof About> : never) : never;
type About = Omit<DecisionOf, 'to'>;

/**
 * Evidence is computed when it is first read, because most of a long replay's evidence never is. Read it before the history
 * takes in more: it says what is known at that moment.
 */
export function withEvidence<T extends object>(
  decision: T,
  evidence: () => LeafEvidence[],
): T & { readonly evidence: readonly LeafEvidence[] } {
  let made: LeafEvidence[] | null = null;
  return {
    ...decision,
    get evidence() {
      return (made ??= evidence());
    },
  };
}
