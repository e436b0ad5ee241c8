/** The time line drawn: a lane for each kind of thing, over the term or a part of it. A stretch that is dragged over is zoomed into. */
import { useEffect, useRef, useState, type PointerEvent } from 'react';
import { DAY, dayNumberOf, dayWords, weekdayIndex, type Instant } from '@zest-bell/core/time';
import { kindMask, PARTICIPATION, VISIT_EVIDENCE } from '@zest-bell/core/activity';
import type { StoryAct } from '@zest-bell/core/lookout';
import type { CourseHere } from '../../lib/here.ts';
import { LANE_WORDS, LANES, type TimelineEntry, type Lane } from './timeline.ts';

export interface TimeSpan {
  readonly from: Instant;
  readonly to: Instant;
}

/** Room for the names of the lanes, in pixels: less on a phone. */
const gutterOf = (whole: number): number => (whole < 460 ? 92 : 122);
const TALL: Readonly<Record<Lane, number>> = { activity: 34, work: 24, grades: 46, rules: 12, messages: 26, notes: 22 };
const GAP = 8;

export function TimelineChart(props: {
  readonly here: CourseHere;
  readonly acts: readonly StoryAct[];
  readonly entries: readonly TimelineEntry[];
  readonly lanes: ReadonlySet<Lane>;
  readonly span: TimeSpan;
  readonly selected: string | null;
  readonly onLane: (lane: Lane) => void;
  readonly onSpan: (span: TimeSpan) => void;
  readonly onSelect: (key: string) => void;
}) {
  const { here, entries, lanes, span, selected } = props;
  const frame = useRef<HTMLDivElement>(null);
  const [whole, setWhole] = useState(822);
  const gutter = gutterOf(whole);
  const width = Math.max(160, whole - gutter);
  const [drag, setDrag] = useState<readonly [number, number] | null>(null);
  useEffect(() => {
    const element = frame.current!;
    const fit = new ResizeObserver(() => setWhole(element.clientWidth));
    fit.observe(element);
    return () => fit.disconnect();
  }, []);
  const x = (t: Instant) => ((t - span.from) / (span.to - span.from)) * width;
  const inside = (e: TimelineEntry) => e.at <= span.to && (e.to === null ? span.to : (e.to ?? e.at)) >= span.from;
  const seen = entries.filter(inside);
  const rules = [...new Set(entries.filter((e) => e.lane === 'rules').map((e) => e.title))].sort();
  const tall = (lane: Lane) => (lane === 'rules' ? Math.max(1, rules.length) * TALL.rules + 4 : TALL[lane]);
  const takes = (lane: Lane) => (lanes.has(lane) ? tall(lane) : 20) + GAP;
  const topOf = (lane: Lane) => LANES.slice(0, LANES.indexOf(lane)).reduce((sum, above) => sum + takes(above), 0);
  const tops = Object.fromEntries(LANES.map((lane) => [lane, topOf(lane)])) as Record<Lane, number>;
  const height = topOf('notes') + takes('notes') + 18;
  const at = (e: PointerEvent) =>
    Math.max(0, Math.min(width, e.clientX - frame.current!.getBoundingClientRect().left - gutter));
  const instantAt = (px: number) => span.from + (px / width) * (span.to - span.from);
  const finish = () => {
    if (drag && Math.abs(drag[1] - drag[0]) > 12) {
      const [a, b] = [Math.min(...drag), Math.max(...drag)].map(instantAt);
      // A day at least stays in view.
      if (b! - a! >= DAY) props.onSpan({ from: a!, to: b! });
    }
    setDrag(null);
  };
  const mark = (e: TimelineEntry, cy: number, className: string, size = 13) => (
    <text
      key={e.key}
      x={x(e.at)}
      y={cy}
      textAnchor="middle"
      dominantBaseline="central"
      fontSize={selected === e.key ? size + 6 : size}
      className={`cursor-pointer ${className}`}
      onClick={() => props.onSelect(e.key)}
    >
      <title>{`${e.title}. ${e.detail}`}</title>
      {e.sign}
    </text>
  );
  const of = (lane: Lane) => (lanes.has(lane) ? seen.filter((e) => e.lane === lane) : []);
  return (
    <div ref={frame} className="relative overflow-hidden select-none" style={{ height }}>
      {LANES.map((lane) => (
        <button
          key={lane}
          type="button"
          aria-pressed={lanes.has(lane)}
          onClick={() => props.onLane(lane)}
          className="absolute left-0 truncate rounded px-1 text-left text-[13px] font-semibold text-ink-3 line-through hover:text-ink aria-pressed:text-ink-2 aria-pressed:no-underline"
          style={{ top: tops[lane], width: gutter - 8, height: 20 }}
        >
          {LANE_WORDS[lane]}
        </button>
      ))}
      <svg
        width={width}
        height={height}
        className="absolute top-0 touch-pan-y overflow-hidden"
        style={{ left: gutter }}
        role="img"
        aria-label={`Time line from ${dayWords(span.from, here.course.timeZone)} to ${dayWords(span.to, here.course.timeZone)}; every entry is in the list below`}
        onPointerDown={(e) => setDrag([at(e), at(e)])}
        onPointerMove={(e) => drag && setDrag([drag[0], at(e)])}
        onPointerUp={finish}
        onPointerLeave={finish}
      >
        <Weeks here={here} span={span} x={x} height={height} />
        {lanes.has('activity') && <Activity {...{ here, x, span }} acts={props.acts} top={tops.activity} />}
        {of('work').map((e) =>
          mark(
            e,
            tops.work + TALL.work / 2,
            e.sign === '▲' ? 'fill-tangerine' : e.sign === '◷' ? 'fill-brass' : 'fill-pine',
          ),
        )}
        {of('grades').map((e) => {
          const up = (percent: number) =>
            tops.grades + TALL.grades - 4 - (Math.min(100, percent) / 100) * (TALL.grades - 8);
          return e.score === undefined ? null : (
            <g key={e.key} className="cursor-pointer" onClick={() => props.onSelect(e.key)}>
              <title>{`${e.title}, ${e.detail}`}</title>
              {e.classMean !== undefined && (
                <line
                  x1={x(e.at) - 6}
                  x2={x(e.at) + 6}
                  y1={up(e.classMean)}
                  y2={up(e.classMean)}
                  className="stroke-brass"
                  strokeWidth={2}
                />
              )}
              <circle cx={x(e.at)} cy={up(e.score)} r={selected === e.key ? 6 : 4} className="fill-pine" />
            </g>
          );
        })}
        {of('rules').map((e) => {
          const left = Math.max(0, x(e.at));
          const right = Math.min(x(here.now), e.to == null ? x(here.now) : x(e.to));
          return (
            <rect
              key={e.key}
              x={left}
              y={tops.rules + rules.indexOf(e.title) * TALL.rules}
              width={Math.max(2, right - left)}
              height={TALL.rules - 4}
              rx={3}
              className={`cursor-pointer ${selected === e.key ? 'fill-ink' : 'fill-strip-bar'}`}
              onClick={() => props.onSelect(e.key)}
            >
              <title>{`${e.title}, ${e.detail}`}</title>
            </rect>
          );
        })}
        {of('messages').map((e) =>
          mark(
            e,
            tops.messages + TALL.messages / 2,
            e.sign === '✉' || e.sign === '◆' ? 'fill-iris' : 'fill-ink',
            e.sign === '↩' || e.sign === '✉' ? 16 : 13,
          ),
        )}
        {of('notes').map((e) => mark(e, tops.notes + TALL.notes / 2, 'fill-brass'))}
        {here.now >= span.from && here.now <= span.to && (
          <line x1={x(here.now)} x2={x(here.now)} y1={0} y2={height - 16} className="stroke-ink" strokeWidth={1.5} />
        )}
        {drag && (
          <rect
            x={Math.min(...drag)}
            width={Math.abs(drag[1] - drag[0])}
            y={0}
            height={height}
            className="fill-zest opacity-30"
          />
        )}
      </svg>
    </div>
  );
}

