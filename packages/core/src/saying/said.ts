/** What was read in a text, as `zest-bell/said@1` ([Y8]). */
import { formatInstant } from '../time/instant.ts';
import type { Course } from '../course/course.ts';
import { say, type SayingOptions, type SayingProblem } from './say.ts';
import { saidSentence, type SaidRule } from './saidRule.ts';

export interface SaidFile {
  readonly format: 'zest-bell/said@1';
  /** In the form of a rule file; null where there are problems. */
  readonly rule: object | null;
  readonly sentence: string | null;
  readonly problems: readonly SayingProblem[];
}

/** Reads a text and writes down what it says. */
export function saidFile(text: string, course: Course, options: SayingOptions = {}): SaidFile {
  const { rule, problems } = say(text, course, options);
  return {
    format: 'zest-bell/said@1',
    rule: rule && inFile(rule, course),
    sentence: rule && saidSentence(rule, course),
    problems,
  };
}

function inFile({ spellsFrom, repeat, ...rule }: SaidRule, course: Course): object {
  const gap = repeat?.gap && {
    ...(repeat.gap.days > 0 && { days: repeat.gap.days }),
    ...(repeat.gap.hours > 0 && { hours: repeat.gap.hours }),
  };
  return {
    ...rule,
    ...(repeat && { repeat: { ...repeat, ...(gap && { gap }) } }),
    ...(spellsFrom !== undefined && { spellsFrom: formatInstant(spellsFrom, course.timeZone) }),
  };
}
