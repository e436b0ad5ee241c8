/** Who came back after a nudge: by an act of their own, within two weeks (engine R13). */
import type { Instant } from '@zest-bell/core/time';
import { actAfter, canReturn, isReturn, type Return } from '@zest-bell/core/outcomes';
import type { LiveCourse } from '../../course/activity/live.ts';
import type { Em } from '../../platform/database/orm.ts';
import { inSlices, rowsOf } from '../../platform/database/query.ts';
import type { StoredReturn } from './entity.ts';
import { nudgesWithMessages } from './joined.ts';
import { RuleRow } from '../../rules/entity.ts';
import { earlierConditions, readableRule } from '../../rules/repository.ts';

/** A nudge that reached its student. */
export interface SentNudge {
  readonly nudge: number;
  readonly wording: string;
  /** Null for one by hand. */
  readonly rule: string | null;
  readonly step: number;
  readonly variant: number;
  readonly student: string;
  readonly sentAt: Instant;
  /** True when its text was written for it alone. */
  readonly edited: boolean;
  /** False where no act of the student could be a return. */
  readonly canReturn: boolean;
  /** The student's act that ends what the rule found, by `now`; null if absent. */
  readonly act: Return | null;
  /** The same, within two weeks. */
  readonly returned: Return | null;
  /** Whether they replied, for a nudge with replies that have been removed; null where the replies are still there. */
  readonly replied: boolean | null;
}

interface SentRow {
  readonly came: StoredReturn | string | null;
  readonly nudge: number;
  readonly wording: string;
  readonly rule: string | null;
  readonly version: number;
  readonly student: string;
  readonly variant: number | null;
  readonly step: number;
  readonly edited: string | null;
  readonly at: Instant;
}

/** Those of a course; of some of its students or of a rule, sent since an instant, or some of them. */
export async function sentNudges(
  em: Em,
  { id, course, facts }: LiveCourse,
  now: Instant,
  wanted: {
    readonly students?: readonly string[];
    readonly since?: Instant;
    readonly nudges?: readonly number[];
    readonly rule?: string;
    readonly wording?: string;
  } = {},
): Promise<SentNudge[]> {
  const rules = await em.find(RuleRow, { course: id });
  const byKey = new Map(rules.map((r) => [r.key, readableRule(r)]));
  const earlier = await earlierConditions(em, rules);
  const query = nudgesWithMessages(em)
    .select({ nudge: 'n.id', wording: 'n.wording', rule: 'n.rule', version: 'n.rule_version' })
    .select({
      came: 'n.came',
      student: 'n.student',
      variant: 'm.variant',
      at: 'm.settled_at',
      step: 'n.step',
      edited: 'n.edited',
    })
    .where({ 'n.course': id, 'm.state': 'sent', 'm.kind': 'student' })
    .orderBy('n.id');
  if (wanted.students) void query.whereIn('n.student', [...wanted.students]);
  if (wanted.since !== undefined) void query.where('m.settled_at', '>=', wanted.since);
  if (wanted.rule !== undefined) void query.where('n.rule', wanted.rule);
  if (wanted.wording !== undefined) void query.where('n.wording', wanted.wording);
  const rows: SentRow[] = [];
  if (wanted.nudges === undefined) rows.push(...(await rowsOf<SentRow>(em, query)));
  else
    for (const s of inSlices(wanted.nudges))
      rows.push(...(await rowsOf<SentRow>(em, query.clone().whereIn('n.id', s))));
  return rows.map((row) => {
    const came = typeof row.came === 'string' ? (JSON.parse(row.came) as StoredReturn | null) : row.came;
    const person = course.personIndex.get(row.student);
    const when = earlier.get(`${row.rule}@${row.version}`) ?? byKey.get(row.rule ?? '')?.when;
    const turnable = person !== undefined && when !== undefined && canReturn(when);
    const sentAt = Number(row.at);
    const found = came ? came.act : turnable ? actAfter(facts, person, when, sentAt) : null;
    const act = found && found.at <= now ? found : null;
    return {
      nudge: row.nudge,
      wording: row.wording,
      rule: row.rule,
      step: row.step,
      variant: row.variant ?? 0,
      student: row.student,
      sentAt,
      edited: row.edited !== null && row.edited !== 'null',
      canReturn: came?.canReturn ?? turnable,
      act,
      returned: act && isReturn(act, sentAt, course.calendar) ? act : null,
      replied: came?.replied ?? null,
    };
  });
}
