/** A change from another course that waits here: taken, or left. Until then the copy here goes on as it is. */
import { useState } from 'react';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import type { SetChange, SetMember } from '@zest-bell/core/exchange';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { refreshAll } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { ChangeLines, openIn } from './ChangeLines.tsx';
import type { SetPart } from './setPart.ts';
import { Yes } from './Yes.tsx';

export function WaitingPart(props: SetPart & { readonly own: SetMember; readonly change: SetChange }) {
  const { here, kind, of, own, change, choices } = props;
  const [busy, setBusy] = useState(false);
  const choice = choices.of(here.id);
  const { picks, confirmed, outside } = choice;
  const settle = async (take: boolean) => {
    setBusy(true);
    const body = { version: own.version, picks, take, confirmed, outside };
    const outcome = await attempt(() => ask(contract.sets.settle, { course: here.id, kind, key: of }, { body }));
    setBusy(false);
    if (!outcome) return;
    choices.set(here.id, { problem: outcome.problem });
    if (outcome.problem === null) toast(take ? 'The change is confirmed here.' : 'It stays here as it is.');
    await refreshAll();
  };
  return (
    <section aria-label="A change is waiting for you" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[19px] font-bold">A change from {change.from} is waiting for you</h2>
      <p className="mb-3 text-[14px] text-ink-2">
        What you have in {here.course.code} goes on as it is until you confirm the change.
      </p>
      <ChangeLines
        member={own}
        change={change}
        items={here.course.items}
        picks={picks}
        onPick={(next) => choices.set(here.id, { picks: next })}
      />
      {choice.problem && (
        <Yes problem={choice.problem} choice={choice} onChange={(next) => choices.set(here.id, next)} />
      )}
      <div className="mt-3 flex flex-wrap gap-3">
        <Button look="main" busy={busy} disabled={openIn(change, picks) > 0} onClick={() => settle(true)}>
          Confirm the change
        </Button>
        <Button busy={busy} onClick={() => settle(false)}>
          Keep it as it is
        </Button>
      </div>
    </section>
  );
}
