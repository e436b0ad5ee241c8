/** What the log knows of every student as of an instant, for the columns of Lookout: counted by the database. */
import type { Knex } from '@mikro-orm/knex';
import type { Instant } from '@zest-bell/core/time';
import { isAlert } from '@zest-bell/core/rules';
import type { MessageState } from '@zest-bell/core/nudges';
import type { StudentLog } from '@zest-bell/core/lookout';
import type { LookoutLogAnswer } from '@zest-bell/core/exchange';
import type { LiveCourse } from '../../course/activity/live.ts';
import { replyHolds } from '../../mail/replies/entity.ts';
import { nudgesWithMessages } from '../../mail/nudges/joined.ts';
import { sentNudges } from '../../mail/nudges/returns.ts';
import type { Em } from '../../platform/database/orm.ts';
import { inSlices, rowsOf, select } from '../../platform/database/query.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRule, ruleNames } from '../../rules/repository.ts';
import { ruleNameIn } from '../../mail/log/query.ts';

/** How much was sent to a student, and the nudge of the newest. */
interface SentCount {
  readonly student: string;
  readonly n: number;
  readonly id: number;
}

interface LastRow {
  readonly id: number;
  readonly student: string;
  readonly rule: string | null;
  readonly state: MessageState;
  readonly at: number;
}

/** `at` may lie in the past: a page asks as of its own moment, and somebody may look at an earlier day. */
export async function lookoutLog(em: Em, live: LiveCourse, at: Instant): Promise<LookoutLogAnswer> {
  const { id } = live;
  const knex = em.getKnex();
  const settledSince = knex('message as m')
    .join('nudge as n', 'n.id', 'm.nudge')
    .where({ 'm.course': id, 'm.kind': 'student' })
    .where('m.settled_at', '>', at);
  const changed = new Set(
    (await rowsOf<{ student: string }>(em, settledSince.distinct('n.student'))).map((row) => row.student),
  );
  // Where nothing has been settled since, a nudge is now what it was then, which is what its lead message is (engine R11).
  const reached = knex('nudge as n')
    .where({ 'n.course': id, 'n.to_student': true })
    .whereIn('n.state', ['sent', 'uncertain']);
  const counts = (await countedByStudent(em, reached)).filter((row) => !changed.has(row.student));
  for (const students of inSlices([...changed])) {
    const sent = nudgesWithMessages(em)
      .where({ 'n.course': id, 'm.kind': 'student' })
      .whereIn('n.student', students)
      .whereIn('m.state', ['sent', 'uncertain'])
      .where('m.settled_at', '<=', at);
    counts.push(...(await countedByStudent(em, sent)));
  }
  const newest = new Map(counts.map((row) => [row.student, row.id]));
  const waiting = await rowsOf<{ student: string; id: number }>(
    em,
    knex('nudge')
      .where({ course: id, state: 'held', to_student: true })
      .where('round_at', '<=', at)
      .groupBy('student')
      .select('student')
      .max({ id: 'id' }),
  );
  // What waited then and was decided since is not known any more.
  for (const { student, id: nudge } of waiting)
    if (!changed.has(student)) newest.set(student, Math.max(nudge, newest.get(student) ?? 0));
  const last = new Map<string, LastRow>();
  const ids = [...newest.values()];
  for (const slice of inSlices(ids)) {
    const rows = knex('nudge').whereIn('id', slice).select('id', 'student', 'rule', 'state');
    for (const row of await rowsOf<LastRow>(em, rows.select({ at: knex.raw('coalesce(last_at, round_at)') }))) {
      last.set(row.student, row);
    }
  }
  const returned = new Map(
    (await sentNudges(em, live, at, { nudges: ids })).map((n) => [
      n.nudge,
      { canReturn: n.canReturn, at: n.returned?.at },
    ]),
  );
  const replies = await rowsOf<{ student: string; n: number }>(
    em,
    knex('reply')
      .where({ course: id, kind: 'reply' })
      .whereNotNull('student')
      .where('at', '<=', at)
      .groupBy('student')
      .select('student')
      .count({ n: '*' }),
  );
  const replied = new Set<number>();
  for (const slice of inSlices(ids)) {
    const answers = await select(em, replyHolds, ['nudge'], (query) =>
      query.whereIn('nudge', slice).where('kind', 'reply').where('at', '<=', at),
    );
    for (const { nudge } of answers) replied.add(nudge);
  }
  const alerts = await alertSteps(em, id);
  const refused = knex('refusal').where('course', id).where('first_round', '<=', at);
  const held = await rowsOf<{ student: string; rule: string; step: number; n: number }>(
    em,
    refused.groupBy('student', 'rule', 'step').select('student', 'rule', 'step').sum({ n: 'rounds' }),
  );
  const names = await ruleNames(em, id);
  const sentOf = new Map(counts.map((r) => [r.student, Number(r.n)]));
  const repliesOf = new Map(replies.map((r) => [r.student, Number(r.n)]));
  const heldOf = new Map<string, number>();
  for (const r of held) if (!alerts(r.rule, r.step)) heldOf.set(r.student, (heldOf.get(r.student) ?? 0) + Number(r.n));
  const students: Record<string, StudentLog> = {};
  for (const student of new Set([...last.keys(), ...repliesOf.keys(), ...heldOf.keys()])) {
    const row = last.get(student);
    const back = row && returned.get(row.id);
    students[student] = {
      last: row
        ? {
            nudge: row.id,
            at: Number(row.at),
            ruleName: ruleNameIn(names, row.rule),
            state: row.state,
            replied: replied.has(row.id),
            returnedAt: back?.at ?? null,
            canReturn: back?.canReturn ?? false,
          }
        : null,
      sent: sentOf.get(student) ?? 0,
      replies: repliesOf.get(student) ?? 0,
      heldBack: heldOf.get(student) ?? 0,
    };
  }
  return { at, students };
}

const countedByStudent = (em: Em, nudges: Knex.QueryBuilder): Promise<SentCount[]> =>
  rowsOf(em, nudges.groupBy('n.student').select('n.student').count({ n: '*' }).max({ id: 'n.id' }));

/** Whether a step of a rule goes to others alone: what is held back of it is no message to the student (engine R11b). */
async function alertSteps(em: Em, course: number): Promise<(rule: string, step: number) => boolean> {
  const rows = await em.find(RuleRow, { course }, { disableIdentityMap: true });
  const rules = new Map(rows.map((row) => [row.key, readableRule(row)]));
  return (key, step) => {
    const found = rules.get(key)?.steps[step];
    return found !== undefined && isAlert(found);
  };
}
