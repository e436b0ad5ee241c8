/** A share with its interval, drawn and in figures. */
import { rangedShareWords, rangeWords, type Proportion } from '@zest-bell/core/outcomes';

const percent = (share: number): string => `${Math.round(share * 100)}%`;

export function ShareBar(props: {
  readonly share: Proportion;
  /** Writes the interval beside it, where there is room. */
  readonly figures?: boolean;
}) {
  const { share: proportion, figures = false } = props;
  if (proportion.of === 0) return <span className="text-ink-3">too soon to say</span>;
  const share = proportion.count / proportion.of;
  return (
    <span
      className="inline-grid grid-cols-[80px_4.5em_auto] items-center gap-x-2 text-[13.5px] tabular-nums"
      title={rangedShareWords(proportion, 'nudges')}
    >
      <span aria-hidden className="relative h-2 w-20 rounded-full bg-fog">
        <span
          className="absolute inset-y-0 rounded-full bg-zest"
          style={{ left: percent(proportion.low), right: percent(1 - proportion.high) }}
        />
        <span className="absolute -inset-y-0.5 w-0.5 bg-ink ring-1 ring-sheet" style={{ left: percent(share) }} />
      </span>
      <span className="text-right">
        {proportion.count} of {proportion.of}
      </span>
      <span className={figures ? 'text-ink-2' : 'sr-only'}>could be {rangeWords(proportion)}</span>
    </span>
  );
}
