/** What limits are counted from, read for the students that a round is about; replies are read by whoever knows them. */
import type { Instant, LoggedNudge } from '@zest-bell/core';
import type { Knex } from '@mikro-orm/knex';
import type { Em } from '../platform/orm.ts';
import { inSlices, rowsOf } from '../platform/query.ts';
import type { RuleRow } from '../rules/entity.ts';
import { earlierConditions, ruleWeights } from '../rules/repository.ts';
import type { NudgeRow } from './entity.ts';

const FIELDS = {
  rule: 'rule',
  ruleVersion: 'rule_version',
  student: 'student',
  round: 'round_at',
  step: 'step',
  state: 'state',
  toStudent: 'to_student',
};
/** A nudge as it is stored. */
interface Stored extends Pick<NudgeRow, 'ruleVersion' | 'student' | 'step' | 'state'> {
  readonly rule: string | null;
  readonly round: Instant;
  /** 1 for yes where the database has no truths. */
  readonly toStudent: boolean | number;
}

/** Which nudges: those about some students, those of a rule and whatever was decided since an instant, or all. */
export type Wanted =
  { readonly students: readonly string[] } | { readonly rule: string | null; readonly since: Instant | null } | 'all';

/** Nudges of a course, oldest first. */
export async function loggedNudges(
  em: Em,
  course: number,
  rules: readonly RuleRow[],
  wanted: Wanted,
): Promise<LoggedNudge[]> {
  const earlier = await earlierConditions(em, rules);
  const weights = await ruleWeights(em, course);
  const out: LoggedNudge[] = [];
  for (const where of wheresOf(wanted)) {
    // Entities would take ten times as long, and a term has many nudges.
    const query = where(em.getKnex()('nudge').select(FIELDS).where({ course })).orderBy('id');
    for (const { ruleVersion, toStudent, ...n } of await rowsOf<Stored>(em, query)) {
      const when = earlier.get(`${n.rule}@${ruleVersion}`);
      out.push({ ...n, toStudent: Boolean(toStudent), when, weight: weights.get(n.rule ?? '') });
    }
  }
  return out;
}

type Narrowed = (query: Knex.QueryBuilder) => Knex.QueryBuilder;

function wheresOf(wanted: Wanted): Narrowed[] {
  if (wanted === 'all') return [(query) => query];
  if ('students' in wanted) return inSlices(wanted.students).map((slice) => (query) => query.whereIn('student', slice));
  const { rule, since } = wanted;
  const wheres: Narrowed[] = [];
  if (rule !== null) wheres.push((query) => query.where({ rule }));
  if (since !== null) {
    wheres.push((query) => {
      const recent = query.where('round_at', '>=', since);
      // Those of the rule itself were read already.
      return rule === null ? recent : recent.where((other) => void other.whereNull('rule').orWhereNot({ rule }));
    });
  }
  return wheres;
}
