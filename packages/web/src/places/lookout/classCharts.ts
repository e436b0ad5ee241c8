/** The charts of the class overview: what each shows, in a sentence, and the table behind it. */
import { dayWords, dateWords, numberWords, percentWords, plural } from '@zest-bell/core/time';
import type { Course } from '@zest-bell/core/course';
import { quartilesOf } from '@zest-bell/core/outcomes';
import type { ClassOverview, ItemSubmissions } from '@zest-bell/core/lookout';
import { base, names, NO_PATTERN, values, type ChartStyle } from '../../parts/charts/look.ts';
import type { ChartCardProps } from '../../parts/charts/ChartCard.tsx';

type DrawnChart = Omit<ChartCardProps, 'fileName'>;

const titleOf = (course: Course, id: string): string => course.items[course.itemIndex.get(id) ?? -1]?.title ?? id;
const one = (n: number): number => Math.round(n * 10) / 10;
/** Room for a row of an item, and what is around all rows, in pixels. */
const ROW = 26;
const AROUND = 64;
/** Items one below the other, each with its whole title where there is room. */
const itemsAxis = (look: ChartStyle, course: Course, ids: readonly string[]) =>
  names(
    look,
    ids.map((id) => titleOf(course, id)),
    {
      inverse: true,
      axisLabel: {
        color: look.faint,
        interval: 0,
        fontSize: 12.5,
        width: look.narrow ? 96 : 186,
        overflow: 'truncate' as const,
      },
    },
  );
/** An axis of students that ends with the class: round numbers, and the last where it has room. */
function countsTo(look: ChartStyle, most: number): object {
  const step = [1, 2, 5, 10, 20, 50, 100, 200, 500].find((s) => most / s <= 6) ?? 1000;
  const ticks = Array.from({ length: Math.ceil(most / step) }, (_, i) => i * step).filter((t) => most - t > step / 2);
  const customValues = [...ticks, most];
  return {
    max: most,
    axisTick: { customValues },
    axisLabel: { customValues, color: look.faint },
    minorTick: { show: false },
  };
}
const itemsLeft = (look: ChartStyle): number => (look.narrow ? 108 : 198);

/** Each dot is a student; the box holds the middle half, its line is the median. */
export function scoresChart({ scores }: ClassOverview, course: Course): DrawnChart {
  const titles = scores.map((s) => titleOf(course, s.item));
  const lowest = scores.toSorted((a, b) => a.spread.median - b.spread.median)[0];
  const says = lowest
    ? `Lowest median: ${titleOf(course, lowest.item)} with ${percentWords(lowest.spread.median)}. Each dot is a student; a box holds the middle half of the class.`
    : 'Nothing is graded yet.';
  return {
    title: 'Scores on each item',
    says,
    height: Math.max(160, AROUND + scores.length * ROW),
    option: (look) => ({
      ...base(look, says),
      legend: { show: false },
      grid: { left: itemsLeft(look), right: 16, top: 8, bottom: 28 },
      yAxis: itemsAxis(
        look,
        course,
        scores.map((s) => s.item),
      ),
      xAxis: values(look, { min: 0, max: 100, axisLabel: { color: look.faint, formatter: '{value}%' } }),
      series: [
        {
          type: 'scatter',
          symbolSize: 5,
          silent: true,
          itemStyle: { color: look.faint, opacity: 0.6, decal: NO_PATTERN },
          data: scores.flatMap((s, i) => s.scores.map((score): [number, number] => [score, i])),
          // Above the box, so that neither hides the other.
          symbolOffset: [0, -8],
        },
        {
          type: 'boxplot',
          boxWidth: [6, 10],
          itemStyle: { color: look.sheet, borderColor: look.pine, borderWidth: 1, decal: NO_PATTERN },
          data: scores.map(({ spread: q }) => [q.low, q.q1, q.median, q.q3, q.high].map(one)),
          tooltip: {
            formatter: (raw) => {
              const { dataIndex } = raw as { dataIndex: number };
              const { spread: q, mean, scores: all } = scores[dataIndex]!;
              return `${titles[dataIndex]}\nmedian ${percentWords(q.median)}, mean ${percentWords(mean)}\n${percentWords(q.q1)} to ${percentWords(q.q3)}: the middle half\n${plural(all.length, 'student')}`;
            },
          },
        },
      ],
      tooltip: { ...base(look, says).tooltip, trigger: 'item' },
    }),
    table: {
      columns: [
        'Item',
        'Graded',
        'Mean %',
        'Lowest %',
        'First quartile %',
        'Median %',
        'Third quartile %',
        'Highest %',
      ],
      rows: scores.map(({ item, scores: all, mean, spread: q }) => [
        titleOf(course, item),
        all.length,
        ...[mean, q.low, q.q1, q.median, q.q3, q.high].map(one),
      ]),
    },
  };
}

