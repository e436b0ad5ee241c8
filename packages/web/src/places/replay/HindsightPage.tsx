/** How well a rule finds the students whom one worries about: read at a late day, with the rounds before it. */
import { useMemo, useState } from 'react';
import { ChevronRight } from 'lucide-react';
import { Link, useSearchParams } from 'react-router';
import { dateOf, dayNumberOf, DAY, dayWords, oneDecimal, plural, numberWords } from '@zest-bell/core/time';
import type { Condition } from '@zest-bell/core/conditions';
import { numbersOf } from '@zest-bell/core/rules';
import type { Course } from '@zest-bell/core/course';
import {
  cellOf,
  mayGroupBy,
  rangedShareWords,
  valuesToTry,
  type GroupBy,
  type HindsightCell,
  type Proportion,
} from '@zest-bell/core/outcomes';
import { NO_VIEW } from '@zest-bell/core/lookout';
import type { HindsightAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { nameOf, studentPath, useHere, type CourseHere } from '../../lib/here.ts';
import { useRules } from '../../lib/queries.ts';
import { useLongWork } from '../../lib/useLongWork.ts';
import { ChartCard } from '../../parts/charts/ChartCard.tsx';
import { FilterSentence } from '../../parts/table/FilterSentence.tsx';
import { DateField, SelectField } from '../../ui/fields.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { Progress } from '../../parts/common/Progress.tsx';
import { TreatedAlike } from './TreatedAlike.tsx';
import { ReplayTabPage } from './ReplayTabPage.tsx';
import { variedChart } from './variedChart.ts';

export function HindsightPage() {
  const here = useHere();
  const rules = useRules(here.id);
  const [params, setParams] = useSearchParams();
  const [outcome, setOutcome] = useState<Condition | null>(here.answer.worry);
  const { calendar } = here.course;
  const latest = Math.min(here.now, calendar.end);
  const today = dateOf(calendar.dayNumber(latest));
  const [date, setDate] = useState(today);
  const [path, setPath] = useState<string | null>(null);
  const [by, setBy] = useState<GroupBy | null>(null);
  const groupings = useMemo(() => groupingsOf(here.course), [here.course]);
  const [cell, setCell] = useState<HindsightCell>('missed');
  const cards = rules.data ?? [];
  const asked = params.get('rule') ?? cards[0]?.rule.id ?? '';
  const rule = cards.find((c) => c.rule.id === asked)?.rule ?? null;
  const numbers = useMemo(
    () => (rule ? numbersOf(rule, here.course).filter((n) => n.path.startsWith('when')) : []),
    [rule, here.course],
  );
  const number = numbers.find((n) => n.path === path) ?? numbers[0] ?? null;
  const at = Math.min(latest, calendar.zone.toInstant((dayNumberOf(date) + 1) * DAY) - 1);
  const vary = number && { path: number.path, values: valuesToTry(number, 1) };
  const answer = useLongWork(
    ['hindsight', here.id, here.answer.version, here.now],
    contract.rounds.hindsight,
    { course: here.id },
    rule && outcome ? { rule: rule.id, outcome, at, vary, by } : null,
    true,
  );
  const chart = useMemo(
    () => (answer.data && number && answer.data.varied.length > 0 ? variedChart(answer.data.varied, number) : null),
    [answer.data, number],
  );
  if (rules.error)
    return (
      <ReplayTabPage here={here} tab="/who-it-found">
        <Failed error={rules.error} retry={() => void rules.refetch()} />
      </ReplayTabPage>
    );
  if (!rules.data)
    return (
      <ReplayTabPage here={here} tab="/who-it-found">
        <Loading what="your rules" />
      </ReplayTabPage>
    );
  if (cards.length === 0)
    return (
      <ReplayTabPage here={here} tab="/who-it-found">
        <Empty title="No rules yet">
          This page shows how well a rule finds the students you worry about.{' '}
          <Link className="font-semibold text-pine underline" to={`/c/${here.id}/rules?new`}>
            Write a rule
          </Link>
        </Empty>
      </ReplayTabPage>
    );
  const first = answer.told.find((t) => t['hindsight'])?.['hindsight'] as HindsightAnswer['hindsight'] | undefined;
  const data =
    outcome === null ? undefined : (answer.data ?? (first && { hindsight: first, varied: [], groups: null }));
  return (
    <ReplayTabPage
      here={here}
      tab="/who-it-found"
      filters={
        <>
          <div className="w-64 max-w-full">
            <SelectField
              label="Rule"
              value={asked}
              onChange={(e) => setParams({ rule: e.target.value }, { replace: true })}
            >
              {cards.map((c) => (
                <option key={c.rule.id} value={c.rule.id}>
                  {c.rule.name}
                </option>
              ))}
            </SelectField>
          </div>
          {groupings.length > 0 && (
            <SelectField
              label="Split by"
              value={by === null ? '' : JSON.stringify(by)}
              onChange={(e) => setBy(e.target.value === '' ? null : (JSON.parse(e.target.value) as GroupBy))}
            >
              <option value="">The whole class</option>
              {groupings.map((g) => (
                <option key={JSON.stringify(g)} value={JSON.stringify(g)}>
                  {g.of === 'section' ? 'Section' : g.name}
                </option>
              ))}
            </SelectField>
          )}
          <DateField label="Read on" value={date} min={here.course.start} max={today} onChange={setDate} />
        </>
      }
    >
      <section aria-label="Whom you worry about" className="rounded-[16px] border border-line bg-sheet px-5 py-3.5">
        <p className="text-[14px] text-ink-2">
          Whom you worry about, as it turned out by {dayWords(at, here.course.timeZone)}:
        </p>
        <FilterSentence
          here={here}
          view={{ ...NO_VIEW, when: outcome }}
          clear="Clear"
          onChange={(part) => part.when !== undefined && setOutcome(part.when)}
        />
        <p className="mt-1 text-[13.5px] text-ink-2">
          Nudges that were sent may have changed how it turned out. Limits are ignored here: this is about whom the rule
          finds.
        </p>
        {data && data.hindsight.firstRound !== null && (
          <p className="mt-1 text-[13.5px] text-ink-2">
            Counted from {dayWords(data.hindsight.firstRound, here.course.timeZone)}, over the{' '}
            {plural(data.hindsight.rounds, 'check')} of the rule’s own days. Replay counts from the day the term began,
            with limits, so the two can differ.
          </p>
        )}
      </section>
      {outcome === null ? (
        <p className="text-ink-2">Add a condition that says whom you worry about.</p>
      ) : answer.error ? (
        <Failed error={answer.error} retry={answer.again} />
      ) : !data ? null : (
        <Result here={here} answer={data} cell={cell} onCell={setCell} />
      )}
      {by && data?.groups && <TreatedAlike here={here} by={by} told={data.groups} />}
      {outcome !== null && <Progress work={answer} what="who it found" />}
      {data && number && chart && (
        <div>
          {numbers.length > 1 && (
            <div className="mb-2 w-96 max-w-full">
              <SelectField label="Number that varies" value={number.path} onChange={(e) => setPath(e.target.value)}>
                {numbers.map((n) => (
                  <option key={n.path} value={n.path}>
                    {n.of}: {n.label}
                  </option>
                ))}
              </SelectField>
            </div>
          )}
          <ChartCard {...chart} fileName={`${here.course.code} who it found`} />
        </div>
      )}
    </ReplayTabPage>
  );
}

/** By section where there are any, and by own columns that few values fill. */
function groupingsOf(course: Course): GroupBy[] {
  const columns = [...new Set(course.people.flatMap((p) => Object.keys(p.fields)))].map((name): GroupBy => ({
    of: 'field',
    name,
  }));
  const sections: GroupBy[] = course.people.some((p) => p.section !== null) ? [{ of: 'section' }] : [];
  return [...sections, ...columns.filter((by) => mayGroupBy(course, by))];
}

const NAMES: Readonly<Record<HindsightCell, string>> = {
  found: 'Found',
  missed: 'Missed',
  needless: 'Found, but did fine',
  leftAlone: 'Not found, did fine',
};
const MEANINGS: Readonly<Record<HindsightCell, string>> = {
  found: 'the rule found them, and you worry about them',
  missed: 'you worry about them, and the rule did not find them',
  needless: 'the rule found them, and you do not worry about them',
  leftAlone: 'the rule did not find them, and you do not worry about them',
};
const ROWS: readonly { readonly head: string; readonly cells: readonly HindsightCell[] }[] = [
  { head: 'The rule found them', cells: ['found', 'needless'] },
  { head: 'It did not', cells: ['missed', 'leftAlone'] },
];

const shareOr = (share: Proportion | null, none: string): string => (share === null ? none : rangedShareWords(share));

function Result(props: {
  readonly here: CourseHere;
  readonly answer: HindsightAnswer;
  readonly cell: HindsightCell;
  readonly onCell: (cell: HindsightCell) => void;
}) {
  const { here, cell, onCell } = props;
  const { hindsight: h } = props.answer;
  const students = h.students.filter((s) => cellOf(s) === cell);
  const title = NAMES[cell];
  const isFound = cell === 'found' || cell === 'needless';
  return (
    <div className="grid gap-4 min-[980px]:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
      <section aria-label="How well it finds them" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
        <h2 className="text-[17px] font-bold">How well it finds them</h2>
        <table aria-label="Students" className="mt-2 w-full text-[14.5px]">
          <thead className="text-[13px] text-ink-2">
            <tr>
              <td />
              <th scope="col" className="px-1 pb-1 text-left font-semibold">
                You worry about them
              </th>
              <th scope="col" className="px-1 pb-1 text-left font-semibold">
                They did fine
              </th>
            </tr>
          </thead>
          <tbody>
            {ROWS.map(({ head, cells }) => (
              <tr key={head}>
                <th scope="row" className="pr-3 text-left text-[13px] font-semibold text-ink-2">
                  {head}
                </th>
                {cells.map((c) => (
                  <td key={c} className="p-1">
                    <button
                      type="button"
                      aria-pressed={c === cell}
                      title={`Show the students: ${MEANINGS[c]}`}
                      onClick={() => onCell(c)}
                      className="flex w-full items-baseline gap-2 rounded-xl border border-line-strong px-3 py-1.5 text-left hover:border-ink aria-pressed:border-ink aria-pressed:bg-zest-area"
                    >
                      <span className="text-[24px] leading-tight font-bold tabular-nums">
                        {numberWords(h.counts[c])}
                      </span>
                      <span className="min-w-0 flex-1">{NAMES[c]}</span>
                      <ChevronRight size={15} aria-hidden className="self-center text-ink-3" />
                    </button>
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        <dl className="mt-3 grid gap-1 text-[14.5px]" data-testid="shares">
          <div>
            <dt className="inline text-ink-2">Share found: </dt>
            <dd className="inline font-semibold">{shareOr(h.shareFound, 'nobody to find')}</dd>
          </div>
          <div>
            <dt className="inline text-ink-2">Of those found, you worry about: </dt>
            <dd className="inline font-semibold">{shareOr(h.shareRight, 'the rule found nobody')}</dd>
          </div>
          <div>
            <dt className="inline text-ink-2">How early: </dt>
            <dd className="inline font-semibold">
              {h.leadDays === null
                ? 'nobody was found'
                : `${oneDecimal(h.leadDays.median)} days before (half of them between ${oneDecimal(h.leadDays.q1)} and ${oneDecimal(h.leadDays.q3)})`}
            </dd>
          </div>
        </dl>
        <p className="mt-2 text-[13.5px] text-ink-2">
          {plural(h.students.length, 'student')} counted
          {h.unknown > 0 && `; for ${h.unknown} more, the outcome is not known yet`}. A range is a 95% confidence
          interval.
        </p>
      </section>
      <section aria-label={title} className="rounded-[16px] border border-line bg-sheet px-5 py-4">
        <h2 className="text-[17px] font-bold">
          {title} <span className="text-[15px] text-ink-3 tabular-nums">{numberWords(students.length)}</span>
        </h2>
        <p className="text-[14px] text-ink-2">Students: {MEANINGS[cell]}.</p>
        <div
          tabIndex={0}
          role="region"
          aria-label={`Students: ${MEANINGS[cell]}`}
          className="mt-2 max-h-72 overflow-auto"
        >
          <table className="w-full text-[14.5px]">
            <thead className="text-left text-[13px] text-ink-2">
              <tr className="border-b border-line">
                <th scope="col" className="py-1 font-semibold">
                  Student
                </th>
                {isFound && (
                  <>
                    <th scope="col" className="py-1 font-semibold">
                      Found on
                    </th>
                    <th scope="col" className="py-1 text-right font-semibold">
                      Days before
                    </th>
                  </>
                )}
              </tr>
            </thead>
            <tbody>
              {students.map((s) => (
                <tr key={s.student} className="border-b border-line last:border-b-0">
                  <th scope="row" className="py-1 text-left">
                    <Link
                      to={studentPath(here, s.student)}
                      className="font-semibold underline-offset-4 hover:underline"
                    >
                      {nameOf(here, s.student)}
                    </Link>
                  </th>
                  {isFound && (
                    <>
                      <td className="py-1 text-ink-2">
                        {s.found === null ? '–' : dayWords(s.found, here.course.timeZone)}
                      </td>
                      <td className="py-1 text-right text-ink-2 tabular-nums">{s.leadDays ?? '–'}</td>
                    </>
                  )}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </section>
    </div>
  );
}
