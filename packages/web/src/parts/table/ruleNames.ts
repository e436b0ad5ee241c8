/** Names of the course’s rules, as columns and sentences of the table say them. */
import { useMemo } from 'react';
import type { RuleNames } from '@zest-bell/core/lookout';
import type { CourseHere } from '../../lib/here.ts';
import { useRules } from '../../lib/queries.ts';

export function useRuleNames(here: CourseHere): RuleNames {
  const rules = useRules(here.id);
  return useMemo(() => new Map((rules.data ?? []).map((c) => [c.rule.id, c.rule.name])), [rules.data]);
}
