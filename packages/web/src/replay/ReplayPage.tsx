/** What a rule, a change to it, or all rules would have done over the term so far. Nothing is sent. */
import { useMemo, useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Link, useSearchParams } from 'react-router';
import {
  compareReplays,
  numbersOf,
  oneDecimal,
  plural,
  ruleDocument,
  withNumbers,
  type ReplayAnswer,
  type Rule,
} from '@zest-bell/core';
import { api } from '../app/api.ts';
import { nameOf, useHere, type Here } from '../app/here.ts';
import { useRules } from '../app/queries.ts';
import { ChartCard } from '../charts/ChartCard.tsx';
import { Button } from '../ui/Button.tsx';
import { NumberField, SelectField } from '../ui/fields.tsx';
import { Empty, Failed, Loading } from '../ui/States.tsx';
import { useSettled } from '../ui/useSettled.ts';
import { daysChart } from './daysChart.ts';
import { ReplayGrid } from './ReplayGrid.tsx';
import { ReplayTabs } from './ReplayTabs.tsx';
import { Totals } from './Totals.tsx';

export function ReplayPage() {
  const here = useHere();
  const rules = useRules(here.id);
  const [params, setParams] = useSearchParams();
  const [numbers, setNumbers] = useState<ReadonlyMap<string, number>>(new Map());
  const cards = rules.data ?? [];
  const asked = params.get('rule') ?? cards[0]?.rule.id ?? '';
  const saved = asked === 'all' ? null : (cards.find((c) => c.rule.id === asked)?.rule ?? null);
  const changed = useMemo(
    () => (saved && numbers.size > 0 ? withNumbers(saved, here.course, numbers) : null),
    [saved, numbers, here.course],
  );
  const key = asked === 'all' ? null : (saved?.id ?? undefined);
  const before = useReplay(here, key, null);
  const after = useReplay(here, changed ? key : undefined, changed);
  if (rules.error) return <Failed error={rules.error} retry={() => void rules.refetch()} />;
  if (!rules.data) return <Loading what="your rules" />;
  if (cards.length === 0)
    return (
      <Empty title="No rules yet">
        A rule that you have written is replayed here, on or not.{' '}
        <Link className="font-semibold text-pine underline" to={`/c/${here.id}/rules?new`}>
          Write a rule
        </Link>
      </Empty>
    );
  const shown = changed && after.data ? after.data : before.data;
  return (
    <div className="mx-auto grid w-full max-w-[1240px] gap-4 px-5 pt-4 pb-6">
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
        <ReplayTabs here={here} />
        <h1 className="sr-only">Replay</h1>
        <div className="ml-auto w-72 max-w-full">
          <SelectField
            label="Replay"
            value={asked}
            onChange={(e) => {
              setNumbers(new Map());
              setParams({ rule: e.target.value }, { replace: true });
            }}
          >
            <option value="all">All rules that are on</option>
            {cards.map((c) => (
              <option key={c.rule.id} value={c.rule.id}>
                {c.rule.name}
                {c.rule.status === 'on' ? '' : ` (${c.rule.status})`}
              </option>
            ))}
          </SelectField>
        </div>
      </div>
      {saved && <WhatIf here={here} rule={saved} numbers={numbers} onNumbers={setNumbers} />}
      {before.error || after.error ? (
        <Failed error={before.error ?? after.error} retry={() => void before.refetch()} />
      ) : !shown || !before.data ? (
        <Loading what="the replay" />
      ) : (
        <>
          <Totals here={here} seen={shown} />
          {changed && after.data && <Difference here={here} before={before.data} after={after.data} />}
          {shown.days.length > 0 && <ChartCard {...daysChart(shown)} fileName={`${here.course.code} replay by day`} />}
          <ReplayGrid
            here={here}
            seen={shown}
            names={new Map(cards.map((c) => [c.rule.id, c.rule.name]))}
            changed={changed}
          />
        </>
      )}
    </div>
  );
}

