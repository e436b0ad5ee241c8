/** What came of each wording of a course, read from its nudges, its answers and what its students did. */
import { canReturn, returnAfter, textResults, type Instant, type SentText, type TextResults } from '@zest-bell/core';
import type { LiveCourse } from '../activity/live.ts';
import type { Em } from '../platform/orm.ts';
import { rowsOf } from '../platform/query.ts';
import { ReplyRow } from '../replies/entity.ts';
import { RuleRow } from '../rules/entity.ts';
import { earlierConditions, ruleOfRow } from '../rules/repository.ts';

interface SentRow {
  readonly nudge: number;
  readonly wording: string;
  readonly rule: string | null;
  readonly version: number;
  readonly student: string;
  readonly variant: number | null;
  readonly at: Instant;
}

/** By wording, for a wording of so many texts. */
export async function resultsOf(
  em: Em,
  { id, course, facts }: LiveCourse,
  now: Instant,
): Promise<(wording: string, texts: number) => TextResults> {
  const rules = await em.find(RuleRow, { course: id });
  const byKey = new Map(rules.map((r) => [r.key, ruleOfRow(r)]));
  const earlier = await earlierConditions(em, rules);
  const query = em
    .getKnex()('nudge as n')
    .join('message as m', 'm.nudge', 'n.id')
    .select({ nudge: 'n.id', wording: 'n.wording', rule: 'n.rule', version: 'n.rule_version' })
    .select({ student: 'n.student', variant: 'm.variant', at: 'm.settled_at' })
    .where({ 'n.course': id, 'm.state': 'sent', 'm.kind': 'student' });
  const answered = new Set(
    (
      await em.find(
        ReplyRow,
        { course: id, kind: 'reply', student: { $ne: null } },
        { fields: ['nudge'], disableIdentityMap: true },
      )
    ).map((r) => r.nudge),
  );
  const sent = new Map<string, SentText[]>();
  for (const row of await rowsOf<SentRow>(em, query)) {
    const person = course.personIndex.get(row.student);
    const when = earlier.get(`${row.rule}@${row.version}`) ?? byKey.get(row.rule ?? '')?.when;
    const turnable = person !== undefined && when !== undefined && canReturn(when);
    const at = Number(row.at);
    const of = sent.get(row.wording) ?? [];
    if (of.length === 0) sent.set(row.wording, of);
    of.push({
      variant: row.variant ?? 0,
      sentAt: at,
      canReturn: turnable,
      returned: turnable && (returnAfter(facts, person, when, at)?.at ?? Infinity) <= now,
      replied: answered.has(row.nudge),
    });
  }
  return (wording, texts) => textResults(sent.get(wording) ?? [], texts, now);
}
