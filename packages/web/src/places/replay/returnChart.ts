/** Time to return as curves: which share came back by when, each with its band where there is room for it. */
import { numberWords, oneDecimal, plural } from '@zest-bell/core/time';
import { medianOf, RISK_DAYS, type CurvePoint } from '@zest-bell/core/outcomes';
import type { EChartsOption, LineSeriesOption } from 'echarts';
import type { ChartCardProps } from '../../parts/charts/ChartCard.tsx';
import { base, NO_PATTERN, values, type ChartStyle } from '../../parts/charts/look.ts';

export interface ReturnLine {
  readonly name: string;
  readonly curve: readonly CurvePoint[];
  readonly atRisk: readonly number[];
  /** Spells in which nobody wrote: drawn dashed. */
  readonly compared: boolean;
}

/** The longest that is drawn: after four weeks hardly anything is known. */
const LAST_DAY = RISK_DAYS.at(-1)!;
/** Points of a line that are drawn; a step more or less is not seen. */
const MOST_POINTS = 400;
const SYMBOLS = ['circle', 'diamond', 'triangle', 'rect', 'roundRect'] as const;

/** Share that came back, in percent: the other way round than a survival curve, as one hopes for it. */
const back = (share: number): number => Math.round((1 - share) * 1000) / 10;

function drawn(curve: readonly CurvePoint[]): readonly CurvePoint[] {
  const inside = curve.filter((p) => p.days <= LAST_DAY);
  const every = Math.ceil(inside.length / MOST_POINTS);
  return inside.filter((_, i) => i % every === 0 || i === inside.length - 1);
}

/** Until when a line is known: nobody is counted any more afterwards. */
function end({ curve, atRisk }: ReturnLine): number {
  const still = RISK_DAYS.filter((_, i) => atRisk[i]! > 0);
  return Math.max(0, ...still, ...drawn(curve).map((p) => p.days));
}

export function returnChart(lines: readonly ReturnLine[]): Omit<ChartCardProps, 'fileName'> {
  const says = lines.map(halfWords).join(' ');
  return {
    title: 'How soon students came back',
    says,
    height: 300,
    option: (look) => optionOf(lines, look, says),
    table: {
      columns: ['Line', 'Day', 'Not back yet before it', 'Came back then', 'Came back by then %', 'From %', 'To %'],
      rows: lines.flatMap((l) =>
        l.curve.map((p) => [
          ...[l.name, numberWords(p.days), p.atRisk, p.acts],
          ...[back(p.survival), back(p.high), back(p.low)],
        ]),
      ),
    },
  };
}

function halfWords({ name, curve, atRisk }: ReturnLine): string {
  const of = atRisk[0] ?? 0;
  const half = medianOf(curve);
  const last = curve.at(-1);
  if (of === 0) return `${name}: nobody is counted yet.`;
  if (!last) return `${name}: nobody came back so far, of ${of}.`;
  return half === null
    ? `${name}: ${oneDecimal(back(last.survival))}% came back within ${plural(Number(oneDecimal(last.days)), 'day')}.`
    : `${name}: half came back within ${plural(Number(oneDecimal(half)), 'day')}.`;
}

function optionOf(lines: readonly ReturnLine[], look: ChartStyle, says: string): EChartsOption {
  const colors = [look.pine, look.iris, look.brass, look.tangerine];
  const common = base(look, says);
  return {
    ...common,
    // The band is no line of its own: it is not in the legend.
    legend: { ...(common.legend as object), data: lines.map((l) => l.name) },
    grid: { left: 48, right: 20, top: 56, bottom: 44 },
    xAxis: {
      ...values(look, { name: 'days after the nudge', nameLocation: 'middle', nameGap: 28 }),
      nameTextStyle: { color: look.faint },
      splitLine: { show: false },
      min: 0,
      max: LAST_DAY,
      interval: 7,
    },
    yAxis: values(look, { min: 0, max: 100, axisLabel: { color: look.faint, formatter: '{value}%' } }),
    series: lines.flatMap((line, i): LineSeriesOption[] => {
      const color = line.compared ? look.faint : colors[i % colors.length]!;
      const points = drawn(line.curve);
      const last = points.at(-1);
      const until = end(line);
      const path = (of: (p: CurvePoint) => number): [number, number][] => [
        [0, 0],
        ...points.map((p): [number, number] => [p.days, of(p)]),
        ...(last && until > last.days ? [[until, of(last)] as [number, number]] : []),
      ];
      const step = { type: 'line' as const, step: 'end' as const, silent: true };
      const band = {
        ...step,
        stack: `band ${i}`,
        symbol: 'none',
        lineStyle: { opacity: 0 },
        tooltip: { show: false },
        name: `${line.name} band`,
      };
      return [
        { ...band, data: path((p) => back(p.high)) },
        {
          ...band,
          areaStyle: { color, opacity: line.compared ? 0.08 : 0.14 },
          itemStyle: { color, decal: NO_PATTERN },
          data: path((p) => back(p.low) - back(p.high)),
        },
        {
          ...step,
          name: line.name,
          symbol: SYMBOLS[i % SYMBOLS.length]!,
          symbolSize: 6,
          showAllSymbol: false,
          lineStyle: { color, width: 2.5, type: line.compared ? 'dashed' : 'solid' },
          itemStyle: { color },
          data: path((p) => back(p.survival)),
        },
      ];
    }),
    tooltip: { ...common.tooltip, trigger: 'axis' },
  };
}
