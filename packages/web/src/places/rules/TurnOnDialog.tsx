/** From here on the rule sends on its own: who would hear first is shown before, and asked about when they are many. */
import { useState } from 'react';
import { listWords } from '@zest-bell/core/time';
import type { Rule } from '@zest-bell/core/rules';
import { isSameCondition } from '@zest-bell/core/rounds';
import type { RuleCard } from '@zest-bell/core/exchange';
import { useRules } from '../../lib/queries.ts';
import { AskUnfinished } from '../../parts/wording/AskUnfinished.tsx';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Choice } from '../../ui/fields.tsx';
import { Empty } from '../../parts/common/States.tsx';
import { When } from '../../ui/When.tsx';
import { attemptOver } from '../../lib/attempt.ts';
import { saveRule, setStatusWithUndo } from '../../lib/ruleActions.ts';
import { AskMany, reachesMany } from './AskMany.tsx';
import { AskOutside, newOutside } from './AskOutside.tsx';
import { draftKey, sameRule, useDrafts } from '../../parts/rule/draft.ts';
import { instantOf, RehearsalView, useRehearsal, wouldWrite } from './Rehearsal.tsx';
import { useUnfinished } from './useUnfinished.ts';

export function TurnOnDialog({
  here,
  card,
  rule,
  onClose,
}: {
  readonly here: CourseHere;
  readonly card: RuleCard;
  /** The rule as drafted; it is saved first where it differs. */
  readonly rule: Rule;
  readonly onClose: () => void;
}) {
  const [busy, setBusy] = useState(false);
  const [newOnly, setNewOnly] = useState(false);
  const [yes, setYes] = useState(false);
  const drop = useDrafts((s) => s.drop);
  const at = instantOf('nextRound', rule, here);
  const rehearsal = useRehearsal(here, { ...rule, spellsFrom: newOnly ? here.now : null }, at);
  const heard = wouldWrite(rehearsal.data);
  const many = rehearsal.data !== undefined && reachesMany(here, heard);
  const outside = newOutside(here, rule, card);
  const [outsideYes, setOutsideYes] = useState(false);
  const [asItIs, setAsItIs] = useState(false);
  const unfinished = useUnfinished(here, [rule]);
  const twins = (useRules(here.id).data ?? []).filter(
    (c) => c.rule.id !== rule.id && c.rule.status === 'on' && isSameCondition(c.rule, rule),
  );
  const turnOn = async () => {
    setBusy(true);
    const done = await attemptOver(async () => {
      const saved = sameRule(rule, card.rule) ? card : await saveRule(here, rule, card.version);
      drop(draftKey(here.id, rule.id));
      return setStatusWithUndo(here, [saved], 'on', {
        confirmed: yes,
        newSpellsOnly: newOnly,
        outside: outsideYes ? outside.map((to) => to.address) : [],
      });
    }, onClose);
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
          From now on this rule runs and sends by itself.{' '}
          {at !== null && (
            <>
              First <When at={at} zone={here.course.timeZone} />. Below is what would happen if nobody does anything
              before then.
            </>
          )}
        </>
      }
      foot={
        <>
          <Button className="ml-auto" onClick={onClose}>
            Not yet
          </Button>
          <Button
            look="main"
            busy={busy}
            disabled={
              rehearsal.isError ||
              (many && !yes) ||
              (outside.length > 0 && !outsideYes) ||
              (unfinished.length > 0 && !asItIs)
            }
            onClick={() => turnOn()}
          >
            Turn on
          </Button>
        </>
      }
    >
      {twins.length > 0 && (
        <p role="alert" className="bg-tangerine-soft px-6 py-2.5 text-[14.5px]">
          ▲ {listWords(twins.map((c) => `“${c.rule.name}”`))} {twins.length === 1 ? 'is' : 'are'} on and{' '}
          {twins.length === 1 ? 'looks' : 'look'} for the same students. The rule that is higher in the list writes to
          them first.
        </p>
      )}
      {at === null ? (
        <Empty title="No checks left">This rule has reached its last day. Choose a later last day first.</Empty>
      ) : (
        <RehearsalView here={here} rehearsal={rehearsal} scope={<Scope newOnly={newOnly} onChange={setNewOnly} />} />
      )}
      {unfinished.length > 0 && (
        <div className="px-6 py-3">
          <AskUnfinished parts={unfinished} act="Turn the rule on with this text" yes={asItIs} onYes={setAsItIs} />
        </div>
      )}
      {many && <AskMany here={here} heard={heard} yes={yes} onYes={setYes} />}
      {outside.length > 0 && <AskOutside here={here} addresses={outside} yes={outsideYes} onYes={setOutsideYes} />}
    </Dialog>
  );
}

/** Whether those who match already hear too. */
function Scope({ newOnly, onChange }: { readonly newOnly: boolean; readonly onChange: (newOnly: boolean) => void }) {
  const choice = (value: boolean, words: string) => (
    <Choice name="scope" label={words} checked={newOnly === value} onChoose={() => onChange(value)} />
  );
  return (
    <fieldset className="grid gap-0.5 text-[14px]">
      <legend className="text-[13px] font-semibold text-ink-2">Who can be nudged</legend>
      {choice(false, 'Every student who matches, now or later')}
      {choice(true, 'Only students who start to match from now on')}
    </fieldset>
  );
}
