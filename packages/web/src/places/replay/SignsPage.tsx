/** What told early: single sentences, counted, each judged on students it was not chosen by. */
import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import { DAY, dateOf, dayNumberOf, dayWords, plural } from '@zest-bell/core/time';
import type { Condition } from '@zest-bell/core/conditions';
import { isSame } from '@zest-bell/core/course';
import { contract } from '@zest-bell/core/contract';
import type { SignsAnswer } from '@zest-bell/core/exchange';
import { NO_VIEW } from '@zest-bell/core/lookout';
import { FEWEST, partOfOutcome, weekOf, wholeWeeks } from '@zest-bell/core/outcomes';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { refreshAll, useCourses } from '../../lib/queries.ts';
import { useLongWork } from '../../lib/useLongWork.ts';
import { ChartCard } from '../../parts/charts/ChartCard.tsx';
import { LastSeenNote } from '../../parts/common/LastSeenNote.tsx';
import { Empty, Failed } from '../../parts/common/States.tsx';
import { Progress } from '../../parts/common/Progress.tsx';
import { FilterSentence } from '../../parts/table/FilterSentence.tsx';
import { Button } from '../../ui/Button.tsx';
import { Check, DateField } from '../../ui/fields.tsx';
import { ReplayTabPage } from './ReplayTabPage.tsx';
import { SignHeads, SignLine, type SignsAsked } from './SignLine.tsx';
import { signsChart } from './signsChart.ts';

const CARD = 'rounded-[16px] border border-line bg-sheet px-5 py-4';
/** Signs that are shown at first. */
const SHOWN = 12;
const PAIRS_SHOWN = 4;

export function SignsPage() {
  const here = useHere();
  const { calendar } = here.course;
  const latest = Math.min(here.now, calendar.end);
  const today = dateOf(calendar.dayNumber(latest));
  const [outcome, setOutcome] = useState<Condition | null>(here.answer.worry);
  const [date, setDate] = useState(today);
  const at = Math.min(latest, calendar.zone.toInstant((dayNumberOf(date) + 1) * DAY) - 1);
  const weeks = wholeWeeks(here.course, at - 1);
  const [chosen, setChosen] = useState(4);
  const week = Math.min(Math.max(1, chosen), Math.max(1, weeks.length));
  const [others, setOthers] = useState<ReadonlySet<number>>(new Set());
  const by = weekOf(here.course, week);
  const asked: SignsAsked | null = outcome && weeks.length > 0 ? { outcome, at, by } : null;
  const answer = useLongWork(
    ['signs', here.id, here.answer.version, here.now],
    contract.rounds.signs,
    { course: here.id },
    asked && { ...asked, with: [...others] },
    true,
  );
  return (
    <ReplayTabPage
      here={here}
      tab="/early-signs"
      filters={
        <>
          <DateField label="How it turned out by" value={date} min={here.course.start} max={today} onChange={setDate} />
        </>
      }
    >
      <LastSeenNote here={here} />
      <Outcome here={here} outcome={outcome} onChange={setOutcome} at={at} />
      {weeks.length === 0 ? (
        <Empty title="Too early for early signs">
          Early signs need at least one week of the course before the day in “How it turned out by”.
        </Empty>
      ) : (
        <>
          <section aria-label="When signs are read" className={CARD}>
            <label className="block">
              <span className="text-[15px] font-semibold">
                Read after week <span className="font-num">{week}</span>, at the start of{' '}
                {dayWords(by, here.course.timeZone)}
              </span>
              <input
                type="range"
                min={1}
                max={weeks.length}
                value={week}
                aria-valuetext={`Week ${week}, ${dayWords(by, here.course.timeZone)}`}
                onChange={(e) => setChosen(Number(e.target.value))}
                className="mt-2 block w-full accent-[var(--pine)]"
              />
              <span aria-hidden className="flex justify-between px-1.5 text-[11px] text-ink-3 tabular-nums">
                {weeks.map((_, i) => (
                  <span key={i} className="w-4 text-center">
                    {i + 1}
                  </span>
                ))}
              </span>
            </label>
            <Others here={here} chosen={others} onChange={setOthers} answer={answer.data} />
          </section>
          {outcome === null ? (
            <p className="text-ink-2">Add a condition that says whom you worry about.</p>
          ) : answer.error ? (
            <Failed error={answer.error} retry={answer.again} />
          ) : (
            answer.data && asked && <Result here={here} asked={asked} week={week} answer={answer.data} />
          )}
          {outcome !== null && <Progress work={answer} what="signs" />}
        </>
      )}
      <Reading />
    </ReplayTabPage>
  );
}

function Outcome(props: {
  readonly here: CourseHere;
  readonly outcome: Condition | null;
  readonly onChange: (outcome: Condition | null) => void;
  readonly at: number;
}) {
  const { here, outcome, onChange, at } = props;
  const [busy, setBusy] = useState(false);
  const keep = async () => {
    setBusy(true);
    const kept = await attempt(() =>
      ask(contract.rounds.setWorry, { course: here.id }, { body: { outcome } }).then(() => true),
    );
    setBusy(false);
    if (!kept) return;
    await refreshAll();
    toast('Kept for this course. Early signs, Who it found, and the rule editor start with it.');
  };
  return (
    <section aria-label="Whom you worry about" className="rounded-[16px] border border-line bg-sheet px-5 py-3.5">
      <p className="text-[14px] text-ink-2">
        Whom you worry about, as it turned out by {dayWords(at, here.course.timeZone)}:
      </p>
      <FilterSentence
        here={here}
        view={{ ...NO_VIEW, when: outcome }}
        clear="Clear"
        onChange={(part) => part.when !== undefined && onChange(part.when)}
      />
      {outcome !== null && !isSame(outcome, here.answer.worry) && (
        <p className="mt-1">
          <Button needs="settings.write" busy={busy} onClick={() => keep()}>
            Keep for this course
          </Button>
        </p>
      )}
    </section>
  );
}

