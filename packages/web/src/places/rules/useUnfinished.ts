import type { Rule } from '@zest-bell/core/rules';
import type { CourseHere } from '../../lib/here.ts';
import { useWordings } from '../../lib/queries.ts';
import { unfinishedIn } from '../../lib/unfinishedIn.ts';

/** What looks unfinished in the texts that rules send, each part once. */
export function useUnfinished(here: CourseHere, rules: readonly Rule[]): readonly string[] {
  const wordings = useWordings(here.id).data ?? [];
  const used = wordings.filter((w) => rules.some((rule) => rule.steps.some((step) => step.wording === w.id)));
  return [...new Set(used.flatMap(unfinishedIn))];
}
