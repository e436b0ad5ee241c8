/** Our own look for charts: the colors and fonts of the page, as they are in light or dark. */
import type { EChartsOption } from 'echarts';

export interface ChartStyle {
  readonly ink: string;
  readonly faint: string;
  readonly line: string;
  readonly sheet: string;
  readonly pine: string;
  readonly quiet: string;
  readonly tangerine: string;
  readonly iris: string;
  readonly brass: string;
  readonly zest: string;
  readonly body: string;
  /** Where names along an axis have no room side by side. */
  readonly narrow: boolean;
}

export function lookOfPage(): ChartStyle {
  const style = getComputedStyle(document.documentElement);
  const read = (name: string) => style.getPropertyValue(name).trim();
  return {
    ink: read('--ink'),
    faint: read('--ink-2'),
    line: read('--line'),
    sheet: read('--sheet'),
    pine: read('--pine'),
    quiet: read('--dot-quiet'),
    tangerine: read('--tangerine'),
    iris: read('--iris'),
    brass: read('--brass'),
    zest: read('--strip-bar'),
    body: getComputedStyle(document.body).fontFamily,
    narrow: window.innerWidth < 760,
  };
}

/** What every chart of ours has: no motion, quiet axes, tips drawn on the chart itself, patterns beside colors. */
export function base(look: ChartStyle, description: string): EChartsOption {
  return {
    animation: false,
    backgroundColor: 'transparent',
    textStyle: { fontFamily: look.body, color: look.ink, fontSize: 13 },
    grid: { left: 44, right: 16, top: 34, bottom: 28 },
    aria: { enabled: true, label: { description }, decal: { show: true } },
    tooltip: {
      renderMode: 'richText',
      confine: true,
      backgroundColor: look.sheet,
      borderColor: look.line,
      textStyle: { color: look.ink, fontFamily: look.body, fontSize: 13 },
    },
    legend: { top: 0, left: 0, itemWidth: 16, itemHeight: 10, textStyle: { color: look.faint, fontSize: 13 } },
  };
}

/** A quiet axis of values. */
export const values = (look: ChartStyle, more: object = {}) => ({
  type: 'value' as const,
  axisLabel: { color: look.faint },
  splitLine: { lineStyle: { color: look.line } },
  ...more,
});

/** An axis of names or days. */
export const names = (look: ChartStyle, data: readonly string[], more: object = {}) => ({
  type: 'category' as const,
  data: [...data],
  axisLabel: { color: look.faint },
  axisTick: { show: false },
  axisLine: { lineStyle: { color: look.faint } },
  ...more,
});

/** For things told apart by shape or place already. */
export const NO_PATTERN = { symbol: 'none' };

/** A line where the axis of names says what is so today. */
export const markOwn = (look: ChartStyle, place: number) =>
  place < 0
    ? {}
    : {
        markLine: {
          symbol: 'none',
          silent: true,
          lineStyle: { color: look.ink, type: 'dotted' as const },
          label: { formatter: 'as it is', color: look.faint },
          data: [{ xAxis: place }],
        },
      };
