/** What limits are counted from, read for the students that a round is about; replies are read by whoever knows them. */
import type { Instant, LoggedNudge } from '@zest-bell/core';
import type { Em } from '../platform/orm.ts';
import { inSlices } from '../platform/query.ts';
import type { RuleRow } from '../rules/entity.ts';
import { earlierConditions, ruleWeights } from '../rules/repository.ts';
import { NudgeRow } from './entity.ts';

const FIELDS = ['rule', 'ruleVersion', 'student', 'roundAt', 'step', 'state', 'toStudent'] as const;

/** Which nudges: those about some students, those of a rule and whatever was decided since an instant, or all. */
export type Wanted =
  { readonly students: readonly string[] } | { readonly rule: string | null; readonly since: Instant | null } | 'all';

/** Nudges of a course, oldest first. */
export async function loggedNudges(
  em: Em,
  course: number,
  rules: readonly RuleRow[],
  wanted: Wanted,
): Promise<LoggedNudge[]> {
  const earlier = await earlierConditions(em, rules);
  const weights = await ruleWeights(em, course);
  const out: LoggedNudge[] = [];
  for (const filter of filtersOf(wanted)) {
    const order = { orderBy: { id: 'asc' }, disableIdentityMap: true } as const;
    for (const n of await em.find(NudgeRow, { course, ...filter }, { fields: FIELDS, ...order })) {
      const { student, step, state, toStudent } = n;
      const when = earlier.get(`${n.rule}@${n.ruleVersion}`);
      const weight = weights.get(n.rule ?? '');
      out.push({ rule: n.rule ?? null, student, round: n.roundAt, step, state, toStudent, when, weight });
    }
  }
  return out;
}

function filtersOf(wanted: Wanted): object[] {
  if (wanted === 'all') return [{}];
  if ('students' in wanted) return inSlices(wanted.students).map((slice) => ({ student: { $in: slice } }));
  const { rule, since } = wanted;
  return [
    ...(rule === null ? [] : [{ rule }]),
    // Those of the rule itself were read already.
    ...(since === null ? [] : [{ roundAt: { $gte: since }, $or: [{ rule: null }, { rule: { $ne: rule } }] }]),
  ];
}
