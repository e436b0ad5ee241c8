/** The term strip's data: what was sent each day, what waits for the instructor, and the rounds to come. */
import { dateOf, DAY, dayNumberOf, MINUTE, roundInstants, type Instant } from '@zest-bell/core/time';
import type { TermAnswer, TermDay } from '@zest-bell/core/exchange';
import type { MessageState } from '@zest-bell/core/nudges';
import { cannotRunWords } from '@zest-bell/core/rules';
import type { LiveCourse } from '../../course/activity/live.ts';
import type { Em } from '../../platform/database/orm.ts';
import { rowsOf } from '../../platform/database/query.ts';
import { ruleOfRow, rowsOn } from '../../rules/repository.ts';

const ATTENTION = ['held', 'failed', 'uncertain'];
/** In ms. */
const QUARTER = 15 * MINUTE;

export async function termOf(em: Em, { id, course }: LiveCourse, now: Instant): Promise<TermAnswer> {
  const knex = em.getKnex();
  // Counted by quarters of an hour, of which no zone puts one on two days.
  const quarter = knex.raw(`coalesce(settled_at, send_at) / ${QUARTER}`);
  const rows = await rowsOf<{ state: MessageState; quarter: number; n: number | string }>(
    em,
    knex('message')
      .where('course', id)
      .whereNotNull('nudge')
      .whereIn('state', ['sent', ...ATTENTION])
      .select('state', { quarter })
      .count({ n: '*' })
      .groupBy('state', 'quarter'),
  );
  const first = dayNumberOf(course.start);
  const last = dayNumberOf(course.end);
  const sent = new Map<number, number>();
  const attention = new Map<number, number>();
  for (const row of rows) {
    const counts = row.state === 'sent' ? sent : attention;
    const day = course.calendar.dayNumber(row.quarter * QUARTER);
    counts.set(day, (counts.get(day) ?? 0) + Number(row.n));
  }
  const days: TermDay[] = [];
  for (let d = first; d <= last; d++) {
    days.push({ date: dateOf(d), sent: sent.get(d) ?? 0, attention: attention.get(d) ?? 0 });
  }
  const coming = new Map<Instant, string[]>();
  for (const row of await rowsOn(em, id)) {
    const rule = ruleOfRow(row);
    // One that cannot run has no round to come.
    if (cannotRunWords(rule, course) !== null) continue;
    for (const at of roundInstants(rule.rhythm, course.calendar, now + 1, course.calendar.end + DAY)) {
      const names = coming.get(at);
      if (names) names.push(rule.name);
      else coming.set(at, [rule.name]);
    }
  }
  return {
    days,
    coming: [...coming].sort((a, b) => a[0] - b[0]).map(([at, rules]) => ({ at, rules })),
    attention: rows.reduce((sum, r) => sum + (r.state === 'sent' ? 0 : Number(r.n)), 0),
  };
}