const whole = (s: ItemSubmissions): number => s.onTime + s.late + s.missing + s.open;

/** On time, late, missing and not due yet, item by item. */
export function submissionsChart({ submissions }: ClassOverview, course: Course): DrawnChart {
  // Attendance is not turned in.
  const ordered = submissions
    .filter((s) => course.items[course.itemIndex.get(s.item) ?? -1]?.kind !== 'session')
    .toSorted((a, b) => (a.due ?? Infinity) - (b.due ?? Infinity));
  const most = ordered.toSorted((a, b) => b.missing - a.missing)[0];
  const says =
    most && most.missing > 0
      ? `Most is missing on ${titleOf(course, most.item)}: ${most.missing} of ${plural(whole(most), 'student')}.`
      : 'Nothing is missing.';
  // Only what is missing has a pattern: three of them at once are hard to look at.
  const bar = (look: ChartStyle, name: string, color: string, key: 'onTime' | 'late' | 'missing' | 'open') => ({
    type: 'bar' as const,
    stack: 'all',
    name,
    barMaxWidth: 16,
    itemStyle: { color, borderColor: look.sheet, borderWidth: 1, ...(key === 'missing' ? {} : { decal: NO_PATTERN }) },
    data: ordered.map((s) => s[key]),
  });
  return {
    title: 'Turned in, by item',
    says,
    height: Math.max(160, AROUND + 12 + ordered.length * ROW),
    option: (look) => ({
      ...base(look, says),
      grid: { left: itemsLeft(look), right: 16, top: 34, bottom: 28 },
      yAxis: itemsAxis(
        look,
        course,
        ordered.map((s) => s.item),
      ),
      xAxis: values(look, countsTo(look, Math.max(1, ...ordered.map(whole)))),
      // What is missing begins at the zero line, where it can be compared.
      series: [
        bar(look, 'missing', look.tangerine, 'missing'),
        bar(look, 'late', look.brass, 'late'),
        bar(look, 'on time', look.pine, 'onTime'),
        bar(look, 'not yet', look.quiet, 'open'),
      ],
      tooltip: { ...base(look, says).tooltip, trigger: 'axis' },
    }),
    table: {
      columns: ['Item', 'Due', 'On time', 'Late', 'Missing', 'Not yet'],
      rows: ordered.map((s) => [
        titleOf(course, s.item),
        s.due === null ? null : dayWords(s.due, course.timeZone),
        ...[s.onTime, s.late, s.missing, s.open],
      ]),
    },
  };
}

/** Hours before the due instant, in stretches that people think in. */
const STRETCHES: readonly (readonly [name: string, from: number, to: number])[] = [
  ['over 3 days early', 72, Infinity],
  ['1 to 3 days early', 24, 72],
  ['6 to 24 hours early', 6, 24],
  ['the last 6 hours', 0, 6],
  ['up to 1 day late', -24, 0],
  ['1 to 3 days late', -72, -24],
  ['over 3 days late', -Infinity, -72],
];

