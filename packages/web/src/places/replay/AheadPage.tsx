/** The coming rounds: what they would send if nobody does anything more, and if students go on as they did. */
import { useQuery } from '@tanstack/react-query';
import { Link, useSearchParams } from 'react-router';
import { dateOf, dateWords, oneDecimal, plural } from '@zest-bell/core/time';
import { MANY_A_WEEK, type Noise } from '@zest-bell/core/rounds';
import { isWrittenTo } from '@zest-bell/core/outcomes';
import type { AheadCase, ComingAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { nameOf, studentPath, useHere, type CourseHere } from '../../lib/here.ts';
import { ChartCard, type ChartCardProps } from '../../parts/charts/ChartCard.tsx';
import { base, names, values, type ChartStyle } from '../../parts/charts/look.ts';
import { Segments } from '../../ui/Segments.tsx';
import { PlainTable } from '../../ui/PlainTable.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { ReplayTabPage } from './ReplayTabPage.tsx';
import { TotalsTable } from './Totals.tsx';

const SPANS = [7, 14, 28] as const;
const SPAN_WORDS = { 7: 'Seven days', 14: 'Two weeks', 28: 'Four weeks' } as const;
const STILL = 'If nobody does anything more';
const REPEATED = 'If everyone’s last 14 days repeat';

export function AheadPage() {
  const here = useHere();
  const [params, setParams] = useSearchParams();
  const days = SPANS.find((d) => String(d) === params.get('days')) ?? 7;
  const coming = useQuery({
    queryKey: ['coming', here.id, here.answer.version, here.now, days],
    queryFn: ({ signal }) => ask(contract.rounds.ahead, { course: here.id }, { signal, query: { days } }),
  });
  return (
    <ReplayTabPage
      here={here}
      tab="/ahead"
      filters={
        <>
          <Segments
            label="Look ahead"
            value={days}
            segments={SPANS.map((d) => ({ value: d, words: SPAN_WORDS[d] }))}
            onChange={(d) => setParams({ days: String(d) }, { replace: true })}
          />
        </>
      }
    >
      {coming.isError ? (
        <Failed error={coming.error} retry={() => void coming.refetch()} />
      ) : !coming.data ? (
        <Loading what="the coming checks" />
      ) : coming.data.rules.every((r) => r.rounds === 0) ? (
        <Empty title="No checks in this time">No rule that is on runs in these days. Turn on a rule in Rules.</Empty>
      ) : (
        <Coming here={here} coming={coming.data} />
      )}
    </ReplayTabPage>
  );
}

function Coming({ here, coming }: { readonly here: CourseHere; readonly coming: ComingAnswer }) {
  const { still, repeated, rules } = coming;
  return (
    <>
      <section
        aria-label="Is the coming week too noisy?"
        className="rounded-[16px] bg-zest-soft px-5 py-3.5 text-[15px]"
      >
        <h2 className="text-[17px] font-bold">Is the coming week too noisy?</h2>
        <ul className="mt-1 grid gap-1">
          <li>
            <strong>{STILL}:</strong> {noiseWords(here, still.noise)}
          </li>
          <li>
            <strong>{REPEATED}:</strong> {noiseWords(here, repeated.noise)}
          </li>
        </ul>
        {[still, repeated].some((c) => c.noise.verdict === 'louder' || c.noise.verdict === 'tooMany') && (
          <p className="mt-1">
            Raise a threshold, run a rule less often, or{' '}
            <Link className="font-semibold text-pine underline" to={`/c/${here.id}/course`}>
              set a message budget
            </Link>
            .
          </p>
        )}
      </section>
      <section aria-label="Two cases" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
        <h2 className="text-[17px] font-bold">
          {dateWords(dayOf(here, coming.from))} to {dateWords(dayOf(here, coming.until))}
        </h2>
        <p className="mb-1 text-[14px] text-ink-2">
          Nobody knows what students will do. These are two cases, not a forecast. In the second, visits, pages,
          practice and posts come again as in the last 14 days, and work is turned in as early or late as before. Grades
          stay as they are.
        </p>
        <TotalsTable
          here={here}
          label="Totals"
          columns={[
            { name: STILL, seen: still },
            { name: REPEATED, seen: repeated },
          ]}
        />
      </section>
      <ChartCard {...comingChart(still, repeated)} fileName={`${here.course.code} ahead`} />
      <div className="grid grid-cols-[minmax(0,1fr)] gap-4 min-[900px]:grid-cols-2">
        <section aria-label="Rule by rule" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
          <h2 className="text-[17px] font-bold">Rule by rule</h2>
          <PlainTable
            columns={[
              { name: 'Rule' },
              { name: 'Checks', right: true },
              { name: 'Nobody acts', right: true },
              { name: 'Days repeat', right: true },
            ]}
            rows={rules.map((r) => ({
              key: r.id,
              head: (
                <>
                  <Link
                    className="underline-offset-4 hover:underline"
                    to={`/c/${here.id}/replay?rule=${encodeURIComponent(r.id)}`}
                  >
                    {r.name}
                  </Link>
                  {r.alerts && <span className="text-[13px] text-ink-3"> alerts, not to students</span>}
                </>
              ),
              cells: [r.rounds, r.still, r.repeated],
            }))}
          />
        </section>
        <MostNudged here={here} still={still} repeated={repeated} />
      </div>
    </>
  );
}

const dayOf = (here: CourseHere, t: number): string => dateOf(here.course.calendar.dayNumber(t));

function noiseWords(here: CourseHere, { verdict, nudges, usual, weeks, many }: Noise): string {
  const before = usual === null ? '' : `, against ${oneDecimal(usual)} a week in the last ${plural(weeks, 'week')}`;
  const all = `${plural(nudges, 'nudge')} in the next seven days${before}.`;
  switch (verdict) {
    case 'silent':
      return 'no nudge in the next seven days.';
    case 'usual':
      return `not too noisy. ${all} No student gets ${MANY_A_WEEK} or more.`;
    case 'louder':
      return `louder than usual. ${all}`;
    case 'tooMany': {
      const names = many.slice(0, 3).map((s) => nameOf(here, s));
      const more = many.length > 3 ? ` and ${many.length - 3} more` : '';
      return `too much for ${plural(many.length, 'student')}: ${names.join('; ')}${more} would get ${MANY_A_WEEK} or more. ${all}`;
    }
  }
}

/** Students that are listed; nobody reads more. */
const MOST_ROWS = 200;

function MostNudged(props: { readonly here: CourseHere; readonly still: AheadCase; readonly repeated: AheadCase }) {
  const { here, still, repeated } = props;
  const count = ({ students }: AheadCase) =>
    new Map(students.map((s) => [s.student, s.marks.filter(isWrittenTo).length] as const));
  const [a, b] = [count(still), count(repeated)];
  const most = [...new Set([...a.keys(), ...b.keys()])]
    .map((student) => ({ student, still: a.get(student) ?? 0, repeated: b.get(student) ?? 0 }))
    .filter((s) => s.still + s.repeated > 0)
    .sort((x, y) => y.still - x.still || y.repeated - x.repeated);
  return (
    <section aria-label="Student by student" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[17px] font-bold">Student by student</h2>
      {most.length === 0 ? (
        <p className="text-ink-2">Nobody would be nudged.</p>
      ) : (
        <div className="max-h-80 overflow-auto" tabIndex={0} role="region" aria-label="Students who would be nudged">
          <PlainTable
            columns={[{ name: 'Student' }, { name: 'Nobody acts', right: true }, { name: 'Days repeat', right: true }]}
            rows={most.slice(0, MOST_ROWS).map((s) => ({
              key: s.student,
              head: (
                <Link className="underline-offset-4 hover:underline" to={studentPath(here, s.student)}>
                  {nameOf(here, s.student)}
                </Link>
              ),
              cells: [s.still, s.repeated],
            }))}
          />
        </div>
      )}
    </section>
  );
}

/** Nudges a day in both cases, sent or waiting. */
function comingChart(still: AheadCase, repeated: AheadCase): Omit<ChartCardProps, 'fileName'> {
  const days = [...new Set([...still.days, ...repeated.days].map((d) => d.day))].sort();
  const of = ({ days: told }: AheadCase) => {
    const byDay = new Map(told.map((d) => [d.day, d.nudges + d.held]));
    return days.map((d) => byDay.get(d) ?? 0);
  };
  const [a, b] = [of(still), of(repeated)];
  const busiest = still.busiest;
  const says = busiest
    ? `If nobody acts, most on ${dateWords(busiest.day)}: ${plural(busiest.nudges, 'nudge')}.`
    : 'If nobody acts, no day has a nudge.';
  const bar = (name: string, color: string, data: readonly number[]) => ({
    type: 'bar' as const,
    name,
    barCategoryGap: '35%',
    data: [...data],
    itemStyle: { color },
  });
  return {
    title: 'Day by day',
    says,
    height: 220,
    option: (look: ChartStyle) => ({
      ...base(look, says),
      xAxis: names(look, days.map(dateWords)),
      yAxis: values(look, { minInterval: 1 }),
      series: [bar('nobody acts', look.pine, a), bar('days repeat', look.brass, b)],
      tooltip: { ...base(look, says).tooltip, trigger: 'axis' },
    }),
    table: { columns: ['Day', STILL, REPEATED], rows: days.map((d, i) => [d, a[i]!, b[i]!]) },
  };
}
