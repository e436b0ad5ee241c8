import { dayWords, plural, type Instant } from '@zest-bell/core/time';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';

/** A decision put off until a day: it waits where it is and comes back on its own. */
export function LaterDialog(props: {
  readonly here: CourseHere;
  readonly count: number;
  readonly busy: boolean;
  readonly onClose: () => void;
  readonly onLater: (until: Instant) => void;
}) {
  const { calendar, timeZone } = props.here.course;
  const days = [1, 2, 3, 7].map((n) => calendar.addDays(calendar.dayStart(props.here.now), n));
  return (
    <Dialog
      open
      onClose={props.onClose}
      title={props.count === 1 ? 'Decide later' : `Decide on ${plural(props.count, 'nudge')} later`}
      note="It waits, and comes back here on that day. Nothing is sent meanwhile."
    >
      <div className="flex flex-wrap gap-2 px-6 py-5">
        {days.map((day) => (
          <Button key={day} busy={props.busy} onClick={() => props.onLater(day)}>
            {dayWords(day, timeZone)}
          </Button>
        ))}
      </div>
    </Dialog>
  );
}