/** `rule` null: all that are on; left out: nothing is asked. */
function useReplay(here: Here, rule: string | null | undefined, changed: Rule | null) {
  const document = changed && ruleDocument(changed, here.course.timeZone);
  const wanted = rule === undefined ? '' : JSON.stringify({ rule, ...(document && { changed: document }) });
  const order = useSettled(wanted, 250);
  return useQuery({
    queryKey: ['replay', here.id, here.answer.version, here.now, order],
    queryFn: ({ signal }) => api.post<ReplayAnswer>(`/courses/${here.id}/replay`, JSON.parse(order), signal),
    // An order that waits is not asked for under another rule's name.
    enabled: order !== '' && wanted !== '',
  });
}

/** The numbers of a rule, to be tried out: nothing is saved. */
function WhatIf(props: {
  readonly here: Here;
  readonly rule: Rule;
  readonly numbers: ReadonlyMap<string, number>;
  readonly onNumbers: (numbers: ReadonlyMap<string, number>) => void;
}) {
  const { here, rule, numbers, onNumbers } = props;
  const all = numbersOf(rule, here.course);
  if (all.length === 0) return null;
  return (
    <section aria-label="What if" className="rounded-[16px] border border-line bg-sheet px-5 py-3.5">
      <h2 className="text-[16px] font-bold">What if</h2>
      <p className="text-[14px] text-ink-2">Try other numbers. The rule stays as it is.</p>
      <div className="mt-2 flex flex-wrap items-end gap-x-6 gap-y-3">
        {all.map((n) => (
          <div key={n.path} className="min-w-44">
            <p className="mb-0.5 max-w-72 truncate text-[13.5px] text-ink-2" title={n.of}>
              {n.of}
            </p>
            <NumberField
              label={n.label}
              value={numbers.get(n.path) ?? n.value}
              whole={n.whole}
              {...(n.min !== null && { min: n.min })}
              {...(n.max !== null && { max: n.max })}
              onChange={(value) => {
                const next = new Map(numbers);
                if (value === null || value === n.value) next.delete(n.path);
                else next.set(n.path, value);
                onNumbers(next);
              }}
            />
          </div>
        ))}
        {numbers.size > 0 && (
          <Button look="quiet" onClick={() => onNumbers(new Map())}>
            Back to the rule’s own numbers
          </Button>
        )}
      </div>
    </section>
  );
}

/** Who is gained and lost by the change, how many more messages, and how much earlier. */
function Difference(props: { readonly here: Here; readonly before: ReplayAnswer; readonly after: ReplayAnswer }) {
  const { here, before, after } = props;
  const { more, gained, lost, earlier } = compareReplays(before, after);
  const names = (students: readonly string[]) =>
    students.slice(0, 8).map((s, i) => (
      <span key={s}>
        {i > 0 && '; '}
        <Link className="underline-offset-4 hover:underline" to={`/c/${here.id}/students/${encodeURIComponent(s)}`}>
          {nameOf(here, s)}
        </Link>
      </span>
    ));
  return (
    <section aria-label="What would change" className="rounded-[16px] bg-zest-soft px-5 py-3.5 text-[15px]">
      <h2 className="text-[16px] font-bold">What would change</h2>
      <ul className="mt-1 grid gap-0.5">
        <li>
          {more === 0
            ? 'The same number of nudges'
            : `${plural(Math.abs(more), 'nudge')} ${more > 0 ? 'more' : 'fewer'}`}
          .
        </li>
        <li>
          {gained.length === 0 ? (
            'No other student would be reached.'
          ) : (
            <>
              Also reached: {names(gained)}
              {gained.length > 8 && ` and ${gained.length - 8} more`}.
            </>
          )}
        </li>
        <li>
          {lost.length === 0 ? (
            'No student would be lost.'
          ) : (
            <>
              No longer reached: {names(lost)}
              {lost.length > 8 && ` and ${lost.length - 8} more`}.
            </>
          )}
        </li>
        {earlier !== null && (
          <li>
            First nudges to students reached either way:{' '}
            {Math.abs(earlier) < 0.05
              ? 'at the same time'
              : `${oneDecimal(Math.abs(earlier))} days ${earlier > 0 ? 'earlier' : 'later'} on average`}
            .
          </li>
        )}
      </ul>
    </section>
  );
}
