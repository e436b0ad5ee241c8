/** A fair trial as a part of its wording: what one would need, its start, its state, its end. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { percentWords, plural } from '@zest-bell/core/time';
import { TRIAL_POINTS } from '@zest-bell/core/outcomes';
import type { TrialPlan } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { atMoment } from '../../lib/atMoment.ts';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Failed } from '../common/States.tsx';
import { TrialResultPart } from './TrialResultPart.tsx';

export function TrialPart({ here, wording }: { readonly here: CourseHere; readonly wording: string }) {
  const { data, error, refetch } = useQuery({
    ...atMoment(['trial', here.id, wording], here.now),
    queryFn: ({ signal }) => ask(contract.wording.trial, { course: here.id, wording }, { signal }),
  });
  if (error) return <Failed error={error} retry={() => void refetch()} />;
  if (!data) return null;
  const { trial, plan } = data;
  const running = trial !== null && trial.endedAt === null;
  const end = async () => {
    if (!(await attempt(() => ask(contract.wording.endTrial, { course: here.id, wording }).then(() => true)))) return;
    await refreshAll();
    toast('The fair trial ended. Students now get the texts in turn again.');
  };
  return (
    <section aria-label="Fair trial" className="border-t border-line pt-3.5">
      <h3 className="text-[13px] font-semibold text-ink-2">Fair trial</h3>
      {trial && <TrialResultPart trial={trial} zone={here.course.timeZone} />}
      {running && (
        <div className="mt-2 flex flex-wrap items-center gap-3">
          <Button needs="rules.run" onClick={() => end()}>
            End fair trial
          </Button>
          <span className="text-[13.5px] text-ink-2">The texts cannot change while it runs.</span>
        </div>
      )}
      {!running && <Start here={here} plan={plan} wording={wording} />}
    </section>
  );
}

function Start(props: { readonly here: CourseHere; readonly plan: TrialPlan; readonly wording: string }) {
  const { plan, wording, here } = props;
  const [chosen, setPoints] = useState<(typeof TRIAL_POINTS)[number]>(20);
  const points = plan.needed.some((n) => n.points === chosen) ? chosen : plan.needed[0]?.points;
  const [more, setMore] = useState<ReadonlySet<number>>(new Set());
  const [busy, setBusy] = useState(false);
  if (plan.refused !== null) return <p className="mt-1 text-[14px] text-ink-2">{plan.refused}</p>;
  const others = plan.courses.filter((c) => c.id !== here.id);
  if (points === undefined)
    return (
      <p className="mt-1 text-[14px] text-ink-2">
        {percentWords(100 * plan.base)} of the students come back already. A better text has little to gain, so a fair
        trial could not find one.
      </p>
    );
  const start = async () => {
    setBusy(true);
    const started = await attempt(() =>
      ask(contract.wording.startTrial, { course: here.id, wording }, { body: { points, courses: [...more] } }).then(
        () => true,
      ),
    );
    setBusy(false);
    if (!started) return;
    await refreshAll();
    toast('The fair trial started. Zest Bell chooses each student’s text at random.');
  };
  return (
    <div className="mt-1 grid gap-2 text-[14px]">
      <p className="text-ink-2">
        Find out which text brings more students back. Zest Bell chooses a text for each student at random, and the
        student keeps getting that text.
      </p>
      <fieldset>
        <legend className="font-semibold">Smallest difference that matters to you</legend>
        {plan.needed.map((n) => (
          <label key={n.points} className="mt-0.5 flex items-center gap-2">
            <input
              type="radio"
              name="points"
              className="accent-[var(--pine)]"
              checked={points === n.points}
              onChange={() => setPoints(n.points)}
            />
            <span>
              {n.points} points: needs <span className="font-num">{n.students}</span> students for each text
            </span>
          </label>
        ))}
      </fieldset>
      <p className="text-[13.5px] text-ink-2">
        {plan.baseKnown
          ? `Counted from today’s share: ${percentWords(100 * plan.base)} come back.`
          : 'Counted as if half of the students came back, since too few are known yet.'}{' '}
        So far this wording reached {plural(plan.reached, 'student')}.
      </p>
      {others.length > 0 && (
        <fieldset>
          <legend className="font-semibold">Other courses with the same texts</legend>
          {others.map((c) => (
            <label key={c.id} className="mt-0.5 flex items-center gap-2">
              <input
                type="checkbox"
                className="accent-[var(--pine)]"
                checked={more.has(c.id)}
                onChange={() => {
                  const next = new Set(more);
                  if (!next.delete(c.id)) next.add(c.id);
                  setMore(next);
                }}
              />
              <span>
                Include {c.name}
                <span className="text-ink-2">: reached {plural(c.reached, 'student')} so far</span>
              </span>
            </label>
          ))}
        </fieldset>
      )}
      <div>
        <Button needs="rules.run" busy={busy} onClick={() => start()}>
          Start fair trial
        </Button>
      </div>
    </div>
  );
}
