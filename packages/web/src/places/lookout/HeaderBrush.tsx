/** The small distribution over a column, and the brush on it: by pointer, by keys on its two handles, or bar by bar. */
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { plural } from '@zest-bell/core/time';
import type { Brush, Distribution } from '@zest-bell/core/lookout';
import { binsOf, brushOfBins, valuesOf, withEndMoved, type Numeric } from './bins.ts';

/** Of a column, and of a rule's, in px. */
export const BRUSH_WIDTH = { usual: 114, rule: 62 } as const;
const TALL = 20;

export interface HeaderBrushProps {
  readonly title: string;
  readonly distribution: Distribution;
  /** How many of the shown ones fall into each bin. */
  readonly within: readonly number[] | undefined;
  readonly brush: Brush | null;
  readonly unit: string;
  readonly width?: number;
  /** The text of a student without a value; “not known” on its own. */
  readonly without?: string;
  readonly onBrush: (brush: Brush | null) => void;
}

export function HeaderBrush(props: HeaderBrushProps) {
  return (
    <div style={{ width: props.width ?? BRUSH_WIDTH.usual }}>
      {props.distribution.kind === 'numbers' ? (
        <Numbers {...props} distribution={props.distribution} />
      ) : (
        <Choices {...props} distribution={props.distribution} />
      )}
      <Unknown {...props} />
    </div>
  );
}

function Numbers({
  title,
  distribution: d,
  within,
  brush,
  unit,
  width = BRUSH_WIDTH.usual,
  onBrush,
}: HeaderBrushProps & { readonly distribution: Numeric }) {
  const frame = useRef<HTMLDivElement>(null);
  const [begun, setBegun] = useState<number | null>(null);
  /** A press on the one bar that is brushed, which clears it unless it becomes a drag. */
  const [clears, setClears] = useState(false);
  const bins = d.counts.length;
  const most = Math.max(1, ...d.counts);
  const [from, to] = binsOf(d, brush);
  const brushed = brush?.kind === 'range';
  const step = width / bins;
  const binAt = (e: PointerEvent) => {
    const x = e.clientX - frame.current!.getBoundingClientRect().left;
    return Math.max(0, Math.min(bins - 1, Math.floor(x / step)));
  };
  const onPointerDown = (e: PointerEvent<HTMLElement>) => {
    e.currentTarget.setPointerCapture(e.pointerId);
    const bin = binAt(e);
    // At an end of a brush that end is taken up; anywhere else a new one begins.
    const start = brushed && bin === from ? to : brushed && bin === to ? from : bin;
    setBegun(start);
    setClears(brushed && from === to && bin === from);
    // Keys go on where the pointer was.
    frame.current!.querySelector<HTMLElement>('[role=slider]')?.focus({ preventScroll: true });
    onBrush(brushOfBins(d, Math.min(start, bin), Math.max(start, bin)));
  };
  const onPointerMove = (e: PointerEvent<HTMLElement>) => {
    if (begun === null) return;
    const bin = binAt(e);
    const [low, high] = [Math.min(begun, bin), Math.max(begun, bin)];
    if (low === from && high === to) return;
    setClears(false);
    onBrush(brushOfBins(d, low, high));
  };
  const onPointerUp = () => {
    setBegun(null);
    if (clears) onBrush(null);
  };
  const onKey = (end: 'low' | 'high') => (e: KeyboardEvent) => {
    const bin = d.edges[1]! - d.edges[0]!;
    const one = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: bin, PageDown: -bin };
    const by = { ...one, Home: -Infinity, End: Infinity }[e.key];
    if (e.key === 'Delete' || e.key === 'Backspace' || e.key === 'Escape') onBrush(null);
    else if (by === undefined) return;
    else onBrush(withEndMoved(d, brush, end, by));
    e.preventDefault();
  };
  const handle = (end: 'low' | 'high') => {
    const bin = end === 'low' ? from : to;
    const value = valuesOf(d, brush)[end === 'low' ? 0 : 1];
    return (
      <button
        type="button"
        role="slider"
        aria-label={`${title}: ${end === 'low' ? 'from' : 'to'}`}
        aria-valuemin={d.edges[0]}
        aria-valuemax={d.edges[bins]}
        aria-valuenow={value}
        aria-valuetext={`${end === 'low' ? 'from' : 'to'} ${value}${unit}`}
        onKeyDown={onKey(end)}
        className={`absolute top-1.5 h-[18px] w-[5px] -translate-x-1/2 rounded-full bg-ink ${brushed ? '' : 'opacity-0 focus:opacity-100'}`}
        style={{ left: end === 'low' ? bin * step : (bin + 1) * step }}
      />
    );
  };
  // Where the class mean is among the bins; beyond the last edge it is in the last bin.
  const [least, greatest] = [d.edges[0]!, d.edges[bins]!];
  const meanAt = Math.max(1, Math.min(width - 1, ((d.mean - least) / (greatest - least)) * width));
  const axis = (n: number) => `${Math.abs(n) < 10 ? Math.round(n * 10) / 10 : Math.round(n)}${unit}`;
  return (
    <>
      <div
        ref={frame}
        className="relative cursor-crosshair touch-none select-none"
        title="Drag over the bars, or press one, to show only these students. Press it again to show all."
        style={{ width, height: TALL }}
        onPointerDown={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerUp={onPointerUp}
        onPointerCancel={() => setBegun(null)}
      >
        {brushed && (
          <span
            aria-hidden
            className="absolute inset-y-0 bg-zest-soft"
            style={{ left: from * step, width: (to - from + 1) * step }}
          />
        )}
        <svg
          width={width}
          height={TALL}
          role="img"
          aria-label={`${title}: ${plural(
            d.counts.reduce((a, b) => a + b, 0),
            'student',
          )}, from ${axis(d.low)} to ${axis(d.high)}, mean ${axis(d.mean)}`}
          className="absolute inset-0"
        >
          {d.counts.map((n, i) => {
            const inner = within?.[i] ?? 0;
            const tall = (count: number) => (count === 0 ? 0 : Math.max(2, (count / most) * (TALL - 3)));
            const x = i * step + 0.75;
            return (
              <g key={i}>
                <rect
                  x={x}
                  y={TALL - tall(n)}
                  width={Math.max(1, step - 1.5)}
                  height={tall(n)}
                  fill="var(--dot-quiet)"
                />
                <rect
                  x={x}
                  y={TALL - tall(inner)}
                  width={Math.max(1, step - 1.5)}
                  height={tall(inner)}
                  fill="var(--pine)"
                />
              </g>
            );
          })}
          {d.high > d.low && (
            <line x1={meanAt} x2={meanAt} y1={0} y2={TALL} stroke="var(--brass)" strokeWidth={2} aria-hidden />
          )}
        </svg>
        {handle('low')}
        {handle('high')}
      </div>
      <div aria-hidden className="flex justify-between border-t border-ink-3 pt-px font-num text-[11px] text-ink-3">
        <span>{axis(d.low)}</span>
        {width >= BRUSH_WIDTH.usual && (
          <span className="text-brass-text" title="class mean">
            {axis(d.mean)}
          </span>
        )}
        <span>{axis(d.high)}</span>
      </div>
    </>
  );
}

