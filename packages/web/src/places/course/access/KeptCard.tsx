/** How long what is known of students is kept after a course's end. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../../lib/api.ts';
import { attempt } from '../../../lib/attempt.ts';
import type { CourseHere } from '../../../lib/here.ts';
import { Button } from '../../../ui/Button.tsx';
import { NumberField } from '../../../ui/fields.tsx';

/** Years on, so with its year. */
const dayOf = (date: string): string =>
  new Date(`${date}T00:00:00Z`).toLocaleDateString('en-US', { timeZone: 'UTC', dateStyle: 'long' });

export function KeptCard({ here }: { readonly here: CourseHere }) {
  const kept = useQuery({
    queryKey: ['kept', here.id],
    queryFn: () => ask(contract.erasure.kept, { course: here.id }),
  });
  const [typed, setTyped] = useState<number | null>(null);
  if (!kept.data) return null;
  const { months, own, until } = kept.data;
  const now = own ?? months;
  const save = () =>
    attempt(async () => {
      await ask(contract.erasure.keep, { course: here.id }, { body: { months: typed === months ? null : typed } });
      setTyped(null);
      toast('Saved.');
      await kept.refetch();
    });
  return (
    <section aria-label="How long data is kept" className="mt-4 rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">How long data is kept</h2>
      <p className="mt-1 max-w-[75ch] text-[14.5px] text-ink-2">
        Zest Bell removes activity, grades, messages, replies and notes of this course after {dayOf(until)}. The roster
        and counts without names stay.
      </p>
      <div className="mt-2 flex flex-wrap items-end gap-3">
        <NumberField
          label="Keep them after the course ends for"
          unit="months"
          whole
          min={1}
          max={months}
          value={typed ?? now}
          onChange={setTyped}
        />
        <Button needs="data.erase" disabled={typed === null || typed === now} onClick={() => save()}>
          Save
        </Button>
        <span className="text-[14px] text-ink-2">At most {months} months, the limit for all courses.</span>
      </div>
    </section>
  );
}
