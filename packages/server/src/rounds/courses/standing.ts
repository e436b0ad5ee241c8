/** How a course's rounds and mail stand, and what is in their way. */
import type { Instant } from '@zest-bell/core/time';
import { cannotRunWords } from '@zest-bell/core/rules';
import type { LiveCourse } from '../../course/activity/live.ts';
import type { StandingAnswer } from '@zest-bell/core/exchange';
import { mailTroubleOf } from '../../mail/outbox/mailTrouble.ts';
import type { Em } from '../../platform/database/orm.ts';
import { countOf, rowsOf } from '../../platform/database/query.ts';
import { TroubleRow } from '../deciding/entity.ts';
import { overdueSince, readableRule, ruleName, rowsOn } from '../../rules/repository.ts';
import type { CourseRow } from '../../course/entity.ts';
import { hasHeard, staleSources } from '../../course/waiting.ts';
import { readsStaleSource } from '../../rules/sources.ts';
import { actorNames } from '../../access/audit.ts';

export async function courseStanding(em: Em, { row, course }: LiveCourse, now: Instant): Promise<StandingAnswer> {
  const rules = await rowsOn(em, row.id);
  const names = new Map(rules.map((r) => [r.key, ruleName(r)]));
  const knex = em.getKnex();
  const counted = await rowsOf<{ state: string; n: number }>(
    em,
    knex('message')
      .where('course', row.id)
      .whereNotNull('nudge')
      .whereIn('state', ['queued', 'held', 'failed', 'uncertain'])
      .groupBy('state')
      .select('state')
      .count({ n: '*' }),
  );
  const count = (state: string) => Number(counted.find((c) => c.state === state)?.n ?? 0);
  const stale = staleSources(row, now);
  const name = await actorNames(em, [row.stoppedBy]);
  const waiting = rules.filter((r) => {
    const rule = readableRule(r);
    return rule !== null && readsStaleSource(rule, row, now);
  }).length;
  const troubles = await em.find(TroubleRow, { course: row.id }, { orderBy: { since: 'asc' } });
  return {
    sending: await sendingOf(em, row.id, now),
    stopped: row.stoppedAt == null ? null : { at: row.stoppedAt, by: name(row.stoppedBy) },
    copyFrom: row.copyFrom ?? null,
    queued: count('queued'),
    overdue: rules
      .map((r) => ({ rule: r.key, name: names.get(r.key)!, since: overdueSince(r, now) }))
      .filter((o): o is typeof o & { since: Instant } => o.since !== null),
    feed: {
      hasHeard: hasHeard(row),
      heardAt: row.heardAt ?? null,
      staleHours: row.guards.staleHours,
      stale: stale.size > 0,
      sources: [...stale],
      waiting,
    },
    troubles: troubles.map((t) => ({
      rule: t.rule,
      name: names.get(t.rule) ?? t.rule,
      since: t.since,
      attempts: t.attempts,
      nextTryAt: t.nextTryAt,
      message: t.message,
    })),
    stuck: rules.flatMap((r) => {
      const rule = readableRule(r);
      const why = rule && cannotRunWords(rule, course);
      return why === null || troubles.some((t) => t.rule === r.key) ? [] : [{ rule: r.key, name: ruleName(r), why }];
    }),
    mailTrouble: await mailTroubleOf(em, row.id),
    news: await newsOf(em, row),
    held: count('held'),
    failed: count('failed'),
    uncertain: count('uncertain'),
  };
}

/** The latest of everything that happens in a course, each a look at the end of an index. */
async function newsOf(em: Em, row: CourseRow): Promise<string> {
  const knex = em.getKnex();
  const latest = async (table: string, by: string): Promise<number> => {
    const query = knex(table).where('course', row.id).orderBy(by, 'desc').limit(1).select('id');
    return (await rowsOf<{ id: number }>(em, query))[0]?.id ?? 0;
  };
  const ids = [
    await latest('activity_event', 'id'),
    await latest('grade', 'id'),
    await latest('rule_round', 'at'),
    await latest('message', 'settled_at'),
    await latest('reply', 'at'),
  ];
  return [row.version, ...ids].join('-');
}

/** Fewer are gone before anybody reads of them. */
const MANY = 20;

/**
 * How far the mail is that is going out: the messages of those rounds and mailings that are due, and how many of them are dealt with.
 * What was sent before at the same moment, as by hand, is not counted in.
 */
async function sendingOf(em: Em, course: number, now: Instant): Promise<StandingAnswer['sending']> {
  const knex = em.getKnex();
  const leaving = () =>
    knex('message as m')
      .where('m.course', course)
      .whereNotNull('m.nudge')
      .whereIn('m.state', ['queued', 'handing'])
      .where('m.send_at', '<=', now);
  const left = await countOf(em, leaving());
  if (left === 0) return null;
  // A rule’s round; what is sent by hand has a wording of its own each time.
  const rounds = await rowsOf<{ at: number; whose: string }>(
    em,
    leaving()
      .join('nudge as n', 'n.id', 'm.nudge')
      .distinct(knex.raw('n.round_at as at, coalesce(n.rule, n.wording) as whose')),
  );
  const total = await countOf(
    em,
    knex('nudge as n')
      .join('message as m', 'm.nudge', 'n.id')
      .where('n.course', course)
      .where((going) => {
        for (const { at, whose } of rounds)
          void going.orWhereRaw('(n.round_at = ? and coalesce(n.rule, n.wording) = ?)', [at, whose]);
      })
      .where('m.send_at', '<=', now)
      .whereNot('m.state', 'held'),
  );
  return total < MANY ? null : { done: total - left, total };
}
