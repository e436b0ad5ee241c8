import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import jstat from 'jstat';
import { dailyActivity, packDaily, unpackDaily } from '../activity/daily.ts';
import type { Condition } from '../conditions/condition.ts';
import { conditionSentence } from '../conditions/sentence.ts';
import { at, factsOf, item, person, valueOf } from '../testing/build.ts';
import { runs } from '../testing/runs.ts';
import { brushIn, withBrush, type Brush } from './brush.ts';
import { columnKey, logColumnOf, measureColumnOf, ruleColumnOf } from './columns.ts';
import { binIn, countsWithin, distributionOf } from './distribution.ts';
import type { StudentLog } from './logFacts.ts';
import { MATCHING, NOT_MATCHING, ruleBrushWords, ruleMatches, type RuleBrush } from './ruleMatches.ts';
import { ASK_NOTHING, LookoutTable, SORT_BY_RULES, type LookoutQuery } from './table.ts';
import { callsOf, namedSet, NAMED_SETS, NO_VIEW, parseView, rulesIn, rulesView } from './view.ts';

const facts = factsOf({
  people: [
    person('p1', { firstName: 'Imani', lastName: 'Okoro', fields: { group: 'Tide' } }),
    person('p2', { firstName: 'Kofi', lastName: 'Marsh', fields: { group: 'Reef' } }),
    person('p3', { firstName: 'Lena', lastName: 'Halvorsen', fields: { group: 'Tide' } }),
    person('p4', { firstName: 'Priya', lastName: 'Castellan', enrolledAt: at('2026-10-20T00:00') }),
    person('gone', { active: false }),
    person('ada', { role: 'instructor' }),
  ],
  items: [
    item('q1', { title: 'Tide quiz', group: 'Quizzes', dueAt: at('2026-09-13T23:59') }),
    item('q2', { title: 'Chart quiz', group: 'Quizzes', dueAt: at('2026-09-20T23:59'), excused: ['p3'] }),
    item('syl', { title: 'Syllabus', kind: 'page', points: null }),
  ],
  events: [
    ['p1', 'visit', '2026-10-01T10:00'],
    ['p1', 'submit', '2026-09-12T10:00', 'q1'],
    ['p1', 'submit', '2026-09-22T10:00', 'q2'],
    ['p2', 'visit', '2026-09-28T10:00'],
    ['p3', 'open', '2026-10-02T10:00', 'syl'],
  ],
  grades: [
    ['p1', 'q1', 16, '2026-09-15T08:00'],
    ['p1', 'q2', 14, '2026-09-24T08:00'],
    ['p2', 'q1', 8, '2026-09-15T08:00'],
  ],
});
const { course } = facts;
const now = at('2026-10-03T09:00');
const away = { measure: 'daysSinceVisit' } as const;
const grade = { measure: 'courseGrade' } as const;
const group = { measure: 'field', name: 'group' } as const;
const asking = (more: Partial<LookoutQuery> = {}): LookoutQuery => ({
  ...ASK_NOTHING,
  columns: [measureColumnOf(away), measureColumnOf(grade), measureColumnOf({ measure: 'missing' })],
  ...more,
});
const table = (t = now, logs?: ReadonlyMap<string, StudentLog>) => new LookoutTable(facts, t, { logs });
const names = (tbl: LookoutTable, query: Partial<LookoutQuery> = {}) =>
  [...tbl.show(asking(query)).rows].map((row) => course.people[tbl.people[row]!]!.firstName);

