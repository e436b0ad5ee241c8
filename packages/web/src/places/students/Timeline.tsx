/** One time line of everything: drawn, and as a list that can be read; both show the same stretch and the same kinds. */
import { useEffect, useMemo, useRef, useState } from 'react';
import { Link } from 'react-router';
import { DAY, dayWords, timeWords } from '@zest-bell/core/time';
import type { NoteLine, StudentAnswer } from '@zest-bell/core/exchange';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Segments } from '../../ui/Segments.tsx';
import { Empty } from '../../parts/common/States.tsx';
import { entriesOf, LANES, type TimelineEntry, type Lane } from './timeline.ts';
import { TimelineChart, type TimeSpan } from './TimelineChart.tsx';

const PAGE = 40;

/** How much of the term is drawn; `other` after it was moved or drawn across. */
type Zoom = 'soFar' | 'term' | 'month' | 'week' | 'other';
const ZOOMS: readonly { readonly value: Zoom; readonly words: string }[] = [
  { value: 'soFar', words: 'So far' },
  { value: 'term', words: 'Term' },
  { value: 'month', words: '4 weeks' },
  { value: 'week', words: '1 week' },
];

export function Timeline(props: {
  readonly here: CourseHere;
  readonly answer: StudentAnswer;
  readonly notes: readonly NoteLine[];
  readonly firstName: string;
}) {
  const { here, answer, notes } = props;
  const { start, end } = here.course.calendar;
  const { now } = here;
  // What has not come yet is empty: at first it takes no room.
  const soFar = useMemo(
    (): TimeSpan => ({ from: start, to: Math.min(end, Math.max(now, start + 7 * DAY) + 3 * DAY) }),
    [start, end, now],
  );
  const [span, setSpan] = useState(soFar);
  const [lanes, setLanes] = useState<ReadonlySet<Lane>>(new Set(LANES));
  const [selected, setSelected] = useState<string | null>(null);
  const [most, setMost] = useState(PAGE);
  const entries = useMemo(() => entriesOf(here.course, `/c/${here.id}`, answer, notes), [here, answer, notes]);
  const shown = entries.filter((e) => lanes.has(e.lane) && touches(e, span));
  const place = shown.findIndex((e) => e.key === selected);
  const list = useRef<HTMLOListElement>(null);
  useEffect(() => {
    if (selected !== null) list.current?.querySelector('[aria-current]')?.scrollIntoView({ block: 'nearest' });
  }, [selected]);
  if (entries.length === 0)
    return (
      <Empty title="Nothing yet">No activity of {props.firstName} has come in, and no rule has nudged them.</Empty>
    );
  const length = span.to - span.from;
  const last = (days: number) => {
    const to = Math.min(end, here.now + 0.15 * days * DAY);
    setSpan({ from: to - days * DAY, to });
  };
  const shift = (by: number) => {
    const from = Math.max(start - length / 2, Math.min(end - length / 2, span.from + by * length));
    setSpan({ from, to: from + length });
  };
  const isFrom = (part: TimeSpan) => span.from === part.from && span.to === part.to;
  const whole = span.from === start && span.to === end;
  const zoom: Zoom = isFrom(soFar)
    ? 'soFar'
    : whole
      ? 'term'
      : Math.round(length / DAY) === 28
        ? 'month'
        : Math.round(length / DAY) === 7
          ? 'week'
          : 'other';
  const zoomTo = (to: Zoom) => {
    if (to === 'soFar') setSpan(soFar);
    else if (to === 'term') setSpan({ from: start, to: end });
    else last(to === 'month' ? 28 : 7);
  };
  return (
    <div>
      <div className="rounded-[16px] border border-line bg-sheet px-4 py-3">
        <div className="mb-2 flex flex-wrap items-center gap-4" role="group" aria-label="Zoom">
          <Segments label="Show" value={zoom} segments={ZOOMS} onChange={zoomTo} />
          <Button look="quiet" aria-label="Earlier" disabled={whole} onClick={() => shift(-0.5)}>
            ‹
          </Button>
          <Button look="quiet" aria-label="Later" disabled={whole} onClick={() => shift(0.5)}>
            ›
          </Button>
          <span className="ml-auto text-[13.5px] text-ink-2" role="status">
            {dayWords(span.from, here.course.timeZone)} to {dayWords(span.to - 1, here.course.timeZone)}
          </span>
        </div>
        <TimelineChart
          {...{ here, entries, lanes, span, selected }}
          acts={answer.story.acts}
          onLane={(lane) => {
            const next = new Set(lanes);
            if (!next.delete(lane)) next.add(lane);
            setLanes(next);
          }}
          onSpan={setSpan}
          onSelect={setSelected}
        />
      </div>
      <ol ref={list} aria-label="Entries" className="mt-3">
        {shown.slice(0, Math.max(most, place + 1)).map((e) => (
          <EntryLine key={e.key} here={here} entry={e} current={e.key === selected} />
        ))}
      </ol>
      {shown.length === 0 && <p className="py-4 text-ink-2">Nothing in this part of the term.</p>}
      {shown.length > Math.max(most, place + 1) && (
        <Button className="mt-2" onClick={() => setMost(most + 4 * PAGE)}>
          Show earlier entries
        </Button>
      )}
    </div>
  );
}

const touches = (e: TimelineEntry, span: TimeSpan): boolean =>
  e.at <= span.to && (e.to === null ? Infinity : (e.to ?? e.at)) >= span.from;

const TONES: Readonly<Record<Lane, string>> = {
  activity: 'text-ink-3',
  work: 'text-pine',
  grades: 'text-pine',
  rules: 'text-ink-3',
  messages: 'text-iris',
  notes: 'text-brass',
};

function EntryLine({
  here,
  entry: e,
  current,
}: {
  readonly here: CourseHere;
  readonly entry: TimelineEntry;
  readonly current: boolean;
}) {
  const zone = here.course.timeZone;
  return (
    <li
      aria-current={current || undefined}
      className="grid grid-cols-[104px_20px_minmax(0,1fr)] gap-x-2 border-b border-line py-1.5 text-[14.5px] aria-[current]:bg-zest-area max-[520px]:grid-cols-[76px_18px_minmax(0,1fr)]"
    >
      <span className="text-[13.5px] text-ink-3" title={timeWords(e.at, zone)}>
        {dayWords(e.at, zone)}
      </span>
      <span aria-hidden className={e.sign === '▲' ? 'text-tangerine' : TONES[e.lane]}>
        {e.sign}
      </span>
      <div className="min-w-0">
        {e.link ? (
          <Link to={e.link} className="font-semibold underline-offset-4 hover:underline">
            {e.title}
          </Link>
        ) : (
          <span className="font-semibold">{e.title}</span>
        )}{' '}
        {e.detail && <span className="break-words text-ink-2">{e.detail}</span>}
        {e.quote !== undefined && (
          <p
            className={`mt-1 max-h-40 overflow-auto rounded-xl px-3.5 py-2 break-words whitespace-pre-line ${e.lane === 'notes' ? 'bg-brass-soft' : 'bg-iris-soft'}`}
          >
            {e.quote}
          </p>
        )}
      </div>
    </li>
  );
}
