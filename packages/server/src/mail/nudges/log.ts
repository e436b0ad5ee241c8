/** What limits are counted from, read for the students that a round is about; replies are read by the module that has them. */
import type { Instant } from '@zest-bell/core/time';
import type { Condition } from '@zest-bell/core/conditions';
import type { CountedNudges, LoggedNudge } from '@zest-bell/core/rounds';
import type { Knex } from '@mikro-orm/knex';
import type { Em } from '../../platform/database/orm.ts';
import { countOf, inSlices, rowsOf } from '../../platform/database/query.ts';
import type { RuleRow } from '../../rules/entity.ts';
import { earlierConditions, ruleWeights } from '../../rules/repository.ts';
import type { NudgeRow } from './entity.ts';

const FIELDS = {
  id: 'id',
  rule: 'rule',
  ruleVersion: 'rule_version',
  student: 'student',
  round: 'round_at',
  step: 'step',
  state: 'state',
  toStudent: 'to_student',
};
/** A nudge as it is stored. */
interface StoredNudge extends Pick<NudgeRow, 'id' | 'ruleVersion' | 'student' | 'step' | 'state'> {
  readonly rule: string | null;
  readonly round: Instant;
  /** 1 for yes where the database has no truths. */
  readonly toStudent: boolean | number;
}

/** Which nudges: those about some students, those of a rule and whatever was decided since an instant, or what may count. */
export type NudgeSelection =
  | { readonly students: readonly string[] }
  | { readonly rule: string | null; readonly since: Instant | null }
  | { readonly counted: CountedNudges };

/** Nudges of a course, oldest first. `known`: the earlier conditions of these rules, for anyone who has read them. */
export async function loggedNudges(
  em: Em,
  course: number,
  rules: readonly RuleRow[],
  wanted: NudgeSelection,
  known?: ReadonlyMap<string, Condition>,
): Promise<LoggedNudge[]> {
  const earlier = known ?? (await earlierConditions(em, rules));
  const weights = await ruleWeights(em, course);
  const out = new Map<number, LoggedNudge>();
  for (const where of wheresOf(wanted)) {
    // Entities would take several times as long, and a term has many nudges.
    const query = where(em.getKnex()('nudge').select(FIELDS).where({ course })).orderBy('id');
    for (const { id, ruleVersion, toStudent, ...n } of await rowsOf<StoredNudge>(em, query)) {
      const when = earlier.get(`${n.rule}@${ruleVersion}`);
      out.set(id, { ...n, toStudent: Boolean(toStudent), when, weight: weights.get(n.rule ?? '') });
    }
  }
  return [...out].sort(([a], [b]) => a - b).map(([, nudge]) => nudge);
}

/** The rules of which some nudges were sent under another condition, by their earlier conditions. */
export const changedRules = (earlier: ReadonlyMap<string, Condition>): Set<string> =>
  new Set([...earlier.keys()].map((key) => key.slice(0, key.lastIndexOf('@'))));

/** How many nudges of rounds in `(from, to]` write to their student and were not withdrawn. */
export function nudgesIn(em: Em, course: number, from: Instant, to: Instant): Promise<number> {
  const query = em.getKnex()('nudge').where({ course }).where('round_at', '>', from).where('round_at', '<=', to);
  return countOf(em, query.where({ to_student: true }).whereNot({ state: 'withdrawn' }));
}

type QueryFilter = (query: Knex.QueryBuilder) => Knex.QueryBuilder;

function wheresOf(wanted: NudgeSelection): QueryFilter[] {
  const of = (students: readonly string[]): QueryFilter[] =>
    inSlices(students).map((slice) => (query) => query.whereIn('student', slice));
  if ('students' in wanted) return of(wanted.students);
  if ('counted' in wanted) return countedWheres(wanted.counted, of);
  const { rule, since } = wanted;
  const wheres: QueryFilter[] = [];
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

function countedWheres(
  { since, older }: CountedNudges,
  of: (students: readonly string[]) => QueryFilter[],
): QueryFilter[] {
  const recent: QueryFilter[] = Number.isFinite(since) ? [(query) => query.where('round_at', '>=', since)] : [];
  const before = older.flatMap(({ rule, from, students }) => {
    const ofRule: QueryFilter = (query) => {
      const own = query.where({ rule });
      if (Number.isFinite(from)) void own.where('round_at', '>=', from);
      if (Number.isFinite(since)) void own.where('round_at', '<', since);
      return own;
    };
    return students === null
      ? [ofRule]
      : of(students).map(
          (some): QueryFilter =>
            (query) =>
              some(ofRule(query)),
        );
  });
  return [...recent, ...before];
}
