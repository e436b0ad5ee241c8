/** What limits are counted from, read from the nudges of a course. */
import type { LoggedFacts, LoggedNudge, MessageState } from '@zest-bell/core';
import type { Em } from '../platform/orm.ts';
import { earlierConditions } from '../rules/repository.ts';
import type { RuleRow } from '../rules/entity.ts';
import { ReplyRow } from '../replies/entity.ts';
import { NudgeRow } from './entity.ts';

/** The nudges of a course, and the answers of its students. */
export async function loggedFacts(em: Em, course: number, rules: readonly RuleRow[]): Promise<LoggedFacts> {
  const replies = await em.find(
    ReplyRow,
    { course, kind: 'reply', student: { $ne: null } },
    { disableIdentityMap: true },
  );
  return {
    nudges: await loggedNudges(em, course, rules),
    replies: replies.map((r) => ({ student: r.student!, at: r.at })),
  };
}

async function loggedNudges(em: Em, course: number, rules: readonly RuleRow[]): Promise<LoggedNudge[]> {
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