export function timingChart({ submissions }: ClassOverview): DrawnChart {
  const hours = submissions.flatMap((s) => s.hoursEarly);
  const counts = STRETCHES.map(([, from, to]) => hours.filter((h) => h >= from && h < to).length);
  const sorted = hours.toSorted((a, b) => a - b);
  const median = quartilesOf(sorted)?.median;
  const says =
    median === undefined
      ? 'Nothing was turned in yet.'
      : `Half of the work came in at least ${plural(Math.max(0, Math.round(median)), 'hour')} before it was due.`;
  return {
    title: 'When work comes in',
    says,
    option: (look) => ({
      ...base(look, says),
      legend: { show: false },
      grid: { left: 44, right: 12, top: 12, bottom: look.narrow ? 84 : 44 },
      xAxis: names(
        look,
        STRETCHES.map(([name]) => name),
        {
          axisLabel: {
            color: look.faint,
            interval: 0,
            ...(look.narrow ? { rotate: 40, fontSize: 11 } : { width: 66, overflow: 'break' }),
          },
        },
      ),
      yAxis: values(look),
      series: [
        {
          type: 'bar',
          barMaxWidth: 44,
          data: counts.map((value, i) => ({ value, itemStyle: { color: i < 4 ? look.pine : look.brass } })),
        },
      ],
      tooltip: { ...base(look, says).tooltip, trigger: 'axis' },
    }),
    table: {
      columns: ['Turned in', 'Times', 'Share %'],
      rows: STRETCHES.map(([name], i) => [
        name,
        counts[i]!,
        hours.length === 0 ? null : one((100 * counts[i]!) / hours.length),
      ]),
    },
  };
}

export function daysChart({ days, students }: ClassOverview, course: Course): DrawnChart {
  const week = days.slice(-7);
  const mean = week.length === 0 ? 0 : week.reduce((sum, d) => sum + d.active, 0) / week.length;
  const says = `In the last 7 days, ${numberWords(Math.round(mean))} of ${plural(students, 'student')} were active on a typical day.`;
  return {
    title: 'Active students, day by day',
    says,
    option: (look) => ({
      ...base(look, says),
      xAxis: names(
        look,
        days.map((d) => dateWords(d.day)),
      ),
      yAxis: values(look),
      series: [
        {
          type: 'bar',
          name: 'in the course',
          barCategoryGap: '20%',
          itemStyle: { color: look.zest, decal: NO_PATTERN },
          data: days.map((d) => d.active),
          markArea: {
            silent: true,
            itemStyle: { color: look.quiet, opacity: 0.35 },
            data: course.breaks
              .filter((b) => b.to <= (days.at(-1)?.day ?? ''))
              .map((b): [object, object] => [
                { xAxis: dateWords(b.from), name: b.name ?? 'break' },
                { xAxis: dateWords(b.to) },
              ]),
          },
        },
        {
          type: 'line',
          name: 'did some work',
          symbol: 'none',
          lineStyle: { color: look.iris, width: 2 },
          itemStyle: { color: look.iris },
          data: days.map((d) => d.working),
        },
      ],
      tooltip: { ...base(look, says).tooltip, trigger: 'axis' },
    }),
    table: {
      columns: ['Day', 'Active students', 'Did some work', 'Events'],
      rows: days.map((d) => [d.day, d.active, d.working, d.events]),
    },
  };
}

/** The same week by week: a student counts once in each, however many days they came. */
export function weeksChart({ weeks, students }: ClassOverview): DrawnChart {
  const [before, last] = [weeks.at(-2), weeks.at(-1)];
  const says =
    last === undefined
      ? 'The term has not begun.'
      : `In week ${last.week}, ${plural(last.active, 'student')} of ${numberWords(students)} ${last.active === 1 ? 'was' : 'were'} active so far${before ? `, ${numberWords(before.active)} in week ${before.week}` : ''}.`;
  const span = (w: (typeof weeks)[number]) => `${dateWords(w.from)} to ${dateWords(w.to)}`;
  return {
    title: 'Active students, week by week',
    says,
    option: (look) => ({
      ...base(look, says),
      xAxis: names(
        look,
        weeks.map((w) => `wk ${w.week}`),
      ),
      yAxis: values(look),
      series: [
        {
          type: 'bar',
          name: 'in the course',
          barCategoryGap: '30%',
          itemStyle: { color: look.zest, decal: NO_PATTERN },
          data: weeks.map((w) => w.active),
        },
        {
          type: 'bar',
          name: 'did some work',
          itemStyle: { color: look.iris, decal: NO_PATTERN },
          data: weeks.map((w) => w.working),
        },
      ],
      tooltip: { ...base(look, says).tooltip, trigger: 'axis' },
    }),
    table: {
      columns: ['Week', 'Days', 'Active students', 'Did some work', 'Events'],
      rows: weeks.map((w) => [w.week, span(w), w.active, w.working, w.events]),
    },
  };
}

