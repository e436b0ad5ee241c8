import type { RepeatLimit, Rule } from '../rules/rule.ts';
import type { Rhythm } from '../time/rhythm.ts';
import type { SaidRhythm, SaidRule } from './saidRule.ts';

/** Course days between the steps of a rule of which only their number was said. */
const BETWEEN_STEPS = 3;

/**
 * A rule with the parts that were said in place of its own. Limits that were not said stay, but for “at every check”, which takes all of
 * them away; the text of the first step is that of steps that are new.
 */
export function withSaid(rule: Rule, said: SaidRule): Rule {
  const { when, audience, rhythm, repeat, weight, spellsFrom, steps } = said;
  return {
    ...rule,
    ...(when && { when }),
    ...(audience && { audience }),
    ...(rhythm && { rhythm: withRhythm(rule.rhythm, rhythm) }),
    ...(repeat && { repeat: withLimits(rule.repeat, repeat) }),
    ...(weight && { weight }),
    ...(spellsFrom !== undefined && { spellsFrom }),
    ...(steps && { steps: stepsWith(rule.steps, steps) }),
  };
}

function stepsWith(own: Rule['steps'], said: NonNullable<SaidRule['steps']>): Rule['steps'] {
  const [first] = own;
  if (!first) return own;
  if (said.length === 1) return own.map((step) => ({ ...step, to: said[0]!.to ?? step.to }));
  return said.map(({ to }, i) => {
    const step = own[i] ?? { ...first, after: { days: BETWEEN_STEPS * i, hours: 0 } };
    return { ...step, to: to ?? step.to };
  });
}

/** A rhythm with what was said in place of its own; one date that recurs from now on runs to the course's end. */
export function withRhythm(own: Rhythm, said: SaidRhythm): Rhythm {
  const isOneDate = own.until === own.start.slice(0, 10);
  const until = said.until ?? (isOneDate && said.rrule !== undefined ? null : own.until);
  return { ...own, start: said.start, rrule: said.rrule ?? own.rrule, until };
}

/** Limits with those that were said in place of their own; “at every check” leaves none. */
export const withLimits = (own: RepeatLimit, said: Partial<RepeatLimit>): RepeatLimit =>
  Object.keys(said).length === 0 ? { perSpell: null, perTerm: null, gap: null } : { ...own, ...said };
