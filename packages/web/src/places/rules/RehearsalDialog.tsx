import { useState } from 'react';
import type { Rule } from '@zest-bell/core/rules';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Empty } from '../../parts/common/States.tsx';
import { Segments } from '../../ui/Segments.tsx';
import { When } from '../../ui/When.tsx';
import { instantOf, RehearsalView, useRehearsal, type RehearsalMoment } from './Rehearsal.tsx';

const MOMENTS = [
  { value: 'nextRound', words: 'At the next check' },
  { value: 'now', words: 'Right now' },
] as const;

export function RehearsalDialog({
  here,
  rule,
  onClose,
}: {
  readonly here: CourseHere;
  readonly rule: Rule;
  readonly onClose: () => void;
}) {
  const [moment, setMoment] = useState<RehearsalMoment>('nextRound');
  const at = instantOf(moment, rule, here);
  const rehearsal = useRehearsal(here, rule, at);
  const scope = <Segments label="Time of the rehearsal" value={moment} segments={MOMENTS} onChange={setMoment} />;
  return (
    <Dialog
      open
      wide
      onClose={onClose}
      title={`Rehearsal of “${rule.name}”`}
      note={
        <>
          Nothing is sent.{' '}
          {at !== null && (
            <>
              This is what would happen <When at={at} zone={here.course.timeZone} />
              {moment === 'nextRound' ? ' if nobody does anything until then' : ''}.{' '}
            </>
          )}
        </>
      }
      foot={
        <Button className="ml-auto" onClick={onClose}>
          Close
        </Button>
      }
    >
      {at === null ? (
        <>
          <div className="px-6 py-2.5">{scope}</div>
          <Empty title="No checks left">
            This rule has reached its last day. Rehearse it right now, or choose a later last day.
          </Empty>
        </>
      ) : (
        <RehearsalView here={here} rehearsal={rehearsal} scope={scope} />
      )}
    </Dialog>
  );
}