/** Other courses counted together with this one. */
function Others(props: {
  readonly here: CourseHere;
  readonly chosen: ReadonlySet<number>;
  readonly onChange: (chosen: ReadonlySet<number>) => void;
  readonly answer: SignsAnswer | undefined;
}) {
  const { here, chosen, onChange, answer } = props;
  const others = (useCourses().data ?? []).filter((c) => c.id !== here.id);
  if (others.length === 0) return null;
  const left = answer?.with.filter((w) => w.students === null && chosen.has(w.course)) ?? [];
  return (
    <details className="mt-2" open={chosen.size > 0}>
      <summary className="text-[14.5px] font-semibold">Count students of other courses with these</summary>
      <div className="mt-1 flex flex-wrap gap-x-5 gap-y-1">
        {others.map((c) => (
          <label key={c.id} className="flex items-center gap-2 text-[15px]">
            <input
              type="checkbox"
              className="accent-[var(--pine)]"
              checked={chosen.has(c.id)}
              onChange={() => {
                const next = new Set(chosen);
                if (!next.delete(c.id)) next.add(c.id);
                onChange(next);
              }}
            />
            {c.code} {c.title}
          </label>
        ))}
      </div>
      {left.length > 0 && (
        <p className="mt-1 text-[14px] text-ink-2">
          Not counted, because they lack this outcome or have not reached this week:{' '}
          {left.map((w) => others.find((c) => c.id === w.course)?.code ?? '').join(', ')}.
        </p>
      )}
    </details>
  );
}

function Result(props: {
  readonly here: CourseHere;
  readonly asked: SignsAsked;
  readonly week: number;
  readonly answer: SignsAnswer;
}) {
  const { here, asked, week, answer } = props;
  const [all, setAll] = useState(false);
  const [allPairs, setAllPairs] = useState(false);
  const [without, setWithout] = useState(false);
  const { worried, well, tooFew } = answer;
  const isNews = ({ condition }: { readonly condition: Condition }) =>
    !without || partOfOutcome(condition, asked.outcome) === null;
  const signs = answer.signs.filter(isNews);
  const pairs = answer.pairs.filter(isNews);
  const isMade = answer.signs.some(({ condition }) => partOfOutcome(condition, asked.outcome) !== null);
  const chart = useMemo(() => signsChart(answer, here.course), [answer, here.course]);
  const isTogether = answer.with.some((w) => w.students !== null);
  if (tooFew)
    return (
      <Empty title="Too few students to tell">
        {plural(worried, 'student')} you worry about and {well} who did fine: early signs need at least {FEWEST} of
        each. Widen the condition above, count students of other courses too, or come back later in the term.
      </Empty>
    );
  const shown = all ? signs : signs.slice(0, SHOWN);
  return (
    <>
      <section aria-label="Early signs" className={CARD}>
        <h2 className="text-[17px] font-bold">
          {signs.length > 0
            ? 'What would have found them early'
            : without
              ? 'Nothing else would have found them early'
              : 'Nothing would have found them early'}
        </h2>
        <p className="text-[14.5px] text-ink-2">
          {worried} of {worried + well} students ended up as you feared. Filled bar: tested on students who were not
          used to choose the sign. Outline: the fit to these students. Below: the likely range for students like these.
        </p>
        {isMade && (
          <Check label="Leave out signs that the outcome itself is made of" checked={without} onChange={setWithout} />
        )}
        {shown.length > 0 && <SignHeads answer={answer} />}
        <ul>
          {shown.map((sign) => (
            <SignLine key={JSON.stringify(sign.condition)} {...{ here, asked, week, isTogether, ...sign }} />
          ))}
        </ul>
        {signs.length > SHOWN && !all && (
          <Button look="quiet" onClick={() => setAll(true)}>
            Show all {signs.length} signs
          </Button>
        )}
      </section>
      {pairs.length > 0 && (
        <section aria-label="Two signs together" className={CARD}>
          <h2 className="text-[17px] font-bold">Two signs together</h2>
          <SignHeads answer={answer} />
          <ul>
            {(allPairs ? pairs : pairs.slice(0, PAIRS_SHOWN)).map((pair) => (
              <SignLine key={JSON.stringify(pair.condition)} {...{ here, asked, week, isTogether, ...pair }} />
            ))}
          </ul>
          {pairs.length > PAIRS_SHOWN && !allPairs && (
            <Button look="quiet" onClick={() => setAllPairs(true)}>
              Show all {pairs.length} pairs
            </Button>
          )}
        </section>
      )}
      {chart && <ChartCard {...chart} fileName={`${here.course.code} early signs`} />}
    </>
  );
}

/** What it is not. */
const Reading = () => (
  <section aria-label="How to read this" className={`${CARD} text-[14.5px] text-ink-2`}>
    <h2 className="text-[15px] font-bold text-ink">How to read this</h2>
    <ul className="mt-1 list-disc pl-5">
      <li>One class is not the next. With few students, a sign that looks good may be chance.</li>
      <li>A sign is not a cause. It shows who had the same outcome, not why.</li>
      <li>Nudges that were sent changed how it turned out. Students who came back after one count as well.</li>
    </ul>
  </section>
);
