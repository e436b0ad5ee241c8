/** The days of a course that a launch has made: nothing is sent before somebody has looked at them. */
import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import { dateWords } from '@zest-bell/core/time';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';

export function ConfirmDays({ here }: { readonly here: CourseHere }) {
  const [busy, setBusy] = useState(false);
  const { course } = here;
  if (here.answer.daysConfirmed) return null;
  const confirm = async () => {
    setBusy(true);
    await attempt(async () => {
      await ask(contract.course.confirmDays, { course: here.id });
      toast('Confirmed. Rules can be turned on now.');
      await refreshAll();
    });
    setBusy(false);
  };
  return (
    <section aria-label="Days and time zone" className="rounded-[16px] border border-line-strong bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">Confirm the days and time zone</h2>
      <p className="mt-1 max-w-[75ch] text-[15px]">
        Your learning platform opened this course from {dateWords(course.start)} to {dateWords(course.end)}, in{' '}
        {course.timeZone.replaceAll('_', ' ')} time. Rules run and messages leave in this time zone, between these days.
        Until you confirm them, no rule can be turned on and nothing is sent.
      </p>
      <p className="mt-3 flex flex-wrap items-center gap-4">
        <Button needs="settings.write" look="main" busy={busy} onClick={() => confirm()}>
          Confirm days and time zone
        </Button>
        <Link className="font-semibold text-pine underline underline-offset-4" to={`/c/${here.id}/course/calendar`}>
          Change them first
        </Link>
      </p>
    </section>
  );
}
