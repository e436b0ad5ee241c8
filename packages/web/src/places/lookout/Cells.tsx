/** Cells of the table: each value as its unit reads, with the class beside it where that says something. */
import { dayNumberOf, dayWords, numberWords, plural, type Instant } from '@zest-bell/core/time';
import type { DailyActivity } from '@zest-bell/core/activity';
import type { Value } from '@zest-bell/core/measures';
import { KNOWN_AFTER } from '@zest-bell/core/outcomes';
import type { Distribution, LookoutColumn, StudentLog } from '@zest-bell/core/lookout';
import { Link } from 'react-router';
import type { CourseHere } from '../../lib/here.ts';
import { Chip } from '../../ui/Chip.tsx';

interface CellProps {
  readonly column: LookoutColumn;
  readonly value: Value;
  readonly distribution: Distribution;
  /** How many decimals the numbers of the column have. */
  readonly decimals: number;
}

/** Not known. */
const FAINT = <span className="ml-auto text-ink-3">–</span>;

export function Cell({ column, value, distribution, decimals }: CellProps) {
  if (value === null) return FAINT;
  if (typeof value === 'boolean') return value ? <>yes</> : <span className="text-ink-2">no</span>;
  if (typeof value === 'string') return <span className="truncate">{value}</span>;
  const figure = decimals === 0 ? numberWords(value) : value.toFixed(decimals);
  if (column.kind !== 'measure') return <Numeral of={value}>{figure}</Numeral>;
  switch (column.call.measure) {
    case 'missing':
      return (
        <>
          <span aria-hidden className="w-5 flex-none text-[11px] text-tangerine-text">
            {value > 0 ? '▲' : ''}
          </span>
          <Numeral of={value}>{figure}</Numeral>
        </>
      );
    case 'courseGrade':
    case 'score':
    case 'groupGrade':
    case 'latestScore':
    case 'onTimeShare':
    case 'share':
      return (
        <>
          <Bar value={value} mean={distribution.kind === 'numbers' ? distribution.mean : null} />
          <Numeral of={null}>{figure}</Numeral>
        </>
      );
    case 'gradeVsClass':
    case 'gradeChange':
    case 'visitsVsClass':
    case 'visitsChange':
    case 'postsChange':
      return <Numeral of={value}>{value > 0 ? `+${figure}` : figure.replace('-', '−')}</Numeral>;
    case 'hoursUntilDue':
      return <Numeral of={value}>{numberWords(Math.round(value))}</Numeral>;
    default:
      return <Numeral of={value}>{figure}</Numeral>;
  }
}

/** On the right, so that digits stand below digits; none is fainter than some. */
const Numeral = ({ of, children }: { readonly of: number | null; readonly children: string }) => (
  <span className={`ml-auto tabular-nums ${of === 0 ? 'text-ink-3' : ''}`}>{children}</span>
);

function Bar({ value, mean }: { readonly value: number; readonly mean: number | null }) {
  const at = (percent: number) => `${Math.max(0, Math.min(100, percent))}%`;
  return (
    <span aria-hidden className="relative h-1.5 w-[60px] flex-none rounded-full bg-line">
      <span className="absolute inset-y-0 left-0 rounded-full bg-pine" style={{ width: at(value) }} />
      {mean !== null && (
        <span className="absolute -top-1 h-3.5 w-0.5 -translate-x-1/2 bg-brass" style={{ left: at(mean) }} />
      )}
    </span>
  );
}

const SPARK_DAYS = 28;
const SPARK_WIDTH = 118;
const SPARK_TALL = 22;

/** Four weeks of days up to the one that is looked at: what was done in the course, work in another color and solid. */
export function Sparkline(props: { readonly daily: DailyActivity; readonly person: number; readonly day: number }) {
  const { daily, person, day } = props;
  const last = day - dayNumberOf(daily.from);
  const step = SPARK_WIDTH / SPARK_DAYS;
  const days = Array.from({ length: SPARK_DAYS }, (_, i) => {
    const d = last - SPARK_DAYS + 1 + i;
    const cell = person * daily.days + d;
    return d < 0 || d >= daily.days ? null : { i, events: daily.events[cell]!, work: daily.work[cell]! };
  }).filter((d) => d !== null);
  const total = days.reduce((sum, d) => sum + d.events, 0);
  const active = days.filter((d) => d.events > 0).length;
  const bars = days.map(({ i, events, work }) => {
    const tall = events === 0 ? 1 : Math.min(SPARK_TALL, 4 + Math.sqrt(events) * 4.5);
    return (
      <rect
        key={i}
        x={i * step}
        y={SPARK_TALL - tall}
        width={step - 1}
        height={tall}
        fill={events === 0 ? 'var(--line-strong)' : work > 0 ? 'var(--iris)' : '#7fae46'}
      />
    );
  });
  return (
    <svg
      width={SPARK_WIDTH}
      height={SPARK_TALL}
      role="img"
      aria-label={`${plural(active, 'day')} with activity in four weeks, ${plural(total, 'event')}`}
    >
      {bars}
    </svg>
  );
}

/** The last nudge with what came of it. */
export function LastNudgeCell({
  here,
  at,
  log,
}: {
  readonly here: CourseHere;
  readonly at: Instant;
  readonly log: StudentLog | undefined;
}) {
  const last = log?.last;
  if (!last) return FAINT;
  const { calendar } = here.course;
  const ago = calendar.dayNumber(at) - calendar.dayNumber(last.at);
  const when = ago === 0 ? 'today' : `${ago} d ago`;
  const to = `/c/${here.id}/log?nudge=${last.nudge}`;
  if (last.state === 'held')
    return (
      <Link to={`/c/${here.id}/tray`} title={last.ruleName} className="min-w-0">
        <Chip tone="iris">Tray: {last.ruleName.length > 14 ? `${last.ruleName.slice(0, 13)}…` : last.ruleName}</Chip>
      </Link>
    );
  const days = last.returnedAt === null ? null : calendar.dayNumber(last.returnedAt) - calendar.dayNumber(last.at);
  // Anyone who was written to lately may yet come back.
  const open = at - last.at < KNOWN_AFTER;
  return (
    <Link
      to={to}
      title={`${last.ruleName}, ${dayWords(last.at, here.course.timeZone)}`}
      className="truncate underline-offset-4 hover:underline"
    >
      {last.replied ? (
        <span className="text-iris">✉ {when}, replied</span>
      ) : days !== null ? (
        <span>
          ↩ {when}, back {days === 0 ? 'that day' : `in ${days} d`}
        </span>
      ) : (
        <span className="text-ink-2">
          {!last.canReturn ? when : open ? `${when}, too recent to tell` : `${when}, not back`}
        </span>
      )}
    </Link>
  );
}
