import { oneDecimal } from '@zest-bell/core/time';
import type { RuleNumber } from '@zest-bell/core/rules';
import type { VariedHindsight } from '@zest-bell/core/exchange';
import type { ChartCardProps } from '../../parts/charts/ChartCard.tsx';
import { titleOf, valuesOption } from '../../parts/charts/valuesChart.ts';

const percent = (share: { readonly count: number; readonly of: number } | null): number | null =>
  share === null ? null : Math.round((1000 * share.count) / share.of) / 10;

/**
 * Share found, share found rightly and lead time for each value of one number; the rule's own value is marked. The sentence names
 * the value that finds four of five with the fewest warned needlessly, the highest of several.
 */
export function variedChart(varied: readonly VariedHindsight[], number: RuleNumber): Omit<ChartCardProps, 'fileName'> {
  const enough = varied
    .filter((v) => (percent(v.shareFound) ?? 0) >= 80)
    .toSorted((a, b) => a.counts.needless - b.counts.needless || b.value - a.value)[0];
  const says = enough
    ? `At ${oneDecimal(enough.value)} the rule finds four of five or more, ${enough.lead === null ? 'at no known time' : `${oneDecimal(enough.lead)} days early`}, with ${enough.counts.needless} found who did fine.`
    : 'At none of these values does the rule find four of five.';
  return {
    title: titleOf(number),
    says,
    height: 280,
    option: (look) =>
      valuesOption(look, {
        says,
        number,
        tried: varied.map((v) => v.value),
        left: { max: 100, axisLabel: { color: look.faint, formatter: '{value}%' } },
        lines: [
          { name: 'found', data: varied.map((v) => percent(v.shareFound)) },
          { name: 'of those found, you worry about', data: varied.map((v) => percent(v.shareRight)) },
        ],
        days: { name: 'days early', data: varied.map((v) => v.lead) },
      }),
    table: {
      columns: [
        'Value',
        'Share found, %',
        'Of those found, you worry about, %',
        'Days early',
        'Found',
        'Missed',
        'Found, but did fine',
        'Not found, did fine',
      ],
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
