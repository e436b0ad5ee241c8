import { oneDecimal, type RuleNumber, type VariedHindsight } from '@zest-bell/core';
import type { ChartCardProps } from '../charts/ChartCard.tsx';
import { base, markOwn, names, values, type Look } from '../charts/look.ts';

const percent = (share: { readonly count: number; readonly of: number } | null): number | null =>
  share === null ? null : Math.round((1000 * share.count) / share.of) / 10;

/** Share found, share right and lead time for each value of one number; the rule's own value is marked. */
export function variedChart(varied: readonly VariedHindsight[], number: RuleNumber): Omit<ChartCardProps, 'fileName'> {
  const enough = varied
    .filter((v) => (percent(v.shareFound) ?? 0) >= 80)
    .toSorted((a, b) => (b.shareRight ? percent(b.shareRight)! : 0) - (a.shareRight ? percent(a.shareRight)! : 0))[0];
  const says = enough
    ? `At ${oneDecimal(enough.value)} the rule finds four of five or more, ${enough.lead === null ? 'at no known time' : `${oneDecimal(enough.lead)} days early`}, with ${enough.counts.needless} needlessly warned.`
    : 'At none of these values does the rule find four of five.';
  const own = varied.findIndex((v) => v.value === number.value);
  const line = (look: Look, name: string, color: string, data: (number | null)[], more: object = {}) => ({
    ...{ type: 'line' as const, name, data, connectNulls: false },
    lineStyle: { color, width: 2.5 },
    itemStyle: { color },
    ...more,
  });
  return {
    title: `With another number: ${number.of}`,
    says,
    height: 280,
    option: (look) => ({
      ...base(look, says),
      grid: { left: 48, right: 56, top: 40, bottom: 28 },
      xAxis: names(
        look,
        varied.map((v) => oneDecimal(v.value)),
      ),
      yAxis: [
        values(look, { min: 0, max: 100, axisLabel: { color: look.faint, formatter: '{value}%' } }),
        values(look, { name: 'days', nameTextStyle: { color: look.faint }, splitLine: { show: false }, min: 0 }),
      ],
      series: [
        line(
          look,
          'share found',
          look.pine,
          varied.map((v) => percent(v.shareFound)),
          {
            symbol: 'circle',
            symbolSize: 8,
            ...markOwn(look, own),
          },
        ),
        line(
          look,
          'share right',
          look.iris,
          varied.map((v) => percent(v.shareRight)),
          { symbol: 'diamond', symbolSize: 9 },
        ),
        line(
          look,
          'days early (right scale)',
          look.brass,
          varied.map((v) => v.lead),
          {
            yAxisIndex: 1,
            symbol: 'triangle',
            symbolSize: 8,
            lineStyle: { color: look.brass, width: 2, type: 'dashed' },
          },
        ),
      ],
      tooltip: { ...base(look, says).tooltip, trigger: 'axis' },
    }),
    table: {
      columns: ['Value', 'Share found %', 'Share right %', 'Days early', 'Found', 'Missed', 'Needless', 'Left alone'],
      rows: varied.map((v) => [
        v.value,
        percent(v.shareFound),
        percent(v.shareRight),
        v.lead,
        ...[v.counts.found, v.counts.missed, v.counts.needless, v.counts.leftAlone],
      ]),
    },
  };
}
