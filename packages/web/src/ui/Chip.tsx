import type { ReactNode } from 'react';

export type Tone = 'zest' | 'quiet' | 'iris' | 'tangerine' | 'brass';

const TONES: Readonly<Record<Tone, string>> = {
  zest: 'bg-zest-soft text-ink',
  quiet: 'bg-fog text-ink-2',
  iris: 'bg-iris-soft text-iris',
  tangerine: 'bg-tangerine-soft text-tangerine-text',
  brass: 'bg-brass-soft text-brass-text',
};

/** A small rounded word; the word, not its colour, carries the meaning. */
export function Chip({
  tone,
  wraps = false,
  children,
}: {
  readonly tone: Tone;
  /** For a sentence rather than a word: it breaks where it has no room. */
  readonly wraps?: boolean;
  readonly children: ReactNode;
}) {
  return (
    <span
      className={`inline-block px-2.5 py-0.5 text-[13px] font-semibold ${wraps ? 'max-w-full rounded-[13px]' : 'rounded-full whitespace-nowrap'} ${TONES[tone]}`}
    >
      {children}
    </span>
  );
}
