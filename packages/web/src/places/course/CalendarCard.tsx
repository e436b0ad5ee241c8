/** The calendar that other programs read: its secret address, made and ended. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import { instantWords } from '@zest-bell/core/time';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';

export function CalendarCard({ here }: { readonly here: CourseHere }) {
  const feed = useQuery({
    queryKey: ['feed', here.id],
    queryFn: () => ask(contract.exports.feed, { course: here.id }),
  });
  const [address, setAddress] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const since = feed.data?.since ?? null;
  const make = async () => {
    setBusy(true);
    const made = await attempt(() => ask(contract.exports.newFeed, { course: here.id }));
    setBusy(false);
    if (!made) return;
    setAddress(new URL(made.path, window.location.origin).href);
    await refreshAll();
  };
  const end = async () => {
    await attempt(() => ask(contract.exports.endFeed, { course: here.id }));
    setAddress(null);
    await refreshAll();
    toast('The calendar’s address no longer works.');
  };
  return (
    <section aria-label="Calendar" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">Calendar for other programs</h2>
      <p className="text-[14px] text-ink-2">
        Due dates, breaks, and the checks of rules that are on, at a secret address that your calendar program reads.
        Anyone who knows the address can read it. It names no student.
      </p>
      {address !== null && (
        <div className="mt-3">
          <label className="text-[13px] font-semibold text-ink-2" htmlFor="feed-address">
            Copy this address now. It is not shown again.
          </label>
          <div className="mt-1 flex flex-wrap gap-2">
            <input
              id="feed-address"
              className="field min-w-0 flex-1 font-num text-[14px]"
              readOnly
              value={address}
              onFocus={(e) => e.target.select()}
            />
            <Button
              onClick={() =>
                navigator.clipboard.writeText(address).then(
                  () => toast('Copied the address.'),
                  () => toast.error('The address could not be copied. Select it and copy it.'),
                )
              }
            >
              Copy
            </Button>
          </div>
        </div>
      )}
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <Button needs="settings.write" busy={busy} onClick={() => make()}>
          {since === null ? 'Create the address' : 'Create a new address'}
        </Button>
        {since !== null && (
          <>
            <Button needs="settings.write" onClick={() => end()}>
              Turn off the address
            </Button>
            <span className="text-[14px] text-ink-2">
              In use since {instantWords(since, here.course.timeZone)}. A new address replaces this one.
            </span>
          </>
        )}
      </div>
    </section>
  );
}
