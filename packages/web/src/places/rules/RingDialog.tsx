/** Mail leaves from here: the names and the words first, then the button. */
import { useState } from 'react';
import { plural } from '@zest-bell/core/time';
import type { RuleCard } from '@zest-bell/core/exchange';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { attempt } from '../../lib/attempt.ts';
import { checkNow, saveWithUndo } from '../../lib/ruleActions.ts';
import { AskMany, reachesMany } from './AskMany.tsx';
import { AskUnfinished } from '../../parts/wording/AskUnfinished.tsx';
import { useUnfinished } from './useUnfinished.ts';
import { RehearsalView, useRehearsal, wouldWrite } from './Rehearsal.tsx';

export function RingDialog({
  here,
  card,
  onClose,
}: {
  readonly here: CourseHere;
  readonly card: RuleCard;
  readonly onClose: () => void;
}) {
  const [busy, setBusy] = useState(false);
  const [yes, setYes] = useState(false);
  const rehearsal = useRehearsal(here, card.rule, here.now);
  const heard = wouldWrite(rehearsal.data);
  const many = rehearsal.data !== undefined && reachesMany(here, heard);
  const unfinished = useUnfinished(here, [card.rule]);
  const [asItIs, setAsItIs] = useState(false);
  const act = async (work: () => Promise<unknown>) => {
    setBusy(true);
    const done = await attempt(work);
    setBusy(false);
    if (done) onClose();
  };
  return (
    <Dialog
      open
      wide
      onClose={onClose}
      title={`Check “${card.rule.name}” now`}
      note={
        rehearsal.data
          ? 'Run this rule once, now. All limits apply, and its regular checks stay as they are.'
          : 'Checking who would be nudged …'
      }
      foot={
        <>
          <p className="text-[14px] text-ink-2">
            {rehearsal.data &&
              (heard === 0
                ? 'No message would leave.'
                : `${plural(heard, 'message')} will leave at once, or when quiet hours end.`)}
          </p>
          <Button className="ml-auto" onClick={onClose}>
            Not now
          </Button>
          {many && (
            <Button
              title="Sends nothing now to students who already match"
              onClick={() =>
                act(() => saveWithUndo(here, { ...card.rule, spellsFrom: here.now }, card, { confirmed: true }))
              }
            >
              Only students who start to match from now on
            </Button>
          )}
          <Button
            look="main"
            busy={busy}
            disabled={!rehearsal.data || heard === 0 || (many && !yes) || (unfinished.length > 0 && !asItIs)}
            onClick={() => act(() => checkNow(here, card, yes))}
          >
            Check now{heard > 0 ? ` · ${heard}` : ''}
          </Button>
        </>
      }
    >
      <RehearsalView here={here} rehearsal={rehearsal} />
      {unfinished.length > 0 && heard > 0 && (
        <div className="px-6 py-3">
          <AskUnfinished parts={unfinished} act="Send this text as it is" yes={asItIs} onYes={setAsItIs} />
        </div>
      )}
      {many && <AskMany here={here} heard={heard} yes={yes} onYes={setYes} />}
    </Dialog>
  );
}
