/**
 * A threshold dragged on a class of 2,000: what the browser's worker computes at every step of the drag, on facts as they
 * were sent. The figure is in frames of 16 ms, beside the loop that only compares each student's value with the threshold.
 */
import { runWhole } from '@zest-bell/core/time';
import { HistoryFacts, measureColumn, packColumn, unpackColumn, valueAt } from '@zest-bell/core/measures';
import { leavesOf } from '@zest-bell/core/conditions';
import { parseRule, type Rule } from '@zest-bell/core/rules';
import { lookNearby, NOTHING_LOGGED, reach, SentFacts } from '@zest-bell/core/rounds';
import { benchCourse, benchHistory } from './data.ts';
import { besideGoal, median } from './goals.ts';

const CLASS = { name: 'a class of 2,000', students: 2000, events: 600_000 };
const FRAME = 16;
/** People who get their reasons sent along. */
const MOST = 60;

const ruleAt = (value: number): Rule => {
  const parsed = parseRule({
    id: 'dragged',
    name: 'Dragged',
    status: 'on',
    audience: { roles: ['student'] },
    when: {
      all: [
        { measure: 'daysSinceVisit', is: '>=', value },
        { measure: 'score', item: 'i3', is: '<=', value: 70 },
      ],
    },
    rhythm: { start: '2026-08-31T09:30', rrule: 'FREQ=DAILY' },
    repeat: { perSpell: 1 },
    steps: [{ deliver: 'send', to: ['student'], wording: 'w' }],
  });
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
  return parsed.value;
};

export function benchReach(): void {
  const course = benchCourse(CLASS);
  const history = benchHistory(course, CLASS);
  const facts = new HistoryFacts(course, history);
  const at = course.calendar.start + 60 * 86_400_000;
  const when = ruleAt(5).when;
  const columns = leavesOf(when).map((call) => unpackColumn(packColumn(measureColumn(call, facts, at)))!);
  const sent = new SentFacts(course, columns);
  // As the worker does: computed, and made ready to be handed over.
  const answer = (rule: Rule) => structuredClone(reach(rule, sent, NOTHING_LOGGED, at, at, MOST));
  // As when a composer is opened: the reach of the draft, and then of what lies near it.
  answer(ruleAt(5));
  runWhole(lookNearby(ruleAt(5), sent, NOTHING_LOGGED, at, MOST));
  const drag = Array.from({ length: 41 }, (_, i) => (i % 21) + 1);
  const taken = drag.map((value) => {
    const rule = ruleAt(value);
    const from = performance.now();
    answer(rule);
    return performance.now() - from;
  });
  const [call] = leavesOf(when);
  const lines = course.people.map((_, i) => sent.timeline(i, call!));
  const bare = drag.map((value) => {
    const from = performance.now();
    let met = 0;
    for (const l of lines) if (Number(valueAt(l, at)) >= value) met++;
    return performance.now() - from + met * 0;
  });
  const worst = Math.max(...taken);
  console.log(`A threshold dragged on ${CLASS.name}, two conditions:`);
  besideGoal('a step of the drag', median(taken), { unit: 'ms', atMost: FRAME });
  besideGoal('a step of the drag, at worst', worst, { unit: 'ms', atMost: FRAME });
  console.log(`  and ${(median(taken) / median(bare)).toFixed(0)}× the loop that only compares one value a student`);
}
