/** A rule as the list shows it: its sentence, its last round and its next one. */
import { ruleSentence, type RoundSummary, type RuleCard } from '@zest-bell/core';
import type { LiveCourse } from '../activity/live.ts';
import type { Em } from '../platform/orm.ts';
import { rowsOf } from '../platform/query.ts';
import { RoundRow, type RoundResult } from '../rounds/entity.ts';
import type { RuleRow } from './entity.ts';
import { ruleOfRow } from './repository.ts';

export function summaryOf(round: RoundRow, result: RoundResult): RoundSummary {
  const { rule: _rule, ...counts } = result;
  return { at: round.at, trigger: round.trigger as RoundSummary['trigger'], ...counts };
}

export async function cards(em: Em, rows: readonly RuleRow[], { id, course }: LiveCourse): Promise<RuleCard[]> {
  const rounds = await em.find(RoundRow, { course: id }, { orderBy: { at: 'desc', id: 'desc' }, limit: 400 });
  const counted = em.getKnex()('nudge').select('rule').count({ n: '*' }).where({ course: id, state: 'sent' });
  const sent = await rowsOf<{ rule: string; n: number }>(em, counted.groupBy('rule'));
  return rows.map((row) => {
    const rule = ruleOfRow(row);
    const round = rounds.find((r) => r.results.some((x) => x.rule === row.key));
    return {
      rule,
      version: row.version,
      sentence: ruleSentence(rule, course),
      nextRoundAt: row.nextRoundAt ?? null,
      lastRound: round
        ? summaryOf(
            round,
            round.results.find((x) => x.rule === row.key)!,
          )
        : null,
      sentInAll: Number(sent.find((s) => s.rule === row.key)?.n ?? 0),
      archivedAt: row.archivedAt ?? null,
      outside: row.outside,
    };
  });
}
