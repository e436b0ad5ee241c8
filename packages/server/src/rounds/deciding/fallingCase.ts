/** What is read to find students whom a rule matches and does not reach. */
import type { Instant } from '@zest-bell/core/time';
import { logOf, matchesAt, type FallingCase } from '@zest-bell/core/rounds';
import { PersonRow } from '../../course/entity.ts';
import type { Em } from '../../platform/database/orm.ts';
import { select } from '../../platform/database/query.ts';
import { RuleRow } from '../../rules/entity.ts';
import { overdueSince, readableRule } from '../../rules/repository.ts';
import type { RoundServices } from '../services.ts';
import { roundHolds } from './entity.ts';
import { limitLogOf } from './limitLog.ts';

/** What is read to tell who falls through: the rules that are on and can be read, and the log of those they find. */
export async function fallingCaseOf(
  em: Em,
  { live, clock }: Pick<RoundServices, 'live' | 'clock'>,
  id: number,
): Promise<{ readonly rules: ReadonlyMap<string, RuleRow>; readonly given: FallingCase }> {
  const now = clock.now();
  const { facts } = await live.get(em, id);
  const rows = await em.find(RuleRow, { course: id }, { orderBy: { position: 'asc' }, disableIdentityMap: true });
  const read = rows.flatMap((row) => {
    const rule = row.status === 'on' ? readableRule(row) : null;
    return rule ? [{ row, rule, overdue: overdueSince(row, now) }] : [];
  });
  const rules = read.map((r) => r.rule);
  const matching = new Set(rules.flatMap((rule) => matchesAt(rule, facts, now)));
  const students = [...matching].map((i) => facts.course.people[i]!.id);
  const log = logOf(await limitLogOf(em, id, rows, students));
  const bounced = await em.find(PersonRow, { course: id, active: true, bouncedAt: { $ne: null } });
  return {
    rules: new Map(rows.map((r) => [r.key, r])),
    given: {
      rules,
      facts,
      log,
      now,
      bounced: new Map(bounced.map((p) => [p.key, p.bouncedAt!])),
      ran: await roundsRun(em, id),
      overdue: new Map(read.flatMap(({ row, overdue }) => (overdue === null ? [] : [[row.key, overdue] as const]))),
    },
  };
}

/** When the rounds of each rule were run, in order, by its key. */
export async function roundsRun(em: Em, course: number): Promise<ReadonlyMap<string, readonly Instant[]>> {
  const rows = await select(em, roundHolds, ['rule', 'at'], (query) => query.where({ course }).orderBy('at'));
  const ran = new Map<string, Instant[]>();
  for (const { rule, at } of rows) {
    const own = ran.get(rule);
    if (own) own.push(at);
    else ran.set(rule, [at]);
  }
  return ran;
}
