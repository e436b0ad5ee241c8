/** Two or three numbers that answer a question, side by side and of one size. */
import type { ReactNode } from 'react';

export interface Figure {
  readonly n: number;
  /** What they do, right after the number: "match now". */
  readonly words: ReactNode;
  readonly testId?: string;
}

export const Figures = ({ figures }: { readonly figures: readonly Figure[] }) => (
  <ul className="flex flex-wrap gap-x-7 gap-y-1">
    {figures.map(({ n, words, testId }, i) => (
      <li key={i} className="flex items-baseline gap-2">
        <strong className="font-head text-[32px] leading-none font-extrabold tabular-nums" data-testid={testId}>
          {n}
        </strong>{' '}
        <span className="text-[14.5px] leading-tight text-ink-2">{words}</span>
      </li>
    ))}
  </ul>
);