describe('the table of students', () => {
  test('has every active student, by name unless told otherwise', () => {
    expect(names(table())).toEqual(['Priya', 'Lena', 'Kofi', 'Imani']);
  });

  test('[C3] a condition shows those of whom it is true, and nobody of whom it is not known', () => {
    expect(names(table(), { when: { ...grade, is: '<', value: 60 } })).toEqual(['Kofi']);
    expect(names(table(), { when: { none: [{ ...grade, is: '<', value: 60 }] } })).toEqual(['Imani']);
    expect(names(table(), { when: { measure: 'submitted', item: 'q2', is: 'equals', value: false } })).toEqual([
      'Kofi',
    ]);
  });

  test('[H4] a student who has not enrolled yet is found by no condition, and has no values', () => {
    const when: Condition = { ...grade, is: 'empty' };
    expect(names(table(), { when })).toEqual(['Lena']);
    expect(table().column(measureColumnOf(away)).values).toEqual([1, 4, 0, null]);
  });

  test('[H3] as of an earlier day it is what was known on that day', () => {
    const then = table(at('2026-09-14T12:00'));
    expect(then.column(measureColumnOf(grade)).values).toEqual([null, null, null, null]);
    expect(then.column(measureColumnOf({ measure: 'missing' })).values).toEqual([0, 1, 1, null]);
    expect(table().column(measureColumnOf(grade)).values).toEqual([75, 40, null, null]);
  });

  test('is ordered by several columns; the unknown stand last whichever way is up', () => {
    const missing = columnKey(measureColumnOf({ measure: 'missing' }));
    expect(names(table(), { sort: [{ by: columnKey(measureColumnOf(grade)), down: false }] })).toEqual([
      ...['Kofi', 'Imani', 'Priya', 'Lena'],
    ]);
    expect(names(table(), { sort: [{ by: columnKey(measureColumnOf(grade)), down: true }] })[0]).toBe('Imani');
    const sort = [
      { by: missing, down: true },
      { by: 'name', down: true },
    ];
    expect(names(table(), { sort })).toEqual(['Kofi', 'Lena', 'Imani', 'Priya']);
  });

  test('is searched by parts of names and addresses', () => {
    expect(names(table(), { search: 'kof mar' })).toEqual(['Kofi']);
    expect(names(table(), { search: 'P3@' })).toEqual(['Lena']);
  });

  test('says how those who are shown are spread over each column', () => {
    const tbl = table();
    const { within } = tbl.show(asking({ when: { ...away, is: '>=', value: 1 } }));
    const { distribution } = tbl.column(measureColumnOf(away));
    expect(distribution).toMatchObject({ edges: [0, 1, 2, 3, 4, 5], counts: [1, 1, 0, 0, 1], unknown: 1 });
    expect(within[0]).toEqual([0, 1, 0, 0, 1]);
  });

  test('columns from the log choose students by brushes of their own', () => {
    const last = { nudge: 1, at: at('2026-10-01T09:30'), ruleName: 'Away', state: 'sent', replied: true } as const;
    const logs = new Map<string, StudentLog>([
      ['p1', { last: { ...last, returnedAt: null, canReturn: false }, sent: 2, replies: 1, heldBack: 0 }],
      ['p2', { last: { ...last, returnedAt: null, canReturn: true }, sent: 1, replies: 0, heldBack: 3 }],
    ]);
    const tbl = table(now, logs);
    expect(tbl.column(logColumnOf('lastNudge')).values).toEqual([2, 2, null, null]);
    expect(tbl.column(logColumnOf('cameBack')).values).toEqual([null, false, null, null]);
    const chosen = (log: 'replied' | 'heldBack' | 'lastNudge', brush: Brush) =>
      names(tbl, { logBrushes: [{ log, brush }] });
    expect(chosen('replied', { kind: 'some', values: [true] })).toEqual(['Imani']);
    expect(chosen('heldBack', { kind: 'range', low: 1, high: null })).toEqual(['Kofi']);
    expect(chosen('lastNudge', { kind: 'unknown' })).toEqual(['Priya', 'Lena']);
  });
});

describe('a brush', () => {
  const { marks } = course;
  const words = (when: Condition | null) => when && conditionSentence(when, course);

  test('is read from the condition and written into it, beside what else it asks', () => {
    const other: Condition = {
      any: [
        { measure: 'missing', is: '>=', value: 2 },
        { ...grade, is: '<', value: 50 },
      ],
    };
    const brushed = withBrush(other, away, { kind: 'range', low: 4, high: 9 });
    expect(words(brushed)).toBe(
      '(have 2 or more missing items or have a course grade under 50%) and have not visited the course for 4 days and last visited the course 9 days or less ago',
    );
    expect(brushIn(brushed, away, marks)).toEqual({ kind: 'range', low: 4, high: 9 });
    expect(brushIn(brushed, grade, marks)).toBeNull();
    const moved = withBrush(brushed, away, { kind: 'range', low: 6, high: null });
    expect(brushIn(moved, away, marks)).toEqual({ kind: 'range', low: 6, high: null });
    expect(withBrush(moved, away, null)).toEqual(other);
    expect(withBrush(withBrush(null, away, { kind: 'unknown' }), away, null)).toBeNull();
  });

  test('some of many texts are a choice among them', () => {
    const two = withBrush(null, group, { kind: 'some', values: ['Tide', 'Reef'] });
    expect(two).toEqual({
      any: [
        { ...group, is: 'equals', value: 'Tide' },
        { ...group, is: 'equals', value: 'Reef' },
      ],
    });
    expect(brushIn(two, group, marks)).toEqual({ kind: 'some', values: ['Tide', 'Reef'] });
    expect(names(table(), { when: two })).toEqual(['Lena', 'Kofi', 'Imani']);
    expect(withBrush(two, group, { kind: 'some', values: [] })).toBeNull();
  });

  test('a yes that is asked for by “differs” is read as what it means', () => {
    const call = { measure: 'submitted', item: 'q1' } as const;
    expect(brushIn({ ...call, is: 'differs', value: true }, call, marks)).toEqual({ kind: 'some', values: [false] });
  });

  test('a mark of the course is the bound that it stands for', () => {
    const low: Condition = { ...grade, is: '>=', value: { mark: 'mastery' } };
    expect(brushIn(low, grade, marks)).toEqual({ kind: 'range', low: 80, high: null });
  });

  test('whatever is brushed, the brush that is read back is the one that was drawn', () => {
    const bound = fc.option(fc.integer({ min: 0, max: 20 }), { nil: null });
    fc.assert(
      fc.property(bound, bound, (low, high) => {
        const brush: Brush | null = low === null && high === null ? null : { kind: 'range', low, high };
        const when = withBrush({ measure: 'missing', is: '>=', value: 1 }, away, brush);
        expect(brushIn(when, away, marks)).toEqual(brush);
        expect(withBrush(when, away, null)).toEqual({ measure: 'missing', is: '>=', value: 1 });
      }),
      runs(5, 60),
    );
  });
});

