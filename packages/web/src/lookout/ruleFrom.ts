/** A draft rule from a condition that was found by looking. */
import type { Condition, RuleCard, WordingAnswer, WordingPurpose } from '@zest-bell/core';
import { attempt } from '../app/attempt.ts';
import type { Here } from '../app/here.ts';
import { createRule } from '../rules/actions.ts';
import { newRule } from '../rules/defaults.ts';

/** It begins with the first wording for its purpose, or the first there is. Null when it could not be made. */
export async function ruleFrom(
  here: Here,
  wordings: readonly WordingAnswer[],
  rule: { readonly name: string; readonly when: Condition; readonly purpose?: WordingPurpose },
): Promise<RuleCard | null> {
  const wording = wordings.find((w) => w.purpose === rule.purpose) ?? wordings[0];
  if (!wording) return null;
  const { name, when } = rule;
  const made = await attempt(() => createRule(here, { ...newRule(here.course, here.now, wording.id), name, when }));
  return made ?? null;
}
