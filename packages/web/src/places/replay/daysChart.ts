import { dateWords, plural } from '@zest-bell/core/time';
import type { ReplayAnswer } from '@zest-bell/core/exchange';
import type { ChartCardProps } from '../../parts/charts/ChartCard.tsx';
import { base, names, values, type ChartStyle } from '../../parts/charts/look.ts';

/** Nudges a day: sent, waiting for the instructor, held back. */
export function daysChart(seen: ReplayAnswer): Omit<ChartCardProps, 'fileName'> {
  const { days, busiest } = seen;
  const says = busiest
    ? `Most on ${dateWords(busiest.day)}: ${plural(busiest.nudges, 'nudge')}.`
    : 'No day has a nudge.';
  const bar = (look: ChartStyle, name: string, color: string, key: 'nudges' | 'held' | 'heldBack') => ({
    type: 'bar' as const,
    stack: 'all',
    name,
    barCategoryGap: '25%',
    itemStyle: { color },
    data: days.map((d) => d[key]),
  });
  return {
    title: 'Day by day',
    says,
    height: 220,
    option: (look) => ({
      ...base(look, says),
      xAxis: names(
        look,
        days.map((d) => dateWords(d.day)),
      ),
      yAxis: values(look, { minInterval: 1 }),
      series: [
        bar(look, 'nudged', look.pine, 'nudges'),
        bar(look, 'waiting for you', look.iris, 'held'),
        bar(look, 'held back', look.quiet, 'heldBack'),
      ],
      tooltip: { ...base(look, says).tooltip, trigger: 'axis' },
    }),
    table: {
      columns: ['Day', 'Nudged', 'Waiting for you', 'Held back'],
      rows: days.map((d) => [d.day, d.nudges, d.held, d.heldBack]),
    },
  };
}
