import { useState } from 'react';
import { plural, type RuleCard } from '@zest-bell/core';
import type { Here } from '../app/here.ts';
import { Button } from '../ui/Button.tsx';
import { Dialog } from '../ui/Dialog.tsx';
import { attempt, ringNow } from './actions.ts';
import { RehearsalView, rehearsalWords, useRehearsal, wouldHear } from './Rehearsal.tsx';

/** Mail leaves from here: the names and the words first, then the button. */
export function RingDialog({
  here,
  card,
  onClose,
}: {
  readonly here: Here;
  readonly card: RuleCard;
  readonly onClose: () => void;
}) {
  const [busy, setBusy] = useState(false);
  const rehearsal = useRehearsal(here, card.rule, here.now);
  const heard = wouldHear(rehearsal.data);
  const ring = async () => {
    setBusy(true);
    const answer = await attempt(() => ringNow(here, card, true));
    setBusy(false);
    if (answer) onClose();
  };
  return (
    <Dialog
      open
      wide
      onClose={onClose}
      title={`Ring “${card.rule.name}” now`}
      note={
        rehearsal.data ? (
          <>
            <strong className="text-ink">{rehearsalWords(rehearsal.data)}</strong> Every limit applies, and no regular
            round moves.
          </>
        ) : (
          'Looking who would hear from you …'
        )
      }
      foot={
        <>
          <p className="text-[14px] text-ink-2">
            {heard === 0
              ? 'Nothing would leave.'
              : `${plural(heard, 'message')} will leave at once, unless quiet hours hold them.`}
          </p>
          <Button className="ml-auto" onClick={onClose}>
            Not now
          </Button>
          <Button look="main" busy={busy} disabled={!rehearsal.data || heard === 0} onClick={() => void ring()}>
            Ring now{heard > 0 ? ` · ${heard}` : ''}
          </Button>
        </>
      }
    >
      <RehearsalView here={here} rehearsal={rehearsal} />
    </Dialog>
  );
}