describe('a distribution', () => {
  const numbers = fc.array(fc.double({ min: -50, max: 150, noNaN: true }), { minLength: 1, maxLength: 80 });

  test('has every value in the one bin whose bounds hold it, and the mean of jStat', () => {
    fc.assert(
      fc.property(numbers, (values) => {
        const d = distributionOf(values, 'percent');
        if (d.kind !== 'numbers') throw new Error('numbers are expected');
        expect(d.counts.reduce((a, b) => a + b, 0)).toBe(values.length);
        expect([d.low, d.high]).toEqual([jstat.min(values), jstat.max(values)]);
        expect(d.mean).toBeCloseTo(jstat.mean(values), 9);
        for (const v of values) {
          const bin = binIn(d.edges, v);
          expect(v).toBeGreaterThanOrEqual(d.edges[bin]! - 1e-9);
          expect(v).toBeLessThanOrEqual(d.edges[bin + 1]! + 1e-9);
        }
      }),
      runs(7, 60),
    );
  });

  test('of whole numbers one apart counts as jStat’s histogram does', () => {
    const values = [0, 0, 1, 1, 1, 2, 4, 5, 5, 5];
    const d = distributionOf(values, 'days');
    expect(d).toMatchObject({ edges: [0, 1, 2, 3, 4, 5, 6], counts: jstat.histogram(values, 6) });
    expect(countsWithin(d, values, [0, 2, 9])).toEqual([1, 1, 0, 0, 0, 1]);
  });

  test('those who are far out share the last bin, so that the others stay apart', () => {
    const values = [...Array.from({ length: 40 }, (_, i) => i % 5), 56];
    const d = distributionOf(values, 'days');
    expect(d).toMatchObject({ edges: [0, 1, 2, 3, 4, 5, 57], counts: [8, 8, 8, 8, 8, 1], high: 56 });
    expect(countsWithin(d, values, [40])).toEqual([0, 0, 0, 0, 0, 1]);
  });

  test('of texts lists those that most have; of yes and no both, also where nobody is one', () => {
    expect(distributionOf(['Tide', 'Reef', 'Tide', null], 'text')).toEqual({
      kind: 'choices',
      choices: ['Tide', 'Reef'],
      counts: [2, 1],
      more: 0,
      unknown: 1,
    });
    const yes = distributionOf([true, true, null], 'yesNo');
    expect(yes).toMatchObject({ choices: [false, true], counts: [0, 2], unknown: 1 });
    expect(countsWithin(yes, [true, true, null], [1, 2])).toEqual([0, 1]);
    expect(distributionOf([null], 'count')).toMatchObject({ counts: [0], unknown: 1 });
  });
});

describe('a view', () => {
  test('the named sets fit the course, and are read back as they were written', () => {
    for (const set of NAMED_SETS) {
      const columns = namedSet(set, course);
      const view = { ...NO_VIEW, columns, sort: [{ by: columnKey(columns[0]!), down: true }] };
      expect(valueOf(parseView(JSON.parse(JSON.stringify(view))))).toEqual(view);
    }
    expect(namedSet('Presence', course).map(columnKey)).toContain(
      columnKey(measureColumnOf({ measure: 'opens', item: 'syl' })),
    );
  });

  test('a column or a condition that does not fit is named', () => {
    const bad = parseView({ columns: [{ kind: 'measure', call: { measure: 'mood' } }], when: { measure: 'score' } });
    expect(bad).toMatchObject({ ok: false, problems: [{ path: 'columns[0].call' }] });
    const worse = parseView({ columns: [], when: { measure: 'score', is: '<=', value: 50 } });
    expect(worse).toMatchObject({ ok: false, problems: [{ path: 'when.item' }] });
  });

  test('asks for the measures of its columns and of its condition', () => {
    const when: Condition = { measure: 'late', is: '>=', value: 1 };
    expect(callsOf({ columns: [measureColumnOf(away), logColumnOf('replied')], when })).toEqual([away, when]);
  });
});

