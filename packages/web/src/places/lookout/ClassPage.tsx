/** The class as a whole: scores, submissions, activity, and what waits for a grade; each chart with its table. */
import { useMemo } from 'react';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { useHere } from '../../lib/here.ts';
import { useAsOf } from '../../lib/termMoment.ts';
import { ChartCard } from '../../parts/charts/ChartCard.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { LastSeenNote } from '../../parts/common/LastSeenNote.tsx';
import { AsOfNote } from './AsOfNote.tsx';
import {
  daysChart,
  hoursChart,
  scoresChart,
  submissionsChart,
  timingChart,
  waitingChart,
  weeksChart,
} from './classCharts.ts';
import { LookoutTabs } from './LookoutTabs.tsx';

export function ClassPage() {
  const here = useHere();
  const at = useAsOf(here);
  const { course } = here;
  const answer = useQuery({
    queryKey: ['overview', here.id, here.answer.version, here.now, at],
    queryFn: () => ask(contract.desk.overview, { course: here.id }, { query: { at } }),
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
  const { data } = answer;
  const charts = useMemo(
    () =>
      data && [
        scoresChart(data, course),
        submissionsChart(data, course),
        // Without a record of visits, these would show when work came in, under the name of all activity.
        ...(here.answer.presence === 'lastSeen' ? [] : [weeksChart(data), daysChart(data, course), hoursChart(data)]),
        waitingChart(data, course),
        timingChart(data),
      ],
    [data, course, here.answer.presence],
  );
  if (answer.error) return <Failed error={answer.error} retry={() => void answer.refetch()} />;
  const quiet = data && data.days.every((d) => d.events === 0) && data.scores.length === 0;
  return (
    <div className="px-5 pt-4 pb-6">
      <LookoutTabs here={here} />
      <h1 className="sr-only">Class overview</h1>
      <AsOfNote here={here} />
      <LastSeenNote here={here} />
      {!charts ? (
        <Loading what="the class" />
      ) : quiet ? (
        <Empty title="No activity yet">
          Charts appear here once students are active.{' '}
          <Link className="font-semibold text-pine underline" to={`/c/${here.id}/course/data`}>
            Bring data in
          </Link>
        </Empty>
      ) : (
        <div className="mt-3 grid grid-cols-1 gap-4 min-[980px]:grid-cols-2">
          {charts.map((chart) => (
            <ChartCard key={chart.title} {...chart} fileName={`${course.code} ${chart.title.toLowerCase()}`} />
          ))}
        </div>
      )}
    </div>
  );
}
