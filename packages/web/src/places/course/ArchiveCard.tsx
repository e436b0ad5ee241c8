/** A course that is over goes into the archive: it is read and no longer changes; nothing is deleted. */
import { useState } from 'react';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';

export function ArchiveCard({ here }: { readonly here: CourseHere }) {
  const [asking, setAsking] = useState(false);
  const [busy, setBusy] = useState(false);
  const isArchived = here.answer.archivedAt !== null;
  const change = async () => {
    setBusy(true);
    const done = await attempt(async () => {
      await ask(isArchived ? contract.course.unarchive : contract.course.archive, { course: here.id });
      await refreshAll();
      return true;
    });
    setBusy(false);
    if (!done) return;
    setAsking(false);
    toast(
      isArchived
        ? `${here.course.code} is out of the archive. Its mail is still stopped.`
        : `${here.course.code} is archived. You find it in the menu of courses.`,
    );
  };
  return (
    <section
      id="archive"
      aria-label="Archive"
      className="mt-4 flex flex-wrap items-center gap-x-4 gap-y-2 rounded-[16px] border border-line bg-sheet px-5 py-4"
    >
      <p className="min-w-0 flex-1 basis-72">
        <strong className="block">{isArchived ? 'This course is archived' : 'Archive this course'}</strong>
        <span className="text-[14px] text-ink-2">
          {isArchived
            ? 'You can read everything. No rule runs, no message leaves, and nothing changes.'
            : 'For a course that is over. It leaves the menu and can only be read; nothing is deleted.'}
        </span>
      </p>
      {isArchived ? (
        <Button needs="settings.write" busy={busy} onClick={() => change()}>
          Take out of the archive
        </Button>
      ) : (
        <Button needs="settings.write" onClick={() => setAsking(true)}>
          Archive course …
        </Button>
      )}
      {asking && (
        <Dialog
          open
          onClose={() => setAsking(false)}
          title={`Archive ${here.course.code}`}
          foot={
            <>
              <Button className="ml-auto" onClick={() => setAsking(false)}>
                Keep it open
              </Button>
              <Button look="main" busy={busy} onClick={() => change()}>
                Archive course
              </Button>
            </>
          }
        >
          <ul className="grid list-disc gap-2 py-5 pr-6 pl-10">
            <li>Its mail stops: no rule runs and no message leaves. Messages that wait stay waiting.</li>
            <li>You can still read everything, and carry its rules into another course.</li>
            <li>You can take it out of the archive at any time. Nothing is deleted.</li>
          </ul>
        </Dialog>
      )}
    </section>
  );
}
