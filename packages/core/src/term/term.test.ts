/** What became of a term: counted again here by plain reading, and what it advises. */
import { describe, expect, test } from '@jest/globals';
import { wilson } from '../outcomes/proportion.ts';
import type { TextResult } from '../outcomes/textResults.ts';
import { at, factsOf, item, person, ruleOf } from '../testing/build.ts';
import { runWhole } from '../time/inParts.ts';
import { termReportInParts } from './report.ts';
import type { RuleLog, TermOrder } from './reportData.ts';

const result = (returned: number, of: number, sent = of): TextResult => ({
  sent,
  open: sent - of,
  openBack: 0,
  openReplied: 0,
  returns: of === 0 ? null : wilson(returned, of),
  replies: wilson(0, of),
});
const logOf = (rule: string, name: string, more: Partial<RuleLog> = {}): RuleLog => ({
  rule,
  name,
  rounds: 10,
  result: result(0, 0),
  reached: 0,
  firstDay: null,
  heldBack: [],
  ...more,
});

// Ten students: the first four were away for four days in September, and fail; the others came daily and do well.
const away = (i: number) => i < 4;
const days = Array.from({ length: 40 }, (_, d) =>
  new Date(Date.UTC(2026, 8, 1) + d * 86_400_000).toISOString().slice(0, 10),
);
const facts = factsOf({
  people: Array.from({ length: 10 }, (_, i) => person(`s${i}`, { enrolledAt: at('2026-08-31T00:00') })),
  items: [item('q1', { points: 10, dueAt: at('2026-09-20T00:00'), kind: 'quiz' })],
  events: Array.from({ length: 10 }, (_, i) =>
    days
      // Away from the 10th to the 13th.
      .filter((d) => !(away(i) && d >= '2026-09-10' && d <= '2026-09-13'))
      .map((d) => [`s${i}`, 'visit', `${d}T10:00`] as const),
  ).flat(),
  grades: Array.from({ length: 10 }, (_, i) => [`s${i}`, 'q1', away(i) ? 3 : 9, '2026-09-22T10:00'] as const),
});
const rule = ruleOf({ when: { measure: 'daysSinceVisit', is: '>=', value: 5 } });
const order = (more: Partial<TermOrder> = {}): TermOrder => ({
  rules: [rule],
  outcome: { measure: 'courseGrade', is: '<', value: 60 },
  at: at('2026-10-05T12:00'),
  log: [logOf('away', 'Away')],
  texts: [],
  ...more,
});
const report = (more: Partial<TermOrder> = {}) => runWhole(termReportInParts(order(more), facts));

describe('how the term went', () => {
  test('hindsight is counted for each rule, and whom none found', () => {
    const { students, known, worried, missedByAll, rules } = report();
    expect([students, known, worried, missedByAll]).toEqual([10, 10, 4, 4]);
    expect(rules[0]!.hindsight!.counts).toEqual({ found: 0, missed: 4, needless: 0, leftAlone: 6 });
  });

  test('the number that would have found more is told, and only where it does not find as many needlessly', () => {
    const { rules, changes } = report();
    // Four mornings without a visit are four whole days; at three nobody more would have been found, and nobody needlessly.
    expect(rules[0]!.hindsight!.other).toMatchObject({ value: 5, other: 4, counts: { found: 4, needless: 0 } });
    expect(changes[0]).toBe(
      '“Away” found 0 of 4 students who have a course grade under 60%. At 4 days instead of 5 days it would have found 4, and no more who did fine.',
    );
    const wide = report({ rules: [ruleOf({ when: { measure: 'daysSinceVisit', is: '>=', value: 4 } })] });
    expect(wide.rules[0]!.hindsight!.other).toBeNull();
    expect(wide.missedByAll).toBe(0);
    expect(report({ isBrief: true }).rules[0]!.hindsight).toMatchObject({ counts: { missed: 4 }, other: null });
  });

  test('three sentences at most, of different kinds, the weightiest first', () => {
    const { changes } = report({
      log: [
        logOf('away', 'Away', { result: result(13, 14), reached: 9 }),
        logOf('silent', 'Silent'),
        logOf('held', 'Held', {
          result: result(2, 20),
          heldBack: [{ reason: 'budget', students: 7, neverNudged: 6, rounds: 30 }],
        }),
      ],
    });
    expect(changes).toHaveLength(3);
    expect(
      changes.some((c) =>
        c.startsWith('After “Held”, 2 of 20 came back within two weeks; after your other rules, 13 of 14'),
      ),
    ).toBe(true);
  });

  test('limits, silence, texts and what worked, each with its counts', () => {
    const quiet = { rules: [] };
    const limited = report({
      ...quiet,
      log: [
        logOf('held', 'Held', { heldBack: [{ reason: 'budget', students: 7, neverNudged: 6, rounds: 30 }] }),
        logOf('silent', 'Silent'),
      ],
      texts: [
        { wording: 'Warm', texts: [result(9, 24), result(18, 25)], better: { what: 'returns', better: 1, worse: 0 } },
      ],
    });
    expect(limited.changes).toEqual([
      'After text 2 of “Warm”, 18 of 25 came back; after text 1, 9 of 24. Keep text 2 alone.',
      '“Held” never reached 6 students it found: message budget used up. Widen the message budget, or make the rule essential.',
      '“Silent” ran 10 times and found nobody to nudge. Change its condition, or put it away.',
    ]);
    const good = report({ ...quiet, log: [logOf('away', 'Away', { result: result(13, 14) })] });
    expect(good.changes).toEqual(['Keep “Away”: 13 of 14 came back within two weeks.']);
    expect(report({ ...quiet, log: [] }).changes).toEqual([]);
  });
});
