/** Which rules wait because the data they stand on is too old. */
import type { Instant } from '@zest-bell/core/time';
import type { SourceName } from '@zest-bell/core/course';
import { sourcesOf } from '@zest-bell/core/conditions';
import type { Rule } from '@zest-bell/core/rules';
import { CourseRow } from '../course/entity.ts';
import { staleSources } from '../course/waiting.ts';
import type { Em } from '../platform/database/orm.ts';
import { RuleRow } from './entity.ts';
import { readableRule } from './repository.ts';

/** Whether a rule depends on data that is older than its course allows. */
export function readsStaleSource(rule: Rule, course: CourseRow, now: Instant): boolean {
  const stale = staleSources(course, now);
  return stale.size > 0 && sourcesOf(rule.when).some((source) => stale.has(source));
}

/** By course, the rules that wait for data. One that cannot be read waits for nothing: its round says what is wrong. */
export async function rulesWaitingForData(em: Em, now: Instant): Promise<ReadonlyMap<number, ReadonlySet<string>>> {
  const waiting = new Map<number, ReadonlySet<string>>();
  const fields = ['heardAt', 'sources', 'guards', 'timeZone', 'start'] as const;
  for (const course of await em.find(CourseRow, {}, { fields, disableIdentityMap: true })) {
    const stale = staleSources(course, now);
    if (stale.size === 0) continue;
    const rows = await em.find(RuleRow, { course: course.id, archivedAt: null }, { disableIdentityMap: true });
    const keys = rows.filter((row) => {
      const rule = readableRule(row);
      return rule !== null && sourcesOf(rule.when).some((source) => stale.has(source));
    });
    if (keys.length > 0) waiting.set(course.id, new Set(keys.map((r) => r.key)));
  }
  return waiting;
}

/** How many rules that are on stand on each source. */
export async function rulesBySource(em: Em, course: number): Promise<ReadonlyMap<SourceName, number>> {
  const counts = new Map<SourceName, number>();
  for (const row of await em.find(RuleRow, { course, status: 'on' }, { disableIdentityMap: true })) {
    const rule = readableRule(row);
    for (const source of rule ? sourcesOf(rule.when) : []) counts.set(source, (counts.get(source) ?? 0) + 1);
  }
  return counts;
}
