import type { ChartStyle } from '../parts/charts/look.ts';

/** Colors by their names, so that a chart says which it uses. */
export const look: ChartStyle = {
  ink: 'ink',
  faint: 'faint',
  line: 'line',
  sheet: 'sheet',
  pine: 'pine',
  quiet: 'quiet',
  tangerine: 'tangerine',
  iris: 'iris',
  brass: 'brass',
  zest: 'zest',
  body: 'body',
  narrow: false,
};

/** The data of each series of a chart's option, by name. */
export function seriesOf(option: object): Record<string, unknown> {
  const { series } = option as { series: readonly { name?: string; type: string; data: unknown }[] };
  return Object.fromEntries(series.map((s, i) => [s.name ?? `${s.type} ${i}`, s.data]));
}