const choiceWords = (choice: string | number | boolean): string =>
  choice === true ? 'yes' : choice === false ? 'no' : String(choice);

function Choices({
  title,
  distribution: d,
  within,
  brush,
  onBrush,
}: HeaderBrushProps & { readonly distribution: Extract<Distribution, { kind: 'choices' }> }) {
  const chosen = brush?.kind === 'some' ? brush.values : [];
  const most = Math.max(1, ...d.counts);
  const shown = d.choices.slice(0, 6);
  const toggle = (choice: string | number | boolean) => {
    const next = chosen.includes(choice) ? chosen.filter((c) => c !== choice) : [...chosen, choice];
    // Yes and no together are everybody with a known value.
    onBrush(
      next.length === 0 || (typeof choice === 'boolean' && next.length === 2) ? null : { kind: 'some', values: next },
    );
  };
  return (
    <div className="flex items-end gap-px" style={{ height: TALL + 15 }} role="group" aria-label={title}>
      {shown.map((choice, i) => (
        <button
          key={String(choice)}
          type="button"
          aria-pressed={chosen.includes(choice)}
          title={`${choiceWords(choice)}: ${plural(d.counts[i]!, 'student')}`}
          aria-label={`${title} ${choiceWords(choice)}: ${plural(d.counts[i]!, 'student')}`}
          onClick={() => toggle(choice)}
          className="flex h-full min-w-0 flex-1 flex-col justify-end rounded-sm hover:bg-fog aria-pressed:bg-zest-soft"
        >
          <span aria-hidden className="relative block w-full flex-1">
            <span
              className="absolute inset-x-0 bottom-0 bg-dot-quiet"
              style={{ height: `${(d.counts[i]! / most) * 100}%`, background: 'var(--dot-quiet)' }}
            />
            <span
              className="absolute inset-x-0 bottom-0 bg-pine"
              style={{ height: `${((within?.[i] ?? 0) / most) * 100}%` }}
            />
          </span>
          <span className="block truncate border-t border-ink-3 text-[11px] leading-[15px] text-ink-2">
            {choiceWords(choice)}
          </span>
        </button>
      ))}
    </div>
  );
}

function Unknown({ distribution: d, brush, title, without = 'not known', onBrush }: HeaderBrushProps) {
  if (d.unknown === 0) return <span className="block h-[15px]" />;
  const pressed = brush?.kind === 'unknown';
  return (
    <button
      type="button"
      aria-pressed={pressed}
      aria-label={`${title}: ${d.unknown} ${without}`}
      onClick={() => onBrush(pressed ? null : { kind: 'unknown' })}
      className="block h-[15px] rounded px-0.5 text-[11px] leading-[15px] text-ink-3 hover:text-ink aria-pressed:bg-zest-soft aria-pressed:font-semibold aria-pressed:text-ink"
    >
      {d.unknown} {without}
    </button>
  );
}
