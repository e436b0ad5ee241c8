/** What limits are counted from, read from the nudges of a course. */
import type { LoggedNudge, MessageState } from '@zest-bell/core';
import type { Em } from '../platform/orm.ts';
import { earlierConditions } from '../rules/repository.ts';
import type { RuleRow } from '../rules/entity.ts';
import { NudgeRow } from './entity.ts';

export async function loggedNudges(em: Em, course: number, rules: readonly RuleRow[]): Promise<LoggedNudge[]> {
  const earlier = await earlierConditions(em, rules);
  const rows = await em.find(
    NudgeRow,
    { course },
    {
      fields: ['rule', 'ruleVersion', 'student', 'roundAt', 'step', 'state', 'toStudent'],
      orderBy: { id: 'asc' },
      disableIdentityMap: true,
    },
  );
  return rows.map((n) => ({
    rule: n.rule ?? null,
    student: n.student,
    round: n.roundAt,
    step: n.step,
    state: n.state as MessageState,
    toStudent: n.toStudent,
    when: earlier.get(`${n.rule}@${n.ruleVersion}`),
  }));
}
