/** What the charts of the class say in a sentence, draw, and have as a table: three times the same numbers. */
import { describe, expect, test } from '@jest/globals';
import type { ClassOverview } from '@zest-bell/core/lookout';
import { at, course } from '../../testing/course.ts';
import { look, seriesOf } from '../../testing/look.ts';
import {
  daysChart,
  hoursChart,
  scoresChart,
  submissionsChart,
  timingChart,
  waitingChart,
  weeksChart,
} from './classCharts.ts';

const hours = Array.from({ length: 7 }, (_, d) => Array.from({ length: 24 }, (_, h) => (d === 2 && h === 21 ? 9 : 0)));
const overview: ClassOverview = {
  at: at('2026-09-14T09:00'),
  students: 12,
  scores: [
    { item: 'q1', scores: [40, 60, 80], mean: 60, spread: { low: 40, q1: 50, median: 60, q3: 70, high: 80 } },
    { item: 'q2', scores: [20, 55], mean: 37.5, spread: { low: 20, q1: 28.75, median: 37.5, q3: 46.25, high: 55 } },
  ],
  submissions: [
    { item: 'q2', due: at('2026-09-18T23:00'), onTime: 1, late: 0, missing: 0, open: 11, hoursEarly: [80] },
    { item: 'q1', due: at('2026-09-11T23:00'), onTime: 7, late: 2, missing: 3, open: 0, hoursEarly: [30, 3, -2, -90] },
    { item: 's1', due: at('2026-09-09T10:00'), onTime: 0, late: 0, missing: 9, open: 0, hoursEarly: [] },
  ],
  days: [
    { day: '2026-09-12', active: 4, working: 1, events: 9 },
    { day: '2026-09-13', active: 7, working: 3, events: 20 },
  ],
  weeks: [
    { week: 1, from: '2026-08-31', to: '2026-09-06', active: 11, working: 6, events: 80 },
    { week: 2, from: '2026-09-07', to: '2026-09-13', active: 1, working: 1, events: 3 },
  ],
  hours,
  done: [],
  waiting: [
    { item: 'q1', waiting: 2, days: [1, 4] },
    { item: 'q2', waiting: 1, days: [9] },
  ],
};
const nothing: ClassOverview = {
  ...overview,
  scores: [],
  submissions: [],
  days: [],
  weeks: [],
  waiting: [],
  hours: hours.map((row) => row.map(() => 0)),
};

describe('scores', () => {
  test('name the item with the lowest median, and have a box and a dot a student', () => {
    const { says, option, table } = scoresChart(overview, course);
    expect(says).toMatch(/^Lowest median: Chart quiz with 37.5%\./);
    const drawn = seriesOf(option(look));
    expect(drawn['boxplot 1']).toEqual([
      [40, 50, 60, 70, 80],
      [20, 28.8, 37.5, 46.3, 55],
    ]);
    expect(drawn['scatter 0']).toHaveLength(5);
    expect(table.rows.map((r) => r[0])).toEqual(['Tide tables quiz', 'Chart quiz']);
  });
});

describe('work', () => {
  test('stands in the order in which it is due, without sessions, which nobody turns in', () => {
    const { says, option, table } = submissionsChart(overview, course);
    expect(says).toBe('Most is missing on Tide tables quiz: 3 of 12 students.');
    expect(table.rows.map((r) => [r[0], ...r.slice(2)])).toEqual([
      ['Tide tables quiz', 7, 2, 3, 0],
      ['Chart quiz', 1, 0, 0, 11],
    ]);
    expect(seriesOf(option(look))).toEqual({ 'on time': [7, 1], late: [2, 0], missing: [3, 0], 'not yet': [0, 11] });
  });

  test('comes in at stretches that people think in, to the hour of their ends', () => {
    const { says, table } = timingChart(overview);
    expect(says).toBe('Half of the work came in at least 3 hours before it was due.');
    expect(table.rows).toEqual([
      ['over 3 days early', 1, 20],
      ['1 to 3 days early', 1, 20],
      ['6 to 24 hours early', 0, 0],
      ['the last 6 hours', 1, 20],
      ['up to 1 day late', 1, 20],
      ['1 to 3 days late', 0, 0],
      ['over 3 days late', 1, 20],
    ]);
  });

  test('that waits for a grade is named by how long', () => {
    const { says, option, table } = waitingChart(overview, course);
    expect(says).toBe('3 submissions wait for a grade, the longest for 9 days.');
    expect(table.rows).toEqual([
      ['Chart quiz', 1, 9, 9],
      ['Tide tables quiz', 2, 2.5, 4],
    ]);
    expect(Object.values(seriesOf(option(look)))).toEqual([[1, 2]]);
  });
});

describe('who is there', () => {
  test('day by day, with what a typical day of the last week is', () => {
    const { says, option, table } = daysChart(overview, course);
    expect(says).toBe('In the last 7 days, 6 of 12 students were active on a typical day.');
    expect(seriesOf(option(look))).toEqual({ 'in the course': [4, 7], 'did some work': [1, 3] });
    expect(table.rows).toHaveLength(2);
  });

  test('week by week, where a student counts once', () => {
    const { says, table } = weeksChart(overview);
    expect(says).toBe('In week 2, 1 student of 12 was active so far, 11 in week 1.');
    expect(table.rows[0]!.slice(0, 3)).toEqual([1, 'Aug 31 to Sep 6', 11]);
  });

  test('by the hour of the week', () => {
    const { says, table, option } = hoursChart(overview);
    expect(says).toBe('The busiest hour is Wed at 9 PM.');
    expect(table.rows[21]).toEqual(['9 PM', 0, 0, 9, 0, 0, 0, 0]);
    const tip = (option(look) as { tooltip: { formatter: (raw: object) => string } }).tooltip.formatter;
    expect(tip({ data: [21, 2, 9] })).toBe('Wed 9 PM: 9 events');
  });
});

test('before anything has happened each says so, and none breaks', () => {
  const said = [
    scoresChart(nothing, course),
    submissionsChart(nothing, course),
    timingChart(nothing),
    weeksChart(nothing),
    hoursChart(nothing),
    waitingChart(nothing, course),
  ];
  expect(said.map((c) => c.says)).toEqual([
    'Nothing is graded yet.',
    'Nothing is missing.',
    'Nothing was turned in yet.',
    'The term has not begun.',
    'Nobody was in the course yet.',
    'Everything that was turned in is graded.',
  ]);
  for (const chart of said) expect(chart.option({ ...look, narrow: true })).toBeTruthy();
});
