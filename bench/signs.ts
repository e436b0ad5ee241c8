/** Signs of a course beside the replay of one rule, both over timelines that are kept: what reading all of them at one week takes. */
import { DAY, runWhole } from '@zest-bell/core/time';
import type { Condition } from '@zest-bell/core/conditions';
import { HistoryFacts, valueAt } from '@zest-bell/core/measures';
import { replayedInParts, signsInParts, weekOf } from '@zest-bell/core/outcomes';
import { benchCourse, benchHistory, benchRules, type BenchSize } from './data.ts';
import { besideGoal } from './goals.ts';

const RUNS = 7;

export function benchSigns(size: BenchSize): void {
  const course = benchCourse(size);
  const facts = new HistoryFacts(course, benchHistory(course, size));
  const [rule] = benchRules();
  // One in four is worried about at the end.
  const { end } = course.calendar;
  const grades = course.people.flatMap((_, i) => {
    const grade = valueAt(facts.timeline(i, { measure: 'courseGrade' }), end);
    return typeof grade === 'number' ? [grade] : [];
  });
  const value = grades.toSorted((a, b) => a - b)[grades.length >> 2]!;
  const outcome: Condition = { measure: 'courseGrade', is: '<', value };
  const until = course.calendar.start + 70 * DAY;
  const replayOne = () => runWhole(replayedInParts([rule!], facts, { until }));
  const signsAt = (week: number) => runWhole(signsInParts([{ facts, outcome, at: end, by: weekOf(course, week) }]));
  const told = signsAt(4);
  replayOne();
  const replays = timed(() => replayOne());
  const signs = timed(() => signsAt(4));
  const moved = Math.max(...[3, 5, 6, 7, 8].map((week) => once(() => signsAt(week))));
  process.stdout.write(
    [
      `${course.people.length} people: ${told.signs.length} signs and ${told.pairs.length} pairs of ${told.worried} worried about and ${told.well} well`,
      `the slowest move of the week: ${Math.round(moved)} ms of work`,
      '',
    ].join('\n'),
  );
  besideGoal('all signs at one week, with pairs, beside the replay of one rule', signs / replays, {
    unit: '×',
    atMost: 3,
  });
}

function once(work: () => unknown): number {
  const from = performance.now();
  work();
  return performance.now() - from;
}

const timed = (work: () => unknown): number =>
  Array.from({ length: RUNS }, () => once(work)).toSorted((a, b) => a - b)[RUNS >> 1]!;
