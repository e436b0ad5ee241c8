/** How often something was sent and what came of it, in three figures; the rest of what is known on hover or press. */
import type { TextResult } from '@zest-bell/core/outcomes';
import { numberWords } from '@zest-bell/core/time';
import { outcomeWords } from '../../lib/outcomeWords.ts';
import { Tip } from '../../ui/Tip.tsx';

/** "13/14"; a dash where it is too early for any. */
const share = (of: { readonly count: number; readonly of: number } | null): string =>
  of === null || of.of === 0 ? '–' : `${numberWords(of.count)}/${numberWords(of.of)}`;

export const outcomeFigures = ({ sent, returns, replies }: TextResult) =>
  [
    ['Sent', numberWords(sent)],
    ['Back', share(returns)],
    ['Replied', share(replies)],
  ] as const;

export function OutcomeFigures({ of }: { readonly of: TextResult }) {
  return (
    <Tip tip={`${outcomeWords(of)}.`} className="inline-flex gap-x-3 whitespace-nowrap tabular-nums">
      {outcomeFigures(of).map(([name, figure]) => (
        <span key={name}>
          <span className="text-ink-2">{name}</span> <strong className="font-semibold text-ink">{figure}</strong>
        </span>
      ))}
    </Tip>
  );
}
