/** A box of segments, one of which holds: the scope of a page, or how the same is shown. */
import type { ReactNode } from 'react';
import { Link } from 'react-router';

const BOX = 'inline-flex max-w-full flex-wrap gap-0.5 rounded-[9px] border border-line-strong bg-sheet p-0.5';
const ONE = 'inline-flex min-h-7 items-center rounded-[7px] px-3 text-[14px] font-semibold whitespace-nowrap';
const HOLDS = 'bg-ink text-fog';
const REST = 'text-ink-2 hover:text-ink';

export interface Segment<T> {
  readonly value: T;
  readonly words: ReactNode;
}

export function Segments<T extends string | number>(props: {
  readonly label: string;
  readonly value: T;
  readonly segments: readonly Segment<T>[];
  readonly onChange: (value: T) => void;
}) {
  return (
    <div role="group" aria-label={props.label} className={BOX}>
      {props.segments.map(({ value, words }) => (
        <button
          key={value}
          type="button"
          aria-pressed={value === props.value}
          className={`${ONE} ${value === props.value ? HOLDS : REST}`}
          onClick={() => props.onChange(value)}
        >
          {words}
        </button>
      ))}
    </div>
  );
}

/** Segments that have addresses of their own. */
export const SegmentLinks = (props: {
  readonly label: string;
  readonly links: readonly { readonly to: string; readonly words: ReactNode; readonly isHere: boolean }[];
}) => (
  <nav aria-label={props.label} className={BOX}>
    {props.links.map(({ to, words, isHere }) => (
      <Link key={to} to={to} aria-current={isHere ? 'page' : undefined} className={`${ONE} ${isHere ? HOLDS : REST}`}>
        {words}
      </Link>
    ))}
  </nav>
);