const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const;
const hourName = (h: number): string => `${h % 12 === 0 ? 12 : h % 12} ${h < 12 ? 'AM' : 'PM'}`;

export function hoursChart({ hours }: ClassOverview): DrawnChart {
  const cells = hours.flatMap((row, day) => row.map((n, hour): [number, number, number] => [hour, day, n]));
  const top = cells.toSorted((a, b) => b[2] - a[2])[0];
  const most = top?.[2] ?? 0;
  const says =
    most === 0 ? 'Nobody was in the course yet.' : `The busiest hour is ${WEEKDAYS[top![1]]} at ${hourName(top![0])}.`;
  return {
    title: 'Activity by hour of the week',
    says,
    option: (look) => ({
      ...base(look, says),
      legend: { show: false },
      grid: { left: 44, right: 12, top: 8, bottom: 28 },
      xAxis: names(
        look,
        Array.from({ length: 24 }, (_, h) => hourName(h)),
        { axisLabel: { color: look.faint, interval: 2 } },
      ),
      yAxis: names(look, WEEKDAYS, { inverse: true }),
      visualMap: { show: false, min: 0, max: Math.max(1, most), inRange: { color: [look.sheet, look.pine] } },
      series: [
        { type: 'heatmap', data: cells, itemStyle: { borderColor: look.line, borderWidth: 1, decal: NO_PATTERN } },
      ],
      tooltip: {
        ...base(look, says).tooltip,
        formatter: (raw) => {
          const [hour, day, n] = (raw as unknown as { data: [number, number, number] }).data;
          return `${WEEKDAYS[day]} ${hourName(hour)}: ${plural(n, 'event')}`;
        },
      },
    }),
    table: {
      columns: ['Hour', ...WEEKDAYS],
      rows: Array.from({ length: 24 }, (_, h) => [hourName(h), ...hours.map((row) => row[h]!)]),
    },
  };
}

export function waitingChart({ waiting }: ClassOverview, course: Course): DrawnChart {
  const all = waiting.reduce((sum, w) => sum + w.waiting, 0);
  const longest = Math.max(0, ...waiting.flatMap((w) => w.days));
  const says =
    all === 0
      ? 'Everything that was turned in is graded.'
      : `${plural(all, 'submission')} ${all === 1 ? 'waits' : 'wait'} for a grade, the longest for ${plural(longest, 'day')}.`;
  const ordered = waiting.toSorted((a, b) => b.days.at(-1)! - a.days.at(-1)!);
  return {
    title: 'Waiting for a grade',
    says,
    height: Math.max(120, 56 + ordered.length * 34),
    option: (look) => ({
      ...base(look, says),
      legend: { show: false },
      grid: { left: itemsLeft(look), right: 60, top: 8, bottom: 28 },
      xAxis: values(look, { minInterval: 1 }),
      yAxis: itemsAxis(
        look,
        course,
        ordered.map((w) => w.item),
      ),
      series: [
        {
          type: 'bar',
          barMaxWidth: 22,
          itemStyle: { color: look.tangerine },
          data: ordered.map((w) => w.waiting),
          label: {
            show: true,
            position: 'right',
            color: look.faint,
            formatter: ({ dataIndex }: { dataIndex: number }) =>
              `up to ${plural(ordered[dataIndex]!.days.at(-1)!, 'day')}`,
          },
        },
      ],
      tooltip: { ...base(look, says).tooltip, trigger: 'axis' },
    }),
    table: {
      columns: ['Item', 'Waiting', 'Median days', 'Longest, days'],
      rows: ordered.map((w) => [titleOf(course, w.item), w.waiting, one(quartilesOf(w.days)!.median), w.days.at(-1)!]),
    },
  };
}
