/** Every nudge that reached its student, with what came of it: who came back, who replied. */
import type { Instant, SentText } from '@zest-bell/core';
import type { LiveCourse } from '../activity/live.ts';
import { sentNudges } from '../nudges/returns.ts';
import type { Em } from '../platform/orm.ts';
import { ReplyRow } from './entity.ts';

export interface SentTextOf extends SentText {
  readonly wording: string;
  /** Null for a nudge by hand. */
  readonly rule: string | null;
  readonly student: string;
}

/** Those of a course, or of some of its students. */
export async function sentTexts(
  em: Em,
  course: LiveCourse,
  now: Instant,
  wanted: { readonly students?: readonly string[] } = {},
): Promise<SentTextOf[]> {
  const of = wanted.students ? { student: { $in: [...wanted.students] } } : { student: { $ne: null } };
  const replies = await em.find(
    ReplyRow,
    { course: course.id, kind: 'reply', ...of },
    { fields: ['nudge'], disableIdentityMap: true },
  );
  const answered = new Set(replies.map((r) => r.nudge));
  return (await sentNudges(em, course, now, wanted)).map((n) => ({
    ...{ wording: n.wording, rule: n.rule, student: n.student, variant: n.variant, sentAt: n.sentAt },
    ...{ canReturn: n.canReturn, returned: n.returned !== null, replied: answered.has(n.nudge) },
  }));
}

/** Those that share a key, by it. */
export function grouped<T>(all: readonly T[], keyOf: (one: T) => string | null): ReadonlyMap<string, readonly T[]> {
  const groups = new Map<string, T[]>();
  for (const one of all) {
    const key = keyOf(one);
    if (key === null) continue;
    const group = groups.get(key);
    if (group) group.push(one);
    else groups.set(key, [one]);
  }
  return groups;
}