/** Where weeks begin, and which; breaks are shaded. */
function Weeks(props: {
  readonly here: CourseHere;
  readonly span: TimeSpan;
  readonly x: (t: Instant) => number;
  readonly height: number;
}) {
  const { here, span, x, height } = props;
  const { calendar, start, breaks } = here.course;
  const first = dayNumberOf(start);
  const monday = first - weekdayIndex(first);
  const weeks = [];
  const wide = x(span.from + 7 * DAY) - x(span.from);
  const each = Math.max(1, Math.ceil(44 / Math.max(1, wide)));
  for (let w = 0; ; w++) {
    const t = calendar.zone.toInstant((monday + 7 * w) * DAY);
    if (t > span.to) break;
    if (t < span.from - 7 * DAY) continue;
    weeks.push(
      <g key={w}>
        <line x1={x(t)} x2={x(t)} y1={0} y2={height - 16} className="stroke-line" />
        {w % each === 0 && (
          <text x={x(t) + 3} y={height - 4} fontSize={12} className="fill-ink-3">
            {`wk ${w + 1}`}
          </text>
        )}
      </g>,
    );
  }
  return (
    <g aria-hidden>
      {breaks.map((b) => {
        const from = x(calendar.zone.toInstant(dayNumberOf(b.from) * DAY));
        const to = x(calendar.zone.toInstant((dayNumberOf(b.to) + 1) * DAY));
        return (
          <rect
            key={b.from}
            x={from}
            width={Math.max(0, to - from)}
            y={0}
            height={height - 16}
            className="fill-line opacity-40"
          />
        );
      })}
      {weeks}
    </g>
  );
}

/** How much they did each day; solid where they did some work. */
function Activity(props: {
  readonly here: CourseHere;
  readonly acts: readonly StoryAct[];
  readonly span: TimeSpan;
  readonly top: number;
  readonly x: (t: Instant) => number;
}) {
  const { here, acts, span, top, x } = props;
  const { calendar } = here.course;
  const days = new Map<number, { events: number; work: boolean }>();
  for (const a of acts) {
    const kind = kindMask(a.kind);
    if (a.at < span.from || a.at > span.to || (kind & VISIT_EVIDENCE) === 0) continue;
    const day = calendar.dayNumber(a.at);
    const of = days.get(day) ?? { events: 0, work: false };
    const work = of.work || (kind & PARTICIPATION) !== 0;
    days.set(day, { events: of.events + 1, work });
  }
  return (
    <g aria-hidden>
      {[...days].map(([day, { events, work }]) => {
        const from = x(calendar.zone.toInstant(day * DAY));
        const wide = x(calendar.zone.toInstant((day + 1) * DAY)) - from;
        const tall = Math.min(TALL.activity, 5 + Math.sqrt(events) * 7);
        return (
          <rect
            key={day}
            x={from + 0.5}
            width={Math.max(1.5, wide - 1)}
            y={top + TALL.activity - tall}
            height={tall}
            className={work ? 'fill-iris' : 'fill-[#7fae46]'}
          />
        );
      })}
    </g>
  );
}
