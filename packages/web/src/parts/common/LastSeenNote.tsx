import type { CourseHere } from '../../lib/here.ts';

/** Shown once on each page that would count visits if the course had them (engine M5). */
export function LastSeenNote({ here }: { readonly here: CourseHere }) {
  if (here.answer.presence !== 'lastSeen') return null;
  return (
    <p className="mt-1 text-[14.5px] text-ink-2" data-testid="last-seen-note">
      This course knows only when each student was last seen. How often they visit, and how long they stayed away
      before, is not known.
    </p>
  );
}
