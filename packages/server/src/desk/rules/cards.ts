/** A rule as the list shows it: its sentence, its last round and its next one. */
import { cannotRunWords, parseRule, ruleSentence } from '@zest-bell/core/rules';
import { actorNames, type ActorName } from '../../access/audit.ts';
import type { RoundSummary, RuleCard } from '@zest-bell/core/exchange';
import type { LiveCourse } from '../../course/activity/live.ts';
import type { Em } from '../../platform/database/orm.ts';
import { inSlices, rowsOf } from '../../platform/database/query.ts';
import { RoundRow } from '../../rounds/deciding/entity.ts';
import type { RuleRow } from '../../rules/entity.ts';
import { everOn, ruleOfRow } from '../../rules/repository.ts';

export function summaryOf(round: RoundRow): RoundSummary {
  const { at, trigger, version, matched, heard, held, withheld, withdrawn, missed } = round;
  return { at, trigger, version, matched, heard, held, withheld, withdrawn, missed };
}

export async function cards(em: Em, rows: readonly RuleRow[], live: LiveCourse, reader: number): Promise<RuleCard[]> {
  const { id, course } = live;
  const keys = rows.map((r) => r.key);
  const last = new Map<string, RoundRow>();
  const sent = new Map<string, number>();
  const alerts = new Map<string, number>();
  for (const slice of inSlices(keys)) {
    const knex = em.getKnex();
    const latest = await rowsOf<{ rule: string; at: number }>(
      em,
      knex('rule_round').where('course', id).whereIn('rule', slice).groupBy('rule').select('rule').max({ at: 'at' }),
    );
    for (const { rule, at } of latest) {
      const round = await em.findOne(RoundRow, { course: id, rule, at }, { orderBy: { id: 'desc' } });
      if (round) last.set(rule, round);
    }
    const counted = await rowsOf<{ rule: string; toStudent: boolean | number; n: number }>(
      em,
      knex('nudge')
        .where({ course: id, state: 'sent' })
        .whereIn('rule', slice)
        .groupBy('rule', 'to_student')
        .select('rule', { toStudent: 'to_student' })
        .count({ n: '*' }),
    );
    for (const { rule, toStudent, n } of counted) (toStudent ? sent : alerts).set(rule, Number(n));
  }
  const name = await actorNames(
    em,
    rows.map((r) => r.drafted?.by),
  );
  const wereOn = await everOn(em, rows);
  return rows.map((row) => {
    const rule = ruleOfRow(row);
    const round = last.get(row.key);
    return {
      rule,
      version: row.version,
      sentence: ruleSentence(rule, course),
      nextRoundAt: row.nextRoundAt ?? null,
      cannotRun: cannotRunWords(rule, course),
      wasOn: wereOn.has(row.key),
      lastRound: round ? summaryOf(round) : null,
      sentInAll: sent.get(row.key) ?? 0,
      alertsInAll: alerts.get(row.key) ?? 0,
      archivedAt: row.archivedAt ?? null,
      writesAs: writesAs(row, live, reader),
      outside: row.outside,
      drafted: draftOf(row, name),
    };
  });
}

function writesAs({ owner }: RuleRow, { own }: LiveCourse, reader: number): RuleCard['writesAs'] {
  const sender = own.get(owner ?? 0);
  return sender ? { name: sender.name, isYou: owner === reader } : null;
}

/** One that can no longer be read says nothing. */
function draftOf({ drafted }: RuleRow, name: ActorName): RuleCard['drafted'] {
  const rule = drafted ? parseRule(drafted.document) : null;
  return drafted && rule?.ok ? { rule: rule.value, by: name(drafted.by), at: drafted.at } : null;
}
