/** What a rule, a change to it, or all rules would have done over the term so far. Nothing is sent. */
import { useMemo, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { DAY, dateOf, dateWords } from '@zest-bell/core/time';
import { replayedUntil } from '@zest-bell/core/outcomes';
import type { ReplayAnswer, RuleCard } from '@zest-bell/core/exchange';
import { offWords } from '../../lib/decisionWords.ts';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { useOutcomes, useRules } from '../../lib/queries.ts';
import { ChartCard } from '../../parts/charts/ChartCard.tsx';
import { Progress } from '../../parts/common/Progress.tsx';
import { SelectField } from '../../ui/fields.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { daysChart } from './daysChart.ts';
import { Difference } from './Difference.tsx';
import { ReplayGrid } from './ReplayGrid.tsx';
import { ReplayTabPage } from './ReplayTabPage.tsx';
import { Totals } from './Totals.tsx';
import { orderOf, useReplay, useTried } from './tried.ts';
import { VaryPart } from './VaryPart.tsx';
import { WhatIf } from './WhatIf.tsx';

const ALL = 'all';

export function ReplayPage() {
  const here = useHere();
  const rules = useRules(here.id);
  const [params, setParams] = useSearchParams();
  const cards = rules.data ?? [];
  const asked = params.get('rule') ?? cards[0]?.rule.id ?? ALL;
  if (rules.error)
    return (
      <ReplayTabPage here={here} tab="">
        <Failed error={rules.error} retry={() => void rules.refetch()} />
      </ReplayTabPage>
    );
  if (!rules.data)
    return (
      <ReplayTabPage here={here} tab="">
        <Loading what="your rules" />
      </ReplayTabPage>
    );
  if (cards.length === 0)
    return (
      <ReplayTabPage here={here} tab="">
        <Empty title="No rules yet">
          A rule that you have written is replayed here, on or not.{' '}
          <Link className="font-semibold text-pine underline" to={`/c/${here.id}/rules?new`}>
            Write a rule
          </Link>
        </Empty>
      </ReplayTabPage>
    );
  const card = cards.find((c) => c.rule.id === asked) ?? null;
  return (
    <ReplayTabPage
      here={here}
      tab=""
      filters={
        <>
          <div className="w-72 max-w-full">
            <SelectField
              label="Replay"
              value={card ? asked : ALL}
              onChange={(e) => setParams({ rule: e.target.value }, { replace: true })}
            >
              <option value={ALL}>All rules that are on</option>
              {cards.map((c) => (
                <option key={c.rule.id} value={c.rule.id}>
                  {c.rule.name}
                  {c.rule.status === 'on' ? '' : ` (${offWords(c.rule.status, c.wasOn)})`}
                </option>
              ))}
            </SelectField>
          </div>
        </>
      }
    >
      <ReplayOf key={card ? asked : ALL} here={here} card={card} cards={cards} />
    </ReplayTabPage>
  );
}

function ReplayOf(props: {
  readonly here: CourseHere;
  readonly card: RuleCard | null;
  readonly cards: readonly RuleCard[];
}) {
  const { here, card, cards } = props;
  const tried = useTried(here, card);
  const before = useReplay(here, orderOf(here, tried, false));
  const after = useReplay(here, tried.isOther ? orderOf(here, tried, true) : null);
  const { calendar } = here.course;
  const today = calendar.dayNumber(Math.min(here.now, calendar.end));
  const [day, setDay] = useState<number | null>(null);
  const shownDay = day ?? today;
  const cut = useMemo(() => {
    const until = calendar.zone.toInstant((shownDay + 1) * DAY) - 1;
    return (seen: ReplayAnswer | undefined): ReplayAnswer | undefined =>
      seen && (until >= seen.until ? seen : { ...replayedUntil(seen, until, calendar), until });
  }, [calendar, shownDay]);
  const was = useMemo(() => cut(before.data), [cut, before.data]);
  const now = useMemo(() => cut(tried.isOther ? after.data : undefined), [cut, after.data, tried.isOther]);
  const shown = now ?? was;
  const outcomes = useOutcomes(here.id).data;
  // What was really sent by the rules that are replayed: one, or all that are on.
  const replayed = cards.filter((c) => (card && c === card) || ((!card || tried.together) && c.rule.status === 'on'));
  const sent = outcomes && replayed.reduce((sum, c) => sum + (outcomes.rules[c.rule.id]?.sent ?? 0), 0);
  const days = useMemo(() => (shown && shown.days.length > 0 ? daysChart(shown) : null), [shown]);
  const error = before.error ?? after.error;
  return (
    <>
      <WhatIf here={here} tried={tried} />
      <Progress work={before} what="the replay" />
      {tried.isOther && <Progress work={after} what="the replay of what you try" />}
      {error !== null && <Failed error={error} retry={before.error === null ? after.again : before.again} />}
      {error === null && shown && was && (
        <>
          <DayScrub
            first={calendar.dayNumber(calendar.start)}
            last={today}
            day={shownDay}
            onDay={(d) => setDay(d === today ? null : d)}
          />
          {now ? (
            <Difference here={here} before={was} after={now} />
          ) : (
            <Totals here={here} seen={shown} sent={shownDay === today ? sent : undefined} />
          )}
          {shown.days[0] && (
            <p className="px-1 text-[13.5px] text-ink-2">
              Counted from {dateWords(shown.days[0].day)}, as if {card ? 'the rule' : 'the rules'} had been on since the
              term began, with limits and no other rule beside {card ? 'it' : 'them'}. Who it found counts the days of
              the rule’s own run, without limits, so the two can differ.
            </p>
          )}
          {days && <ChartCard {...days} fileName={`${here.course.code} replay by day`} />}
          <ReplayGrid
            here={here}
            seen={shown}
            before={now ? was : null}
            names={new Map(cards.map((c) => [c.rule.id, c.rule.name]))}
            changed={tried.changed}
          />
          {card && <VaryPart here={here} tried={tried} />}
        </>
      )}
    </>
  );
}

/** Up to which day the replay is told: everything below follows. */
function DayScrub(props: {
  readonly first: number;
  readonly last: number;
  readonly day: number;
  readonly onDay: (day: number) => void;
}) {
  const { first, last, day, onDay } = props;
  const words = dateWords(dateOf(day));
  return (
    <label className="flex flex-wrap items-center gap-x-4 gap-y-1 px-1 text-[14.5px]">
      <span className="font-semibold">Up to {words}</span>
      <input
        type="range"
        className="min-w-40 flex-1 accent-[var(--pine)]"
        aria-label={`Up to ${words}`}
        aria-valuetext={words}
        min={first}
        max={last}
        value={day}
        onChange={(e) => onDay(Number(e.target.value))}
      />
      <span className="text-ink-2">{day === last ? 'the whole term so far' : 'as it stood then'}</span>
    </label>
  );
}
