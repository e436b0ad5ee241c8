/** The term in little, with its weeks and breaks: the run of a rule is dragged at both its ends. */
import { useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { dateOf, dateWords, dayNumberOf, type Instant } from '@zest-bell/core/time';
import type { Course } from '@zest-bell/core/course';

export function RunStrip(props: {
  readonly course: Course;
  readonly now: Instant;
  /** Local dates, both included. */
  readonly from: string;
  readonly until: string;
  readonly rounds: readonly Instant[];
  readonly onFrom: (date: string) => void;
  readonly onUntil: (date: string) => void;
}) {
  const { course, from, until } = props;
  const frame = useRef<HTMLDivElement>(null);
  const first = dayNumberOf(course.start);
  const last = dayNumberOf(course.end) + 1;
  const left = (day: number) => (Math.min(last, Math.max(first, day)) - first) / (last - first);
  const percent = (day: number) => `${left(day) * 100}%`;
  const [a, b] = [dayNumberOf(from), dayNumberOf(until) + 1];
  const today = course.calendar.dayNumber(props.now);
  const looks = new Set(props.rounds.map((t) => course.calendar.dayNumber(t)));
  const dayAt = (x: number) => {
    const box = frame.current!.getBoundingClientRect();
    return Math.min(last - 1, Math.max(first, first + Math.round(((x - box.left) / box.width) * (last - first))));
  };
  const weeks = Array.from({ length: Math.ceil((last - first) / 7) }, (_, i) => first + i * 7);
  return (
    <div className="px-2 pt-1 pb-2">
      <div ref={frame} className="relative h-14 touch-none rounded-md bg-strip">
        {weeks.map((w) => (
          <i key={w} aria-hidden className="absolute inset-y-0 w-px bg-[#2d3d36]" style={{ left: percent(w) }} />
        ))}
        {course.breaks.map((brk) => (
          <i
            key={brk.from}
            aria-hidden
            title={brk.name}
            className="absolute inset-y-0 bg-[repeating-linear-gradient(45deg,#2d3d36_0_3px,transparent_3px_7px)]"
            style={{
              left: percent(dayNumberOf(brk.from)),
              width: `${(left(dayNumberOf(brk.to) + 1) - left(dayNumberOf(brk.from))) * 100}%`,
            }}
          />
        ))}
        <i
          aria-hidden
          className="absolute inset-y-1 rounded-sm border-y-2 border-zest bg-zest/15"
          style={{ left: percent(a), width: `${Math.max(0, left(b) - left(a)) * 100}%` }}
        />
        {[...looks].map((day) => (
          <i
            key={day}
            aria-hidden
            className="absolute bottom-2 size-[3px] -translate-x-1/2 rounded-full bg-zest"
            style={{ left: percent(day + 0.5) }}
          />
        ))}
        <i aria-hidden className="absolute inset-y-0 w-0.5 bg-white/70" style={{ left: percent(today) }} />
        <End
          label="First day of the run"
          day={a}
          at={percent(a)}
          dayAt={dayAt}
          onChange={(day) => day < b && props.onFrom(dateOf(day))}
        />
        <End
          label="Last day of the run"
          day={b - 1}
          at={percent(b)}
          dayAt={dayAt}
          onChange={(day) => day >= a && day < last && props.onUntil(dateOf(day))}
        />
      </div>
      <p className="mt-1 flex justify-between font-num text-[12px] text-ink-3">
        <span>{dateWords(course.start)}</span>
        <span>{dateWords(course.end)}</span>
      </p>
    </div>
  );
}

function End(props: {
  readonly label: string;
  readonly day: number;
  readonly at: string;
  readonly dayAt: (x: number) => number;
  readonly onChange: (day: number) => void;
}) {
  const dragging = useRef(false);
  const onPointerDown = (e: PointerEvent<HTMLElement>) => {
    e.currentTarget.setPointerCapture(e.pointerId);
    dragging.current = true;
  };
  const onPointerMove = (e: PointerEvent<HTMLElement>) => {
    if (!dragging.current) return;
    const day = props.dayAt(e.clientX);
    if (day !== props.day) props.onChange(day);
  };
  const stop = () => (dragging.current = false);
  const onKeyDown = (e: KeyboardEvent) => {
    const step = { ArrowRight: 1, ArrowLeft: -1, ArrowUp: 7, ArrowDown: -7, PageUp: 7, PageDown: -7 }[e.key];
    if (step === undefined) return;
    e.preventDefault();
    props.onChange(props.day + step);
  };
  return (
    <button
      type="button"
      role="slider"
      aria-label={props.label}
      aria-valuenow={props.day}
      aria-valuetext={dateWords(dateOf(props.day))}
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={stop}
      onPointerCancel={stop}
      onKeyDown={onKeyDown}
      className="absolute inset-y-0 w-3.5 -translate-x-1/2 cursor-ew-resize touch-none rounded-sm bg-zest"
      style={{ left: props.at }}
    />
  );
}
