/**
 * Acting on people, on a class of 2,000 with three million events: the table of students from the server’s columns to a step of
 * a brush in the browser’s worker, a student’s page, the gradebook. Each is given as a share of the time that it may take.
 */
import { isActiveStudent } from '@zest-bell/core/course';
import { dailyActivity, packDaily } from '@zest-bell/core/activity';
import {
  amongClass,
  HistoryFacts,
  momentColumn,
  packColumn,
  unpackColumn,
  valueAt,
  type MeasureCall,
} from '@zest-bell/core/measures';
import type { Condition } from '@zest-bell/core/conditions';
import { NudgeLog, SentFacts, spellsUpTo, standingOf } from '@zest-bell/core/rounds';
import {
  Gradebook,
  ASK_NOTHING,
  LookoutTable,
  measureColumnOf,
  storyOf,
  withBrush,
  type LookoutQuery,
} from '@zest-bell/core/lookout';
import { benchCourse, benchHistory, benchRules, LARGE } from './data.ts';
import { besideGoal, median } from './goals.ts';

/** What each may take, in ms. */
const MAY_TAKE = { brush: 8, table: 300, student: 50, gradebook: 300 };
const CALLS: readonly MeasureCall[] = [
  { measure: 'daysSinceVisit' },
  { measure: 'daysSinceParticipation' },
  { measure: 'visits', window: { last: { days: 7 } } },
  { measure: 'visits' },
  { measure: 'longestGap' },
  { measure: 'missing' },
  { measure: 'late' },
  { measure: 'onTimeShare' },
  { measure: 'courseGrade' },
  { measure: 'latestScore' },
  { measure: 'lowScores', than: 60 },
  { measure: 'posts' },
];

const timed = <T>(work: () => T): [number, T] => {
  const from = performance.now();
  const result = work();
  return [performance.now() - from, result];
};
const said = (what: string, taken: readonly number[], atMost: number) => {
  besideGoal(what, median(taken), { unit: 'ms', atMost });
  besideGoal(`${what}, at worst`, Math.max(...taken), { unit: 'ms', atMost });
};

export function benchPeople(): void {
  const course = benchCourse(LARGE);
  const history = benchHistory(course, LARGE);
  const facts = new HistoryFacts(course, history);
  const at = course.calendar.start + 60 * 86_400_000;
  const columnsOf = () => CALLS.map((call) => packColumn(momentColumn(call, facts, at)));
  const [cold] = timed(columnsOf);
  console.log(`Acting on ${LARGE.name}:`);
  const tables = Array.from({ length: 5 }, () => timed(() => [columnsOf(), packDaily(dailyActivity(course, history))]));
  said(
    'the server’s work for a table of twelve columns, warm',
    tables.map(([ms]) => ms),
    MAY_TAKE.table,
  );
  console.log(`  and laid out for the first time ${(cold / median(tables.map(([ms]) => ms))).toFixed(0)}× that`);

  const sent = new SentFacts(
    course,
    columnsOf().map((bytes) => unpackColumn(bytes)!),
  );
  const table = new LookoutTable(sent, at);
  const columns = CALLS.map(measureColumnOf);
  let when: Condition | null = null;
  const show = (part: Partial<LookoutQuery> = {}) =>
    table.show({ ...ASK_NOTHING, columns, when, sort: [{ by: 'name', down: false }], ...part });
  show();
  const brushes = Array.from({ length: 60 }, (_, i) => {
    const [column, other] = [CALLS[i % CALLS.length]!, CALLS[(i + 5) % CALLS.length]!];
    when = withBrush(null, column, { kind: 'range', low: i % 9, high: 20 + i });
    when = withBrush(when, other, { kind: 'range', low: null, high: 40 + i });
    return timed(() => structuredClone(show()))[0];
  });
  said('a step of a brush on 2,000 × 12, in the worker', brushes.slice(2), MAY_TAKE.brush);

  const rules = benchRules();
  const log = new NudgeLog([], []);
  const pageOf = (person: number) => {
    const story = storyOf(facts, person, at);
    const standing = rules.map((rule) => [
      standingOf(rule, person, facts, log, at),
      spellsUpTo(rule, person, facts, at),
    ]);
    const beside = CALLS.slice(0, 6).map((call) => {
      const values = course.people.flatMap((p, i) => {
        const value = isActiveStudent(p) ? valueAt(facts.timeline(i, call), at) : null;
        return typeof value === 'number' ? [value] : [];
      });
      return amongClass(values[0] ?? 0, values);
    });
    return JSON.stringify([story, standing, beside]);
  };
  const students = course.people.flatMap((p, i) => (isActiveStudent(p) ? [i] : []));
  pageOf(students[0]!);
  const pages = students.slice(1, 40).map((person) => timed(() => pageOf(person))[0]);
  said('a student’s page', pages, MAY_TAKE.student);

  const books = Array.from({ length: 5 }, () => timed(() => Gradebook.of(course, facts.students(), at).packed()));
  said(
    'the gradebook of 2,000 × 60, on the server',
    books.map(([ms]) => ms),
    MAY_TAKE.gradebook,
  );
}
