/** A chart over the values of one number: lines for the results, a count of days on a scale of its own, and today’s value marked. */
import { oneDecimal } from '@zest-bell/core/time';
import type { RuleNumber } from '@zest-bell/core/rules';
import type { EChartsOption } from 'echarts';
import { base, markOwn, names, values, type ChartStyle } from './look.ts';

export interface ValueLine {
  readonly name: string;
  /** A value for each number that was tried; null if absent. */
  readonly data: readonly (number | null)[];
}

export const titleOf = (number: RuleNumber): string => `With another number: ${number.of}`;

export const valuesOption = (
  look: ChartStyle,
  chart: {
    readonly says: string;
    readonly number: RuleNumber;
    readonly tried: readonly number[];
    /** Read on the left; the first carries the mark. */
    readonly lines: readonly [ValueLine, ValueLine];
    readonly days: ValueLine;
    /** What the left axis has beyond starting at zero. */
    readonly left: object;
  },
): EChartsOption => {
  const { says, number, tried, lines, days, left } = chart;
  const line = ({ name, data }: ValueLine, color: string, symbol: string, more: object) => ({
    type: 'line' as const,
    name,
    data: [...data],
    symbol,
    symbolSize: 9,
    lineStyle: { color, width: 2.5 },
    itemStyle: { color },
    ...more,
  });
  return {
    ...base(look, says),
    grid: { left: 48, right: 56, top: 44, bottom: 28 },
    xAxis: names(look, tried.map(oneDecimal)),
    yAxis: [
      values(look, { min: 0, ...left }),
      values(look, { name: 'days', nameTextStyle: { color: look.faint }, splitLine: { show: false }, min: 0 }),
    ],
    series: [
      line(lines[0], look.pine, 'circle', markOwn(look, tried.indexOf(number.value))),
      line(lines[1], look.iris, 'diamond', {}),
      line({ ...days, name: `${days.name} (right scale)` }, look.brass, 'triangle', {
        yAxisIndex: 1,
        lineStyle: { color: look.brass, width: 2, type: 'dashed' },
      }),
    ],
    tooltip: { ...base(look, says).tooltip, trigger: 'axis' },
  };
};
