import type { ReactNode } from 'react';

export type Tone = 'zest' | 'quiet' | 'iris' | 'tangerine' | 'brass';

const TONES: Readonly<Record<Tone, string>> = {
  zest: 'bg-zest-soft text-ink',
  quiet: 'bg-fog text-ink-2',
  iris: 'bg-iris-soft text-iris',
  tangerine: 'bg-tangerine-soft text-tangerine-text',
  brass: 'bg-brass-soft text-brass-text',
};

/** A small rounded word; the word, not its color, carries the meaning. A sentence is never in a chip. */
export const Chip = ({ tone, children }: { readonly tone: Tone; readonly children: ReactNode }) => (
  <span
    className={`inline-block rounded-full px-2.5 py-0.5 text-[13px] font-semibold whitespace-nowrap ${TONES[tone]}`}
  >
    {children}
  </span>
);
