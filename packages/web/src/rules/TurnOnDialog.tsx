import { useState } from 'react';
import type { Rule, RuleCard } from '@zest-bell/core';
import type { Here } from '../app/here.ts';
import { Button } from '../ui/Button.tsx';
import { Dialog } from '../ui/Dialog.tsx';
import { Empty } from '../ui/States.tsx';
import { When } from '../ui/When.tsx';
import { attempt, saveRule, setStatusWithUndo } from './actions.ts';
import { draftKey, sameRule, useDrafts } from './draft.ts';
import { instantOf, RehearsalView, rehearsalWords, useRehearsal } from './Rehearsal.tsx';

/** From here on the rule sends by itself: who would hear first is shown before. */
export function TurnOnDialog({
  here,
  card,
  rule,
  onClose,
}: {
  readonly here: Here;
  readonly card: RuleCard;
  /** The rule as drafted; it is saved first where it differs. */
  readonly rule: Rule;
  readonly onClose: () => void;
}) {
  const [busy, setBusy] = useState(false);
  const drop = useDrafts((s) => s.drop);
  const at = instantOf('nextRound', rule, here);
  const rehearsal = useRehearsal(here, rule, at);
  const turnOn = async () => {
    setBusy(true);
    const done = await attempt(async () => {
      const saved = sameRule(rule, card.rule) ? card : await saveRule(here, rule, card.version);
      drop(draftKey(here.id, rule.id));
      return setStatusWithUndo(here, [saved], 'on', { confirmed: true });
    });
    setBusy(false);
    if (done) onClose();
  };
  return (
    <Dialog
      open
      wide
      onClose={onClose}
      title={`Turn on “${rule.name}”`}
      note={
        <>
          From now on it looks and sends by itself.{' '}
          {at !== null && (
            <>
              First <When at={at} zone={here.course.timeZone} />, if nobody does anything until then:{' '}
            </>
          )}
          {rehearsal.data && <strong className="text-ink">{rehearsalWords(rehearsal.data)}</strong>}
        </>
      }
      foot={
        <>
          <Button className="ml-auto" onClick={onClose}>
            Not yet
          </Button>
          <Button look="main" busy={busy} disabled={rehearsal.isError} onClick={() => void turnOn()}>
            Turn on
          </Button>
        </>
      }
    >
      {at === null ? (
        <Empty title="No round is left">It can be turned on, but its run is over: give it a later last day.</Empty>
      ) : (
        <RehearsalView here={here} rehearsal={rehearsal} />
      )}
    </Dialog>
  );
}
