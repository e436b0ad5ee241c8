/**
 * One round: what is decided about each student at one instant (engine R2–R8). Pure: the same function rehearses, rings,
 * replays a term, and runs beside the composer in the browser.
 */
import { spellAt, spellsAt, type PersonSpell, type Spell } from '../../conditions/spells.ts';
import { storyStart, type Course } from '../../course/course.ts';
import type { Person } from '../../course/person.ts';
import type { Facts } from '../../measures/facts/facts.ts';
import { countsForLimits, type MessageState } from '../../nudges/message.ts';
import type { Audience, Rule } from '../../rules/rule.ts';
import type { Instant } from '../../time/instant.ts';
import type { Decision } from './decision.ts';
import { firstLimitRefusing, type LimitCase } from './limits.ts';
import { type WithheldReason } from './withheld.ts';
import type { LoggedNudge, NudgeLog } from './log.ts';
import { firstOpen } from './quietHours.ts';
import { recipientsOf, type Recipient } from './recipients.ts';
import { stepAt } from './step.ts';

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
function sentInSpell(
  rule: Rule,
  student: number,
  spellStart: Instant,
  r: Instant,
  facts: Facts,
  all: readonly LoggedNudge[],
): readonly LoggedNudge[] {
  // Most students have had nothing yet.
  if (all.length === 0) return NOTHING;
  return all.filter((n) => {
    if (n.rule !== rule.id || !countsForLimits(n.state) || n.round > r) return false;
    if (n.round >= spellStart) return true;
    const since = n.when && spellAt(facts, student, n.when, r);
    return since != null && since.start <= n.round;
  });
}

const NOTHING: readonly LoggedNudge[] = [];

const STATE_OF: Readonly<Record<'sent' | 'held', MessageState>> = { sent: 'queued', held: 'held' };

/**
 * Decides all `rules` (in their order) at the round instant `r`, each over its audience in roster order, and adds what it
 * decides to `log`, so that a later rule of the same round knows. `log` is changed; hand in a copy to rehearse. `inSpell` is for
 * anyone who decides many rounds in a row; `withheld` for anyone who needs no decision about what limits keep back.
 */
export function decide(
  rules: readonly Rule[],
  facts: Facts,
  log: NudgeLog,
  r: Instant,
  inSpell: InSpell = (rule, t) => spellsAt(facts, rule.when, t),
  withheld?: WithheldListener,
): Decision[] {
  const decisions: Decision[] = [];
  for (const rule of rules) {
    for (const spell of inSpell(rule, r)) {
      const decision = decideOne(rule, facts, r, spell, log, withheld);
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

/** Those in a spell of a rule's condition at an instant, in roster order. */
export type InSpell = (rule: Rule, t: Instant) => readonly PersonSpell[];

/** Told of what a limit keeps back, in place of a decision. */
export type WithheldListener = (rule: Rule, spell: PersonSpell, step: number, reason: WithheldReason) => void;

const NOBODY: readonly Recipient[] = [];

function decideOne(
  rule: Rule,
  facts: Facts,
  r: Instant,
  spell: PersonSpell,
  log: NudgeLog,
  withheld: WithheldListener | undefined,
): Decision | null {
  const { course } = facts;
  const { person: i } = spell;
  const student = course.people[i]!;
  if (!inAudience(student, rule.audience, course, r)) return null;
  if (rule.spellsFrom !== null && spell.start < rule.spellsFrom) return null;
  const limits = limitCaseOf(rule, i, spell, facts, log, r);
  if (limits === null) return null;
  const { step } = limits;
  const reason = firstLimitRefusing(limits);
  if (reason !== null && withheld) {
    withheld(rule, spell, step, reason);
    return null;
  }
  const id = student.id;
  const spellStart = spell.start;
  const ruleId = rule.id;
  // Written out field by field: a replay makes these by the hundred thousand, and copying one into another takes several times as long.
  if (reason !== null) {
    return {
      rule: ruleId,
      student: id,
      round: r,
      step,
      spellStart,
      outcome: 'withheld',
      reason,
      sendAt: null,
      to: NOBODY,
    };
  }
  const to = recipientsOf(rule.steps[step]!, student, course);
  const sendAt = firstOpen(r, course.settings.quietHours, course);
  if (sendAt >= course.calendar.end) {
    return {
      rule: ruleId,
      student: id,
      round: r,
      step,
      spellStart,
      outcome: 'withdrawn',
      reason: 'courseOver',
      sendAt,
      to,
    };
  }
  const replied = step > 0 && log.replied(student.id, spell.start, r);
  const heldFor = rule.steps[step]!.deliver === 'hold' ? 'step' : replied ? 'replied' : null;
  return heldFor !== null
    ? {
        rule: ruleId,
        student: id,
        round: r,
        step,
        spellStart,
        outcome: 'held',
        reason: null,
        sendAt: null,
        to,
        heldFor,
      }
    : { rule: ruleId, student: id, round: r, step, spellStart, outcome: 'sent', reason: null, sendAt, to };
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
  const hasReplied = log.isStopped(rule, student.id, spell.start, r);
  return { course, rule, student, step, round: r, sent, all, hasReplied };
}
