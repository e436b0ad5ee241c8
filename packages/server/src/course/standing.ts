/** Whether a course may ring and send at all right now: its mail is not stopped, and its data is not older than it may be. */
import { DAY, dayNumberOf, HOUR, zoneOf, type Instant, type StandingAnswer } from '@zest-bell/core';
import { MessageRow } from '../nudges/entity.ts';
import type { Em } from '../platform/orm.ts';
import { rowsOf } from '../platform/query.ts';
import { RuleRow } from '../rules/entity.ts';
import { ruleOfRow } from '../rules/repository.ts';
import { TroubleRow } from '../rounds/entity.ts';
import { CourseRow } from './entity.ts';

/** How late a round may be before it counts as waiting. */
const DUE = 60_000;

/** Whether the platform has been silent for longer than the course lets pass. Before the first word, since the first day. */
type Held = Pick<CourseRow, 'stoppedAt' | 'heardAt' | 'guards' | 'timeZone' | 'start'>;

export function isStale(row: Omit<Held, 'stoppedAt'>, now: Instant): boolean {
  const { staleHours } = row.guards;
  if (staleHours === null) return false;
  const firstDay = zoneOf(row.timeZone).toInstant(dayNumberOf(row.start) * DAY);
  return now - Math.max(row.heardAt ?? 0, firstDay) > staleHours * HOUR;
}

export const isHeld = (row: Held, now: Instant): boolean => row.stoppedAt != null || isStale(row, now);

/** The courses whose rounds and mail wait. */
export async function heldCourses(em: Em, now: Instant): Promise<ReadonlySet<number>> {
  const fields = ['stoppedAt', 'heardAt', 'guards', 'timeZone', 'start'] as const;
  const rows = await em.find(CourseRow, {}, { fields, disableIdentityMap: true });
  return new Set(rows.filter((row) => isHeld(row, now)).map((row) => row.id));
}

export async function standingOf(em: Em, row: CourseRow, now: Instant): Promise<StandingAnswer> {
  const rules = await em.find(RuleRow, { course: row.id }, { orderBy: { position: 'asc' } });
  const names = new Map(rules.map((r) => [r.key, ruleOfRow(r).name]));
  const count = (state: string) => em.count(MessageRow, { course: row.id, state });
  const troubles = await em.find(TroubleRow, { course: row.id }, { orderBy: { since: 'asc' } });
  return {
    sending: await sendingOf(em, row.id, now),
    stopped: row.stoppedAt == null ? null : { at: row.stoppedAt, by: row.stoppedBy ?? '' },
    queued: await count('queued'),
    overdue: rules
      .filter((r) => r.status === 'on' && r.nextRoundAt != null && r.nextRoundAt < now - DUE)
      .map((r) => ({ rule: r.key, name: names.get(r.key)!, since: r.nextRoundAt! })),
    feed: { heardAt: row.heardAt ?? null, staleHours: row.guards.staleHours, stale: isStale(row, now) },
    troubles: troubles.map((t) => ({
      rule: t.rule,
      name: names.get(t.rule) ?? t.rule,
      since: t.since,
      attempts: t.attempts,
      nextTryAt: t.nextTryAt,
      message: t.message,
    })),
    held: await count('held'),
    failed: await count('failed'),
    uncertain: await count('uncertain'),
  };
}

/** Fewer are gone before anybody reads of them. */
const MANY = 20;

/** How far the mail of the rounds that are going out is: their messages that are due, and how many of them are dealt with. */
async function sendingOf(em: Em, course: number, now: Instant): Promise<StandingAnswer['sending']> {
  const due = { course, sendAt: { $lte: now } };
  const left = await em.count(MessageRow, { ...due, state: { $in: ['queued', 'handing'] } });
  if (left === 0) return null;
  const knex = em.getKnex();
  const rounds = knex('message as m')
    .join('nudge as n', 'n.id', 'm.nudge')
    .where('m.course', course)
    .where('m.send_at', '<=', now)
    .whereIn('m.state', ['queued', 'handing'])
    .select('n.round_at');
  const [of] = await rowsOf<{ n: number }>(
    em,
    knex('message as m')
      .join('nudge as n', 'n.id', 'm.nudge')
      .where('m.course', course)
      .where('m.send_at', '<=', now)
      .whereNot('m.state', 'held')
      .whereIn('n.round_at', rounds)
      .count({ n: '*' }),
  );
  const total = Number(of!.n);
  return total < MANY ? null : { done: total - left, total };
}
