/** How far a long computation is, with a way to stop it and to begin again. */
import { percentWords } from '@zest-bell/core/time';
import type { LongAnswer } from '../../lib/useLongWork.ts';
import { Button } from '../../ui/Button.tsx';

export function Progress({ work, what }: { readonly work: LongAnswer<unknown>; readonly what: string }) {
  if (work.isStopped)
    return (
      <p className="flex flex-wrap items-center gap-3 px-1 text-ink-2">
        You stopped {what}. <Button onClick={work.again}>Start again</Button>
      </p>
    );
  if (!work.isRunning) return null;
  const percent = Math.round(100 * (work.share ?? 0));
  return (
    <div className="flex flex-wrap items-center gap-3 px-1 text-[14.5px] text-ink-2">
      <span role="status" data-loading={work.data === undefined || undefined}>
        Computing {what} …{work.share !== null && ` ${percentWords(percent)}`}
      </span>
      {work.share !== null && (
        <>
          <progress
            className="h-2 w-40 accent-[var(--pine)]"
            max={100}
            value={percent}
            aria-label={`Done of ${what}`}
          />
          <Button onClick={work.stop}>Stop</Button>
        </>
      )}
    </div>
  );
}
