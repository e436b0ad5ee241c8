import { useMemo } from 'react';
import type { Condition } from '@zest-bell/core/conditions';
import type { CourseHere } from '../../lib/here.ts';
import { newRule } from '../../lib/ruleDefaults.ts';
import { useMatchWords } from './useMatching.ts';

/** How many of the course’s students match a condition as of now. */
export function MatchCount({ here, when }: { readonly here: CourseHere; readonly when: Condition }) {
  const { course, now } = here;
  const rule = useMemo(() => ({ ...newRule(course, now, ''), when }), [course, now, when]);
  return <span className="text-[13px] text-ink-2">{useMatchWords(here, rule)}</span>;
}
