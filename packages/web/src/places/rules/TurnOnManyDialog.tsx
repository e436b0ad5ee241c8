/** Several rules are turned on together: for each, who would hear first. */
import { useState } from 'react';
import { useQueries } from '@tanstack/react-query';
import { plural } from '@zest-bell/core/time';
import type { RuleCard } from '@zest-bell/core/exchange';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { When } from '../../ui/When.tsx';
import { attempt } from '../../lib/attempt.ts';
import { rehearse, setStatusWithUndo } from '../../lib/ruleActions.ts';
import { AskMany, reachesMany } from './AskMany.tsx';
import { AskUnfinished } from '../../parts/wording/AskUnfinished.tsx';
import { AskOutside, newOutside } from './AskOutside.tsx';
import { instantOf, rehearsalWords, wouldWrite } from './Rehearsal.tsx';
import { useUnfinished } from './useUnfinished.ts';

export function TurnOnManyDialog(props: {
  readonly here: CourseHere;
  readonly cards: readonly RuleCard[];
  readonly onClose: () => void;
  readonly onDone: () => void;
}) {
  const { here, cards } = props;
  const [busy, setBusy] = useState(false);
  const [yes, setYes] = useState(false);
  const looks = cards.map((c) => instantOf('nextRound', c.rule, here));
  const rehearsals = useQueries({
    queries: cards.map((c, i) => ({
      queryKey: ['rehearsal', here.id, JSON.stringify(c.rule), looks[i]],
      queryFn: ({ signal }) => rehearse(here, c.rule, looks[i] ?? here.now, signal),
    })),
  });
  const most = Math.max(0, ...rehearsals.map((r) => wouldWrite(r.data)));
  const many = reachesMany(here, most);
  const outside = [
    ...new Map(cards.flatMap((c) => newOutside(here, c.rule, c)).map((to) => [to.address, to])).values(),
  ];
  const [outsideYes, setOutsideYes] = useState(false);
  const unfinished = useUnfinished(
    here,
    cards.map((c) => c.rule),
  );
  const [asItIs, setAsItIs] = useState(false);
  const turnOn = async () => {
    setBusy(true);
    const done = await attempt(() =>
      setStatusWithUndo(here, cards, 'on', {
        confirmed: yes,
        outside: outsideYes ? outside.map((to) => to.address) : [],
      }),
    );
    setBusy(false);
    if (done) props.onDone();
  };
  return (
    <Dialog
      open
      onClose={props.onClose}
      title={`Turn on ${plural(cards.length, 'rule')}`}
      note="From now on each rule runs and sends by itself. All of them are turned on, or none."
      foot={
        <>
          <Button className="ml-auto" onClick={props.onClose}>
            Not yet
          </Button>
          <Button
            look="main"
            busy={busy}
            disabled={
              rehearsals.some((r) => !r.data) ||
              (many && !yes) ||
              (outside.length > 0 && !outsideYes) ||
              (unfinished.length > 0 && !asItIs)
            }
            onClick={() => turnOn()}
          >
            Turn on {cards.length}
          </Button>
        </>
      }
    >
      <ul className="grid gap-3 px-6 py-4">
        {cards.map((c, i) => (
          <li key={c.rule.id}>
            <strong>{c.rule.name}</strong>
            <p className="text-[14px] text-ink-2">
              {looks[i] === null ? (
                'This rule has reached its last day.'
              ) : (
                <>
                  First <When at={looks[i]!} zone={here.course.timeZone} />:{' '}
                  {rehearsals[i]!.isError
                    ? 'It cannot be rehearsed, so it cannot be turned on.'
                    : rehearsals[i]!.data
                      ? rehearsalWords(rehearsals[i]!.data)
                      : 'checking …'}
                </>
              )}
            </p>
            {rehearsals[i]!.data?.unheard.map((words) => (
              <p key={words} className="text-[14px] text-tangerine-text">
                ▲ {words}
              </p>
            ))}
          </li>
        ))}
      </ul>
      {unfinished.length > 0 && (
        <div className="px-6 py-3">
          <AskUnfinished parts={unfinished} act="Turn the rules on with these texts" yes={asItIs} onYes={setAsItIs} />
        </div>
      )}
      {many && <AskMany here={here} heard={most} yes={yes} onYes={setYes} />}
      {outside.length > 0 && <AskOutside here={here} addresses={outside} yes={outsideYes} onYes={setOutsideYes} />}
    </Dialog>
  );
}
