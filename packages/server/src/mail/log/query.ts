/** The lines of the send log: filtered, searched, counted and paged by the database. */
import { setImmediate as nextTurn } from 'node:timers/promises';
import type { Knex } from '@mikro-orm/knex';
import { DAY, dayNumberOf } from '@zest-bell/core/time';
import { fullName, type Course, nameIn } from '@zest-bell/core/course';
import { MESSAGE_STATES, type MessageState, type ReplyKind } from '@zest-bell/core/nudges';
import type { LogAnswer, LogLine, LogState, WithheldLine } from '@zest-bell/core/exchange';
import type { LogQuery } from '@zest-bell/core/contract';
import { RefusalRow } from '../nudges/entity.ts';
import type { Em } from '../../platform/database/orm.ts';
import { countOf, rowsOf } from '../../platform/database/query.ts';

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

const BY_HAND = 'Written by hand';
export const ruleNameIn = (rules: LogOf['rules'], rule: string | null): string =>
  rule === null ? BY_HAND : (rules.get(rule) ?? rule);

export const studentName = (course: Course, student: string): string => {
  return nameIn(course, student);
};

/** The people and rules with the words in their names. */
function namesWith(words: string, { course, rules }: LogOf): { students: string[]; rules: string[] } {
  const wanted = words.toLowerCase();
  return {
    students: course.people.filter((p) => fullName(p).toLowerCase().includes(wanted)).map((p) => p.id),
    rules: [...rules].filter(([, name]) => name.toLowerCase().includes(wanted)).map(([key]) => key),
  };
}

const containing = (words: string): string => `%${words.replace(/[\\%_]/g, '\\$&')}%`;

/** What of the log is wanted, but for its page and the state that it is counted by. */
export type LogFilter = Pick<LogQuery, 'search' | 'rule' | 'date'>;

/** The nudges that a filter leaves. */
function filteredNudges(em: Em, course: LogOf, query: LogFilter): Knex.QueryBuilder {
  const { calendar } = course.course;
  const nudges = em.getKnex()('nudge as n').where('n.course', course.id);
  if (query.rule !== undefined) void nudges.where('n.rule', query.rule);
  if (query.date !== undefined) {
    const day = dayNumberOf(query.date);
    const [from, to] = [day, day + 1].map((d) => calendar.zone.toInstant(d * DAY));
    void nudges.whereRaw('coalesce(n.last_at, n.round_at) >= ? and coalesce(n.last_at, n.round_at) < ?', [from!, to!]);
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
}

/** Lines of the log, the latest first, with what came back. */
async function linesOf(em: Em, course: LogOf, page: Knex.QueryBuilder): Promise<LogLine[]> {
  const knex = em.getKnex();
  const rows = await rowsOf<LineRow>(
    em,
    page
      .select('n.id', 'n.rule', 'n.student', 'n.step', 'n.state', 'n.reason', 'n.subject')
      .select({ roundAt: 'n.round_at', lastAt: 'n.last_at' })
      .select({ messages: knex('message as m').whereRaw('m.nudge = n.id').count('*') })
      // As they left: what waited in the Tray stands where it was sent.
      .orderByRaw('coalesce(n.last_at, n.round_at) desc, n.id desc'),
  );
  const answers = await answersOf(
    em,
    rows.map((r) => r.id),
  );
  return rows.map(({ id, lastAt, ...r }): LogLine => ({
    ...r,
    nudge: id,
    ruleName: ruleNameIn(course.rules, r.rule),
    studentName: studentName(course.course, r.student),
    messages: Number(r.messages),
    at: lastAt ?? r.roundAt,
    answered: answers.get(id) ?? null,
  }));
}

/** The lines behind one, the latest first: found by index and not by count. */
export async function linesBehind(
  em: Em,
  course: LogOf,
  wanted: LogFilter & Pick<LogQuery, 'state'>,
  last: { readonly at: number; readonly nudge: number } | undefined,
  take: number,
): Promise<LogLine[]> {
  const page = filteredNudges(em, course, wanted);
  if (wanted.state) void page.whereIn('n.state', statesOf(wanted.state));
  // The first bound is what the index seeks; the second parts lines of one instant.
  if (last)
    void page
      .whereRaw('coalesce(n.last_at, n.round_at) <= ?', [last.at])
      .whereRaw('(coalesce(n.last_at, n.round_at) < ? or n.id < ?)', [last.at, last.nudge]);
  return linesOf(em, course, page.limit(take));
}

/** All lines that are wanted, some hundreds at a time. */
export async function* allLines(
  em: Em,
  course: LogOf,
  wanted: LogFilter & Pick<LogQuery, 'state'>,
): AsyncGenerator<readonly LogLine[]> {
  let last: LogLine | undefined;
  for (;;) {
    const lines = await linesBehind(em, course, wanted, last, ALL_PAGE);
    if (lines.length > 0) yield lines;
    if (lines.length < ALL_PAGE) return;
    last = lines.at(-1);
    // Pages come without a pause: others get their turn.
    await nextTurn();
  }
}

/** Lines that are read at once for a file. */
const ALL_PAGE = 200;

export async function countLines(em: Em, course: LogOf, wanted: LogFilter & Pick<LogQuery, 'state'>): Promise<number> {
  const nudges = filteredNudges(em, course, wanted);
  if (wanted.state) void nudges.whereIn('n.state', statesOf(wanted.state));
  return countOf(em, nudges);
}

/** How many of each state a filter leaves. */
export async function logCounts(em: Em, course: LogOf, query: LogFilter): Promise<LogAnswer['counts']> {
  const byState = await rowsOf<{ state: MessageState; n: number }>(
    em,
    filteredNudges(em, course, query).groupBy('n.state').select('n.state').count({ n: '*' }),
  );
  const counts = { all: 0, sent: 0, queued: 0, held: 0, uncertain: 0, failed: 0, withdrawn: 0 };
  for (const { state, n } of byState) {
    counts.all += Number(n);
    counts[groupOfState(state)] += Number(n);
  }
  return counts;
}

export async function logAnswer(em: Em, course: LogOf, query: LogQuery): Promise<LogAnswer> {
  const counts = await logCounts(em, course, query);
  const shown = filteredNudges(em, course, query);
  if (query.state) void shown.whereIn('n.state', statesOf(query.state));
  return {
    lines: await linesOf(em, course, shown.offset(query.skip).limit(query.take)),
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

const withheldBy = (course: LogOf, { rule, search }: Pick<LogQuery, 'rule' | 'search'>) => {
  const named = search === '' ? null : namesWith(search, course);
  return {
    course: course.id,
    ...(rule === undefined ? {} : { rule }),
    ...(named === null ? {} : { $or: [{ student: { $in: named.students } }, { rule: { $in: named.rules } }] }),
  };
};

/** How many lines of what was held back a filter leaves. */
export const countWithheld = (em: Em, course: LogOf, wanted: Pick<LogQuery, 'rule' | 'search'>): Promise<number> =>
  em.count(RefusalRow, withheldBy(course, wanted));

/** What the limits held back, the latest first. */
export async function withheldLines(em: Em, course: LogOf, query: LogQuery): Promise<WithheldLine[]> {
  const rows = await em.find(RefusalRow, withheldBy(course, query), {
    orderBy: { lastRound: 'desc', id: 'desc' },
    limit: query.take,
    offset: query.skip,
    disableIdentityMap: true,
  });
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
