/** A draft rule from a condition that was found by looking. */
import type { Course } from '@zest-bell/core/course';
import { conditionSentence, type Condition } from '@zest-bell/core/conditions';
import type { WordingPurpose } from '@zest-bell/core/wording';
import type { RuleCard, WordingAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { createRule } from '../../lib/ruleActions.ts';
import { newRule } from '../../lib/ruleDefaults.ts';
import type { WrittenText } from './written.ts';

const MOST_OF_A_NAME = 80;

/** A rule's name from its condition: “Have not opened Syllabus”. */
export function nameFrom(when: Condition, course: Course): string {
  const words = conditionSentence(when, course);
  const name = words.charAt(0).toUpperCase() + words.slice(1);
  if (name.length <= MOST_OF_A_NAME) return name;
  return `${name.slice(0, MOST_OF_A_NAME - 1).replace(/\s+\S*$/, '')}…`;
}

/**
 * It begins with the text that was just written by hand, as a wording of its own; else with the first wording for its purpose, or
 * the first there is. Null when it could not be made.
 */
export async function ruleFrom(
  here: CourseHere,
  wordings: readonly WordingAnswer[],
  rule: {
    readonly name: string;
    readonly when: Condition;
    readonly purpose?: WordingPurpose;
    readonly written?: WrittenText | undefined;
  },
): Promise<RuleCard | null> {
  const { name, when, purpose, written } = rule;
  const made = await attempt(async () => {
    const wording = written
      ? await wordingOf(here, wordings, { name, purpose: purpose ?? 'support', ...written })
      : (wordings.find((w) => w.purpose === purpose) ?? wordings[0]);
    return wording ? createRule(here, { ...newRule(here.course, here.now, wording.id), name, when }) : null;
  });
  return made ?? null;
}

/** The wording that says this already, or a new one. */
async function wordingOf(
  here: CourseHere,
  wordings: readonly WordingAnswer[],
  written: WrittenText & { readonly name: string; readonly purpose: WordingPurpose },
): Promise<WordingAnswer> {
  const same = wordings.find((w) => w.subject === written.subject && w.text === written.text);
  return same ?? (await ask(contract.wording.make, { course: here.id }, { body: { wording: written } }));
}
