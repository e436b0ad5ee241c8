/** The class as a whole: scores, submissions, activity, and what waits for a grade; each chart with its table. */
import { useMemo } from 'react';
import { Link } from 'react-router';
import { useHere } from '../../lib/here.ts';
import { useAsOf } from '../../lib/termMoment.ts';
import { useOverview } from '../../lib/useOverview.ts';
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
import { DoneCard } from './DoneCard.tsx';
import { StudentsPage } from './StudentsPage.tsx';

export function ClassPage() {
  const here = useHere();
  const at = useAsOf(here);
  const { course } = here;
  const answer = useOverview(here, at);
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
  if (answer.error)
    return (
      <StudentsPage here={here} tab="/class">
        <Failed error={answer.error} retry={() => void answer.refetch()} />
      </StudentsPage>
    );
  const quiet = data && data.days.every((d) => d.events === 0) && data.scores.length === 0;
  return (
    <StudentsPage here={here} tab="/class" lead="Scores, work and activity of the whole class.">
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
        <div className="grid grid-cols-1 items-start gap-4 min-[980px]:grid-cols-2">
          {/* Two columns of cards of any height, the first two side by side. */}
          {[0, 1].map((column) => (
            <div key={column} className="grid min-w-0 gap-4">
              {column === 0 && data && <DoneCard here={here} done={data.done} />}
              {charts
                .filter((_, i) => i % 2 === column)
                .map((chart) => (
                  <ChartCard key={chart.title} {...chart} fileName={`${course.code} ${chart.title.toLowerCase()}`} />
                ))}
            </div>
          ))}
        </div>
      )}
    </StudentsPage>
  );
}
