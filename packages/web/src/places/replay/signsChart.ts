/** How well the best signs told, week by week. */
import { conditionSentence } from '@zest-bell/core/conditions';
import type { Course } from '@zest-bell/core/course';
import type { Signs } from '@zest-bell/core/outcomes';
import type { ChartCardProps } from '../../parts/charts/ChartCard.tsx';
import { base, values } from '../../parts/charts/look.ts';

const percent = (j: number): number => Math.round(1000 * j) / 10;

export function signsChart({ signs, weekly }: Signs, course: Course): Omit<ChartCardProps, 'fileName'> | null {
  const weeks = weekly[0]?.length ?? 0;
  if (weeks < 2) return null;
  const lines = weekly.map((js, i) => ({ name: conditionSentence(signs[i]!.condition, course), js: js.map(percent) }));
  const best = lines[0]!;
  const says = `“${best.name}” scored ${best.js[0]} points in week 1 and ${best.js.at(-1)} in week ${weeks}. Points: the share found of those you worry about, minus the share found of those who did fine.`;
  return {
    title: 'Week by week',
    says,
    height: 260,
    option: (look) => ({
      ...base(look, says),
      grid: { left: 44, right: 16, top: 12, bottom: 76 },
      legend: { bottom: 0, type: 'scroll', textStyle: { color: look.ink } },
      xAxis: {
        type: 'category',
        data: Array.from({ length: weeks }, (_, i) => `wk ${i + 1}`),
        axisLabel: { color: look.faint },
      },
      yAxis: values(look),
      series: lines.map(({ name, js }) => ({ type: 'line', name, data: js, symbolSize: 7 })),
    }),
    table: {
      columns: ['Week', ...lines.map((l) => l.name)],
      rows: Array.from({ length: weeks }, (_, w) => [w + 1, ...lines.map((l) => l.js[w]!)]),
    },
  };
}
