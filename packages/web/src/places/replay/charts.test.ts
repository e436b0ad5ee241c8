/** What the charts of Replay say, draw, and have as a table. */
import { describe, expect, test } from '@jest/globals';
import type { ReplayAnswer, VariedHindsight } from '@zest-bell/core/exchange';
import type { CurvePoint } from '@zest-bell/core/outcomes';
import { numberFrom } from '@zest-bell/core/problem';
import type { RuleNumber } from '@zest-bell/core/rules';
import { look, seriesOf } from '../../testing/look.ts';
import { daysChart } from './daysChart.ts';
import { returnChart, type ReturnLine } from './returnChart.ts';
import { variedChart } from './variedChart.ts';

const number: RuleNumber = {
  path: 'when.value',
  of: 'not visited the course for 5 days',
  label: 'compared with',
  value: 5,
  unit: 'days',
  range: numberFrom(0, 3660),
};

describe('another number', () => {
  const tried = (value: number, found: number, needless: number, lead: number | null): VariedHindsight => ({
    value,
    lead,
    counts: { found, missed: 10 - found, needless, leftAlone: 30 - needless },
    shareFound: { count: found, of: 10, low: 0, high: 1 },
    shareRight: found + needless === 0 ? null : { count: found, of: found + needless, low: 0, high: 1 },
  });

  test('is the one that finds four of five with the fewest warned needlessly, the highest of several', () => {
    const { says } = variedChart(
      [tried(3, 10, 9, 20), tried(5, 9, 4, 14), tried(7, 8, 4, 9), tried(9, 5, 1, 3)],
      number,
    );
    expect(says).toBe('At 7 the rule finds four of five or more, 9 days early, with 4 found who did fine.');
  });

  test('is none where no value finds that many, and its lead may be unknown', () => {
    expect(variedChart([tried(5, 7, 0, null)], number).says).toBe(
      'At none of these values does the rule find four of five.',
    );
    expect(variedChart([tried(5, 8, 0, null)], number).says).toMatch(/at no known time/);
  });

  test('is drawn in percent, with the days on a scale of their own', () => {
    const { option, table, title } = variedChart([tried(3, 10, 9, 20), tried(9, 0, 0, null)], number);
    expect(title).toBe('With another number: not visited the course for 5 days');
    expect(seriesOf(option(look))).toEqual({
      found: [100, 0],
      'of those found, you worry about': [52.6, null],
      'days early (right scale)': [20, null],
    });
    expect(table.rows).toEqual([
      [3, 100, 52.6, 20, 10, 0, 9, 21],
      [9, 0, null, null, 0, 10, 0, 30],
    ]);
  });
});

describe('day by day', () => {
  const days = [
    { day: '2026-09-08', nudges: 4, held: 1, heldBack: 0 },
    { day: '2026-09-09', nudges: 0, held: 0, heldBack: 3 },
  ];

  test('names the day with most, and stacks what became of them', () => {
    const seen = { days, busiest: { day: '2026-09-08', nudges: 4 } } as unknown as ReplayAnswer;
    const { says, option, table } = daysChart(seen);
    expect(says).toBe('Most on Sep 8: 4 nudges.');
    expect(seriesOf(option(look))).toEqual({ nudged: [4, 0], 'waiting for you': [1, 0], 'held back': [0, 3] });
    expect(table.rows).toEqual([
      ['2026-09-08', 4, 1, 0],
      ['2026-09-09', 0, 0, 3],
    ]);
  });

  test('says when there is none', () => {
    expect(daysChart({ days: [], busiest: null } as unknown as ReplayAnswer).says).toBe('No day has a nudge.');
  });
});

describe('how soon students came back', () => {
  const point = (days: number, survival: number): CurvePoint => ({
    days,
    survival,
    low: survival - 0.1,
    high: survival + 0.1,
    atRisk: 8,
    acts: 2,
  });
  const line = (curve: readonly CurvePoint[], more: Partial<ReturnLine> = {}): ReturnLine => ({
    name: 'Quiet',
    curve,
    atRisk: [8, 6, 4, 2, 0],
    compared: false,
    ...more,
  });

  test('is half of them within so many days, or how many so far', () => {
    const half = line([point(1, 0.75), point(3, 0.5)]);
    expect(returnChart([half]).says).toBe('Quiet: half came back within 3 days.');
    expect(returnChart([line([point(2, 0.75)])]).says).toBe('Quiet: 25% came back within 2 days.');
    expect(returnChart([line([])]).says).toBe('Quiet: nobody came back so far, of 8.');
    expect(returnChart([line([], { atRisk: [0] })]).says).toBe('Quiet: nobody is counted yet.');
  });

  test('is drawn as what one hopes for, up to when it is known, with its band', () => {
    const { option, table } = returnChart([line([point(1, 0.75), point(3, 0.5)])]);
    const drawn = seriesOf(option(look));
    expect(drawn['Quiet']).toEqual([
      [0, 0],
      [1, 25],
      [3, 50],
      [expect.any(Number), 50],
    ]);
    expect(table.rows).toEqual([
      ['Quiet', '1', 8, 2, 25, 15, 35],
      ['Quiet', '3', 8, 2, 50, 40, 60],
    ]);
  });

  test('is dashed where nobody wrote', () => {
    const lines = [line([point(1, 0.5)]), line([point(2, 0.9)], { name: 'Not nudged', compared: true })];
    const { series } = returnChart(lines).option(look) as { series: { name: string; lineStyle: { type?: string } }[] };
    const types = series.filter((s) => !s.name.endsWith('band')).map((s) => [s.name, s.lineStyle.type]);
    expect(types).toEqual([
      ['Quiet', 'solid'],
      ['Not nudged', 'dashed'],
    ]);
  });
});
