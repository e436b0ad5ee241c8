/** One dot is one student. The threshold is dragged in its place, by pointer or by arrow keys. */
import { useEffect, useLayoutEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { intoRange } from '@zest-bell/core/problem';
import { CATALOGUE, rangeOf } from '@zest-bell/core/measures';
import { thresholdOf, type Leaf } from '@zest-bell/core/conditions';
import type { Dot } from '@zest-bell/core/rounds';
import { nameOf, type CourseHere } from '../../lib/here.ts';
import { useMedia } from '../../ui/useMedia.ts';
import { lineX, matchingSide, placeDots, scaleFor, type Pile, type PlacedDot, type Scale } from './scale.ts';

const HEIGHT = 148;
const SUFFIX = { days: ' d', hours: ' h', percent: '%', points: ' pts', count: '', yesNo: '', text: '' } as const;

export function DotPlot({
  here,
  leaf,
  dots,
  onThreshold,
}: {
  readonly here: CourseHere;
  readonly leaf: Leaf;
  readonly dots: readonly Dot[];
  readonly onThreshold: (value: number) => void;
}) {
  const frame = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [width, setWidth] = useState(520);
  const [hovered, setHovered] = useState<PlacedDot | null>(null);
  const measure = CATALOGUE[leaf.measure];
  const given = thresholdOf(leaf, here.course.marks);
  const threshold = typeof given === 'number' ? given : null;
  // During a drag the scale is fixed, or the handle would run away from the pointer.
  const [held, setHeld] = useState<Scale | null>(null);

  useLayoutEffect(() => {
    const element = frame.current;
    if (!element) return;
    const fit = () => setWidth(Math.max(200, Math.floor(element.clientWidth)));
    fit();
    const observer = new ResizeObserver(fit);
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  const fresh = useMemo(
    () =>
      scaleFor(
        dots.flatMap((d) => (typeof d.value === 'number' ? [d.value] : [])),
        threshold,
        measure.unit,
        width,
      ),
    [dots, threshold, measure.unit, width],
  );
  const scale = held ?? fresh;
  const { placed, radius, pile } = useMemo(() => placeDots(dots, scale, HEIGHT), [dots, scale]);
  // Redrawn when the system changes between light and dark.
  const dark = useMedia('(prefers-color-scheme: dark)');
  useEffect(() => {
    if (canvas.current) draw(canvas.current, { placed, radius, pile, width });
  }, [placed, radius, pile, width, dark]);

  const side = threshold === null ? null : matchingSide(scale, leaf.is, threshold);
  const handle = threshold === null ? null : lineX(scale, leaf.is, threshold);
  const label = `${threshold}${SUFFIX[measure.unit]}`;

  const set = (value: number) => {
    const range = rangeOf(measure);
    onThreshold(range ? intoRange(value, range) : value);
  };
  const onPointerDown = (e: PointerEvent<HTMLElement>) => {
    e.currentTarget.setPointerCapture(e.pointerId);
    setHeld(scale);
  };
  const onPointerMove = (e: PointerEvent<HTMLElement>) => {
    if (!held || !frame.current) return;
    const x = e.clientX - frame.current.getBoundingClientRect().left;
    // The line is half a step beside its value where values are whole.
    const offset = handle === null || threshold === null ? 0 : lineX(scale, leaf.is, threshold) - scale.x(threshold);
    const value = scale.valueAt(x - offset);
    if (value !== threshold) set(value);
  };
  const onKeyDown = (e: KeyboardEvent) => {
    if (threshold === null) return;
    const step = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 5, PageDown: -5 }[e.key];
    if (step === undefined) return;
    e.preventDefault();
    set(threshold + step);
  };
  const onHover = (e: PointerEvent<HTMLElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    const x = e.clientX - box.left;
    const y = e.clientY - box.top;
    setHovered(placed.find((d) => Math.hypot(d.x - x, d.y - y) <= radius + 2) ?? null);
  };

  const unknown = dots.filter((d) => d.value === null).length;
  return (
    <div>
      <div ref={frame} className="relative mt-8 touch-none select-none" style={{ height: HEIGHT + 24 }}>
        {side && (
          <div
            aria-hidden
            className="absolute top-0 bg-zest-area"
            style={{ left: side[0], width: Math.max(0, side[1] - side[0]), height: HEIGHT }}
          />
        )}
        <canvas
          ref={canvas}
          role="img"
          aria-label={`${dots.length} students by ${measure.label(leaf, here.course)}; ${dots.filter((d) => d.meets === 'all').length} match`}
          className="absolute inset-x-0 top-0"
          style={{ width, height: HEIGHT }}
          onPointerMove={onHover}
          onPointerLeave={() => setHovered(null)}
        />
        <div aria-hidden className="absolute inset-x-0 border-t-2 border-ink-3" style={{ top: HEIGHT }}>
          {scale.ticks.map((t) => (
            <span
              key={t}
              className="absolute top-1 -translate-x-1/2 font-num text-[12px] text-ink-2"
              style={{ left: scale.x(t) }}
            >
              {t}
            </span>
          ))}
          {scale.clipped && (
            <span className="absolute top-1 right-0 bg-sheet font-num text-[12px] text-ink-2">{scale.high}+</span>
          )}
        </div>
        {handle !== null && (
          <>
            <div
              aria-hidden
              className="pointer-events-none absolute w-0.5 -translate-x-1/2 bg-ink"
              style={{ left: handle, top: -6, height: HEIGHT + 6 }}
            />
            <button
              role="slider"
              aria-label={`Threshold: ${measure.label(leaf, here.course)}`}
              aria-valuenow={threshold ?? 0}
              aria-valuemin={scale.low}
              aria-valuemax={scale.high}
              aria-valuetext={label}
              onPointerDown={onPointerDown}
              onPointerMove={onPointerMove}
              onPointerUp={() => setHeld(null)}
              onPointerCancel={() => setHeld(null)}
              onKeyDown={onKeyDown}
              className="absolute -top-7 flex h-[26px] -translate-x-1/2 cursor-ew-resize touch-none items-center gap-1.5 rounded-full bg-strip px-3 font-num text-[13px] font-bold whitespace-nowrap text-zest"
              style={{ left: Math.min(width - 34, Math.max(34, handle)) }}
            >
              <span aria-hidden>◂</span>
              {label}
              <span aria-hidden>▸</span>
            </button>
          </>
        )}
        {pile && (
          <span
            className="pointer-events-none absolute top-0 -translate-x-1/2 text-[13px] leading-4 font-bold tabular-nums"
            style={{ left: Math.max(10, pile.x) }}
            title={`${pile.students} students with ${pile.value}${SUFFIX[measure.unit]}`}
          >
            {pile.students}
          </span>
        )}
        {hovered && (
          <div
            className="pop pointer-events-none absolute z-10 -translate-x-1/2 -translate-y-full px-2.5 py-1 text-[13px] whitespace-nowrap"
            style={{ left: Math.min(width - 80, Math.max(80, hovered.x)), top: hovered.y - radius - 4 }}
          >
            {nameOf(here, hovered.student)} · {String(hovered.value)}
            {SUFFIX[measure.unit]}
          </div>
        )}
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-x-5 gap-y-1 text-[13px] text-ink-2">
        <span className="flex items-center gap-1.5">
          <i aria-hidden className="size-2.5 rounded-full bg-pine" /> matches
        </span>
        <span className="flex items-center gap-1.5">
          <i aria-hidden className="size-2.5 rounded-full border-2 border-pine" /> matches this condition only
        </span>
        {unknown > 0 && <span>{unknown} not known yet</span>}
        <span className="ml-auto">{measure.label(leaf, here.course)} →</span>
      </div>
    </div>
  );
}

interface Drawing {
  readonly placed: readonly PlacedDot[];
  readonly radius: number;
  readonly pile: Pile | null;
  readonly width: number;
}

/** Room above a pile for its number, and the gap that says that it is not to scale, in px. */
const OVER_PILE = 18;
const GAP = 4;

function draw(canvas: HTMLCanvasElement, { placed: dots, radius, pile, width }: Drawing): void {
  const ratio = window.devicePixelRatio || 1;
  canvas.width = width * ratio;
  canvas.height = HEIGHT * ratio;
  const context = canvas.getContext('2d');
  if (!context) return;
  const style = getComputedStyle(document.documentElement);
  const [pine, sheet, quiet] = ['--pine', '--sheet', '--dot-quiet'].map((name) => style.getPropertyValue(name));
  context.scale(ratio, ratio);
  context.lineWidth = 2;
  if (pile) {
    const tall = HEIGHT - OVER_PILE;
    const shares = [pile.all, pile.some, pile.students - pile.all - pile.some];
    let base = HEIGHT;
    shares.forEach((n, i) => {
      const high = (tall * n) / pile.students;
      context.fillStyle = [pine, sheet, quiet][i] ?? '#000';
      context.fillRect(pile.x - radius, base - high, 2 * radius, high);
      if (i === 1 && n > 0) {
        context.strokeStyle = pine ?? '#000';
        context.strokeRect(pile.x - radius + 1, base - high + 1, 2 * radius - 2, high - 2);
      }
      base -= high;
    });
    context.clearRect(pile.x - radius - 1, OVER_PILE + 10, 2 * radius + 2, GAP);
  }
  for (const d of dots) {
    context.beginPath();
    context.arc(d.x, d.y, d.meets === 'this' ? Math.max(0.5, radius - 1) : radius, 0, 2 * Math.PI);
    context.fillStyle = (d.meets === 'all' ? pine : d.meets === 'this' ? sheet : quiet) ?? '#000';
    context.fill();
    if (d.meets === 'this') {
      context.strokeStyle = pine ?? '#000';
      context.stroke();
    }
  }
}
