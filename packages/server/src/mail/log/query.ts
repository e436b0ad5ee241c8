/** The lines of the send log: filtered, searched, counted and paged by the database. */
import type { Knex } from '@mikro-orm/knex';
import { DAY, dayNumberOf } from '@zest-bell/core/time';
import { fullName, type Course, nameIn } from '@zest-bell/core/course';
import { MESSAGE_STATES, type MessageState, type ReplyKind } from '@zest-bell/core/nudges';
import type { LogAnswer, LogLine, LogState, WithheldLine } from '@zest-bell/core/exchange';
import type { LogQuery } from '@zest-bell/core/contract';
import { RefusalRow } from '../nudges/entity.ts';
import type { Em } from '../../platform/database/orm.ts';
import { rowsOf } from '../../platform/database/query.ts';

/** What the lines of a course are read with. */
export interface LogOf {
  readonly course: Course;
  /** The course's id. */
  readonly id: number;
  /** Names of its rules by key. */
  readonly rules: ReadonlyMap<string, string>;
}

/** States as the filters of the log group them. */
const groupOfState = (state: MessageState): LogState =>
  state === 'handing' ? 'queued' : state === 'dismissed' ? 'withdrawn' : state;

const statesOf = (group: LogState): MessageState[] => MESSAGE_STATES.filter((s) => groupOfState(s) === group);

export const BY_HAND = 'Written by hand';
export const ruleNameIn = (rules: LogOf['rules'], rule: string | null): string =>
  rule === null ? BY_HAND : (rules.get(rule) ?? rule);

export const studentName = (course: Course, student: string): string => {
  return nameIn(course, student);
};

/** The people and rules whose names have the words in them. */
function namesWith(words: string, { course, rules }: LogOf): { students: string[]; rules: string[] } {
  const wanted = words.toLowerCase();
  return {
    students: course.people.filter((p) => fullName(p).toLowerCase().includes(wanted)).map((p) => p.id),
    rules: [...rules].filter(([, name]) => name.toLowerCase().includes(wanted)).map(([key]) => key),
  };
}

const containing = (words: string): string => `%${words.replace(/[\\%_]/g, '\\$&')}%`;

export async function logAnswer(em: Em, course: LogOf, query: LogQuery): Promise<LogAnswer> {
  const knex = em.getKnex();
  const { calendar } = course.course;
  const filtered = (): Knex.QueryBuilder => {
    const nudges = knex('nudge as n').where('n.course', course.id);
    if (query.rule !== undefined) void nudges.where('n.rule', query.rule);
    if (query.date !== undefined) {
      const day = dayNumberOf(query.date);
      const [from, to] = [day, day + 1].map((d) => calendar.zone.toInstant(d * DAY));
      void nudges.whereRaw('coalesce(n.last_at, n.round_at) >= ? and coalesce(n.last_at, n.round_at) < ?', [
        from!,
        to!,
      ]);
    }
    if (query.search !== '') {
      const named = namesWith(query.search, course);
      void nudges.where((any) => {
        void any
          .whereIn('n.student', named.students)
          .orWhereIn('n.rule', named.rules)
          .orWhereRaw("lower(n.subject) like ? escape '\\'", [containing(query.search.toLowerCase())]);
      });
    }
    return nudges;
  };
  const byState = await rowsOf<{ state: MessageState; n: number }>(
    em,
    filtered().groupBy('n.state').select('n.state').count({ n: '*' }),
  );
  const counts = { all: 0, sent: 0, queued: 0, held: 0, uncertain: 0, failed: 0, withdrawn: 0 };
  for (const { state, n } of byState) {
    counts.all += Number(n);
    counts[groupOfState(state)] += Number(n);
  }
  const shown = filtered();
  if (query.state) void shown.whereIn('n.state', statesOf(query.state));
  const rows = await rowsOf<LineRow>(
    em,
    shown
      .select('n.id', 'n.rule', 'n.student', 'n.step', 'n.state', 'n.reason', 'n.subject')
      .select({ roundAt: 'n.round_at', lastAt: 'n.last_at' })
      .select({ messages: knex('message as m').whereRaw('m.nudge = n.id').count('*') })
      // As they left: what waited in the Tray stands where it was sent.
      .orderByRaw('coalesce(n.last_at, n.round_at) desc, n.id desc')
      .offset(query.skip)
      .limit(query.take),
  );
  const answers = await answersOf(
    em,
    rows.map((r) => r.id),
  );
  return {
    lines: rows.map(({ id, lastAt, ...r }): LogLine => ({
      ...r,
      nudge: id,
      ruleName: ruleNameIn(course.rules, r.rule),
      studentName: studentName(course.course, r.student),
      messages: Number(r.messages),
      at: lastAt ?? r.roundAt,
      answered: answers.get(id) ?? null,
    })),
    total: query.state ? counts[query.state] : counts.all,
    counts,
  };
}

type LineRow = Omit<LogLine, 'nudge' | 'at' | 'answered' | 'ruleName' | 'studentName'> & {
  readonly id: number;
  readonly lastAt: number | null;
};

const TELLS_MOST: readonly ReplyKind[] = ['autoReply', 'bounce', 'reply'];

/** By nudge: what came back that says most. */
async function answersOf(em: Em, nudges: readonly number[]): Promise<ReadonlyMap<number, ReplyKind>> {
  const query = em.getKnex()('reply').whereIn('nudge', nudges).select('nudge', 'kind');
  const found = new Map<number, ReplyKind>();
  for (const { nudge, kind } of await rowsOf<{ nudge: number; kind: ReplyKind }>(em, query)) {
    const known = found.get(nudge);
    if (known === undefined || TELLS_MOST.indexOf(kind) > TELLS_MOST.indexOf(known)) found.set(nudge, kind);
  }
  return found;
}

/** What the limits held back, the latest first. */
export async function withheldLines(em: Em, course: LogOf, query: LogQuery): Promise<WithheldLine[]> {
  const named = query.search === '' ? null : namesWith(query.search, course);
  const rows = await em.find(
    RefusalRow,
    {
      course: course.id,
      ...(query.rule === undefined ? {} : { rule: query.rule }),
      ...(named === null ? {} : { $or: [{ student: { $in: named.students } }, { rule: { $in: named.rules } }] }),
    },
    { orderBy: { lastRound: 'desc', id: 'desc' }, limit: query.take, offset: query.skip, disableIdentityMap: true },
  );
  return rows.map(({ rule, student, reason, firstRound, lastRound, rounds, evidence }) => ({
    rule,
    ruleName: ruleNameIn(course.rules, rule),
    student,
    studentName: studentName(course.course, student),
    reason,
    firstRound,
    lastRound,
    rounds,
    evidence,
  }));
}