test('activity by day counts what was done in the course on each local date, before and after the clocks change', () => {
  const story = factsOf({
    items: [item('q1')],
    events: [
      ['p1', 'signIn', '2026-08-31T08:00'],
      ['p1', 'visit', '2026-08-31T23:59'],
      ['p1', 'submit', '2026-09-01T00:00', 'q1'],
      ['p1', 'visit', '2026-11-01T23:30'],
      ['p1', 'visit', '2026-11-02T00:00'],
    ],
  });
  const sent = unpackDaily(packDaily(dailyActivity(story.course, story.history)))!;
  expect(sent).toMatchObject({ from: '2026-08-31', days: 110 });
  expect([0, 1, 2, 62, 63].map((d) => [sent.events[d], sent.work[d]])).toEqual([
    ...[
      [1, 0],
      [1, 1],
      [0, 0],
      [1, 0],
      [1, 0],
    ],
  ]);
});

describe('rules as columns', () => {
  const quiet = {
    when: { ...away, is: '>=', value: 4 } as const,
    audience: { roles: ['student'], sections: [], except: [] } as const,
  };
  const low = {
    when: { ...grade, is: '<', value: 70 } as const,
    audience: { roles: ['student'], sections: [], except: [] } as const,
  };
  const rules = new Map([
    ['quiet', ruleMatches(quiet, facts, now)],
    ['low', ruleMatches(low, facts, now)],
  ]);
  const of = () => new LookoutTable(facts, now, { rules });
  const columns = [ruleColumnOf('quiet'), ruleColumnOf('low')];
  const values = (rule: string) => of().column(ruleColumnOf(rule)).values;

  test('a cell says for how many calendar days the condition has been true without a break', () => {
    // p2 was last in on September 28 and matches once four days have passed, October 2.
    expect(rules.get('quiet')).toEqual({
      p2: { since: at('2026-10-02T10:00'), evidence: expect.stringContaining('4 days') },
    });
    expect(values('quiet')).toEqual([null, 1, null, null]);
    const before = ruleMatches(quiet, facts, at('2026-10-02T09:59'));
    expect(before).not.toHaveProperty('p2');
  });

  test('each cell has the evidence of its rule, and one who does not match has none', () => {
    expect(rules.get('low')!['p2']!.evidence).toContain('40%');
    expect(rules.get('low')!['p1']).toBeUndefined();
  });

  test('a rule is brushed: matching, since so many days, not matching', () => {
    const brushed = (brush: RuleBrush['brush'], rule = 'low') => names(of(), { ruleBrushes: [{ rule, brush }] });
    expect(brushed(MATCHING)).toEqual(['Kofi']);
    expect(brushed({ kind: 'range', low: 10, high: null })).toEqual(['Kofi']);
    expect(brushed({ kind: 'range', low: 30, high: null })).toEqual([]);
    expect(brushed(NOT_MATCHING)).not.toContain('Kofi');
    expect(brushed(MATCHING, 'a rule that is gone')).toEqual([]);
  });

  test('several are asked together, or any of them', () => {
    const ruleBrushes = [
      { rule: 'quiet', brush: NOT_MATCHING },
      { rule: 'low', brush: MATCHING },
    ];
    expect(names(of(), { ruleBrushes })).toEqual([]);
    expect(names(of(), { ruleBrushes, rulesJoin: 'any' })).toHaveLength(4);
  });

  test('whoever matches most rules for longest stands first', () => {
    const order = names(of(), { columns, sort: [{ by: SORT_BY_RULES, down: true }] });
    expect(order[0]).toBe('Kofi');
    expect(order.slice(1)).toEqual(names(of()).filter((name) => name !== 'Kofi'));
  });

  test('a view keeps its rules and what it asks of them', () => {
    const view = { ...NO_VIEW, ...rulesView(['quiet', 'low']), ruleBrushes: [{ rule: 'more', brush: MATCHING }] };
    expect(parseView(JSON.parse(JSON.stringify(view)))).toEqual({ ok: true, value: view });
    expect(rulesIn(view)).toEqual(['quiet', 'low', 'more']);
    expect(callsOf(view)).toEqual([]);
  });

  test.each([
    [MATCHING, 'match', ''],
    [{ kind: 'range', low: 0, high: null }, 'match', ''],
    [{ kind: 'range', low: 1, high: null }, 'match', 'for 1 day or more'],
    [{ kind: 'range', low: 0, high: 3 }, 'match', 'for 3 days or less'],
    [{ kind: 'range', low: 2, high: 4 }, 'match', 'for 2 to 4 days'],
    [NOT_MATCHING, 'do not match', ''],
  ] as const)('%j is said as “%s … %s”', (brush, lead, after) => {
    expect(ruleBrushWords(brush)).toEqual({ lead, after });
  });
});
