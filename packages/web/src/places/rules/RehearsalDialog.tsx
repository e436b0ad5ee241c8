import { useState } from 'react';
import { ToggleGroup } from 'radix-ui';
import type { Rule } from '@zest-bell/core/rules';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Empty } from '../../parts/common/States.tsx';
import { When } from '../../ui/When.tsx';
import { instantOf, RehearsalView, rehearsalWords, useRehearsal, type RehearsalMoment } from './Rehearsal.tsx';

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
          {rehearsal.data && <strong className="text-ink">{rehearsalWords(rehearsal.data)}</strong>}
        </>
      }
      foot={
        <>
          <ToggleGroup.Root
            type="single"
            value={moment}
            onValueChange={(v) => v && setMoment(v as RehearsalMoment)}
            aria-label="Time of the rehearsal"
            className="flex gap-1 rounded-[11px] border border-line p-1"
          >
            {MOMENTS.map((m) => (
              <ToggleGroup.Item
                key={m.value}
                value={m.value}
                className="rounded-lg px-3 py-1.5 text-[14px] font-semibold text-ink-2 data-[state=on]:bg-ink data-[state=on]:text-fog"
              >
                {m.words}
              </ToggleGroup.Item>
            ))}
          </ToggleGroup.Root>
          <Button className="ml-auto" onClick={onClose}>
            Close
          </Button>
        </>
      }
    >
      {at === null ? (
        <Empty title="No checks left">
          This rule has reached its last day. Rehearse it right now, or choose a later last day.
        </Empty>
      ) : (
        <RehearsalView here={here} rehearsal={rehearsal} />
      )}
    </Dialog>
  );
}
